import { type WholeJob } from '@just-balance/contract';
import { type Transaction } from 'sequelize';
import { Job, JobEvent, StoredDiagnosisRow } from '../rows/jobs.ts';
import { OLDEST_FIRST } from '../rows/order.ts';
import { Photo } from '../rows/photos.ts';
import { partsOf, testsOf } from './parts.ts';
import {
  captureViews,
  cautionViews,
  diagnosisView,
  entryView,
  knownViews,
  photoView,
  readingView,
  recordView,
  repairView,
  runView,
} from './rowViews.ts';
import { keptSummary, summaryView, summed } from './summaries.ts';

/** Everything a job holds, for its export, as it stood at one moment: see `Work.read`. */
export async function wholeJob(job: Job, transaction: Transaction): Promise<WholeJob> {
  const parts = await partsOf(job, transaction);
  const rows = { where: { shopId: job.shopId, jobId: job.id }, order: OLDEST_FIRST, transaction };
  const events = await JobEvent.findAll(rows);
  const diagnoses = await StoredDiagnosisRow.findAll(rows);
  const known = await knownViews(parts.vehicle, parts.damage, transaction);
  const captures = await captureViews(job.shopId, job.id, transaction);
  const photos = await Photo.findAll({ ...rows, attributes: { exclude: ['image', 'small'] } });
  return {
    ...summaryView(job, parts.vehicle, keptSummary(job) ?? summed(job, parts)),
    records: parts.records.map(recordView),
    readings: parts.readings.map(readingView),
    tests: testsOf(parts),
    repairs: parts.repairs.map(repairView),
    captures,
    runs: parts.runs.map(runView),
    entries: parts.entries.map(entryView),
    photos: photos.map(photoView),
    known,
    cautions: cautionViews(events),
    diagnoses: diagnoses.map(diagnosisView),
    events: events.map((e) => ({ id: e.id, at: e.createdAt.toISOString(), by: e.by, kind: e.kind, data: e.data })),
    damaged: parts.damage,
  };
}
