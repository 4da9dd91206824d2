import { type JobListItem, type JobSummary } from '@just-balance/contract';
import { type HandOverJob, provenHere } from '@just-balance/core/handOver';
import { type ProofJudgement } from '@just-balance/core/proof';
import { ordersOf, waitsOf } from '@just-balance/core/shop';
import { standingOf } from '@just-balance/core/standing';
import { isoOf } from '@just-balance/core/time';
import { Job, type StoredSummary } from '../rows/jobs.ts';
import { Vehicle } from '../rows/vehicles.ts';
import { handOverJobOf, handsOf, type JobParts } from './parts.ts';
import { vehicleView } from './rowViews.ts';
import { readHead, readVehicle } from './stored.ts';

/** What is kept with the job for the board. */
export function storedSummary(job: HandOverJob, parts: JobParts, proof: ProofJudgement | null): StoredSummary {
  const first = parts.diagnosis?.output.causes[0];
  const points = (phase: string) => new Set(parts.readings.filter((r) => r.phase === phase).map((r) => r.data.at)).size;
  const vehicle = readVehicle(parts.vehicle).value;
  return {
    label: vehicle.label,
    note: vehicle.note ?? null,
    plate: vehicle.plate ?? null,
    counts: {
      records: parts.records.length,
      recordsAfter: parts.records.filter((r) => r.data.phase === 'after').length,
      before: points('before'),
      after: points('after'),
      tests: job.tests.filter((t) => !t.undone).length,
      repairs: parts.repairs.filter((r) => !r.undone).length,
    },
    leading: first ? { fault: first.fault, probability: first.probability } : null,
    standing: standingOf(job, proof),
    waits:
      job.status === 'closed' ? waitsOf(job).filter((w) => w.for === 'trip' || w.for === 'look-again') : waitsOf(job),
    hands: handsOf(parts),
    orders: ordersOf(job).map(({ atMs, ...o }) => ({ ...o, at: isoOf(atMs / 1000) })),
  };
}

/** Of a job whose summary was not kept yet, or by an earlier version. What the logbook found stays. */
export function summed(job: Job, parts: JobParts): StoredSummary {
  const whole = handOverJobOf(job, parts);
  const found = job.summary?.found;
  return { ...storedSummary(whole, parts, provenHere(whole, {})), ...(found ? { found } : {}) };
}

/** What was kept with the job; null where an earlier version kept something else. */
export function keptSummary(job: Pick<Job, 'summary'>): StoredSummary | null {
  // Of a row from before it said where the job stands.
  const { summary } = job as { summary: Partial<StoredSummary> | null };
  return summary?.standing ? (summary as StoredSummary) : null;
}

/** What a list shows of where a job stands. */
const fromStanding = ({ standing: { worst, work, proof } }: Pick<StoredSummary, 'standing'>) => ({
  worst,
  work,
  verdict: proof?.verdict ?? null,
});

/** What a list reads of a job's row: as it is, without an instance around each. */
export const LISTED = [
  'id',
  'rev',
  'status',
  'createdAt',
  'openedBy',
  'practice',
  'vehicleId',
  'complaint',
  'ambient',
  'summary',
] as const;

export type ListedJob = Pick<Job, (typeof LISTED)[number]>;

/** A row of the board, from the job's own row alone. */
export function listItem(job: ListedJob, { found: _, orders: __, ...summary }: StoredSummary): JobListItem {
  const { complaint, damage } = readHead(job);
  return {
    id: job.id,
    rev: job.rev,
    status: job.status,
    symptom: complaint.symptoms[0] ?? null,
    openedAt: job.createdAt.toISOString(),
    openedBy: job.openedBy,
    damaged: damage.length > 0,
    ...summary,
    plate: summary.plate ?? null,
    ...fromStanding(summary),
    // 0 or 1 where the row was read as it is.
    practice: Boolean(job.practice),
  };
}

export function summaryView(job: Job, vehicle: Vehicle, stored: StoredSummary): JobSummary {
  const { complaint, ambient } = readHead(job);
  const { label, note, plate, found, orders, ...summary } = stored;
  return {
    id: job.id,
    rev: job.rev,
    status: job.status,
    vehicle: vehicleView(vehicle),
    complaint,
    ambient,
    adapter: job.adapter,
    openedAt: job.createdAt.toISOString(),
    openedBy: job.openedBy,
    imported: job.importedAt && { by: job.importedBy ?? '', at: job.importedAt.toISOString() },
    ...summary,
    ...fromStanding(summary),
    practice: job.practice,
  };
}
