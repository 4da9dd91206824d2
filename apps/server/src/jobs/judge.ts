import type { ValueEntry } from '@just-balance/contract/service';
import type { Case } from '@just-balance/core/case';
import { CORE_VERSION, diagnose, type Settings } from '@just-balance/core/diagnosis';
import type { KnownFigure } from '@just-balance/core/expected';
import { caseOfJob } from '@just-balance/core/job';
import type { Logger } from 'pino';
import type { Transaction } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { type Job, StoredDiagnosisRow } from '../rows/jobs.ts';
import { type Author, appendEvent } from './events.ts';
import { type JobParts, testsOf } from './parts.ts';
import { knownViews } from './rowViews.ts';
import { readHead, readVehicle } from './stored.ts';

/** The job as a case, from its rows. */
export function caseOfParts(job: Job, parts: JobParts): Case {
  const head = readHead(job);
  return caseOfJob({
    id: job.id,
    vehicle: readVehicle(parts.vehicle).value,
    ambient: head.ambient,
    complaint: head.complaint,
    records: parts.records.map((r) => r.data),
    readings: parts.readings.map((r) => ({ phase: r.phase, reading: r.data })),
    tests: testsOf(parts),
    values: parts.entries.flatMap((e) => (e.kind === 'value' && !e.undone ? [e.data as ValueEntry] : [])),
  });
}

/**
 * Weigh the job as it stands, with the same core as the screen, and keep input, settings, core version and output
 * where the judgement has changed. Part of the transaction that changed the job: what is kept never misses a result.
 */
export async function judge(
  who: Author,
  job: Job,
  parts: JobParts,
  shop: Settings,
  transaction: Transaction,
  log: Logger,
): Promise<StoredDiagnosisRow | null> {
  const input = caseOfParts(job, parts);
  const last = parts.diagnosis;
  if ((input.readings?.length ?? 0) + (input.tests?.length ?? 0) === 0) return last;
  const known = await knownViews(parts.vehicle, [], transaction);
  // What stands on papers, and what an hour costs, is no part of a judgement, and is not kept with each.
  const { letterhead: _, labour: __, place: ___, ...weighed } = shop;
  const settings: Settings = known.length > 0 ? { ...weighed, known: known.map(figureOf) } : weighed;
  const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);
  if (last && last.coreVersion === CORE_VERSION && same(last.input, input) && same(last.settings, settings))
    return last;
  let output: ReturnType<typeof diagnose>;
  try {
    output = diagnose(input, settings);
  } catch (e) {
    // What was entered is kept all the same; the screen says that it could not be weighed.
    log.error({ jobId: job.id, reason: (e as Error).name }, 'job not weighed');
    return last;
  }
  if (last && last.coreVersion === CORE_VERSION && same(last.output, output)) return last;
  const row = await StoredDiagnosisRow.create(
    { id: uuidv7(), shopId: job.shopId, jobId: job.id, coreVersion: CORE_VERSION, input, settings, output },
    { transaction },
  );
  const first = output.causes[0];
  await appendEvent(
    who,
    job.id,
    'diagnosis',
    { mixture: output.mixture, fault: first?.fault, probability: first?.probability },
    transaction,
  );
  return row;
}

/** What of a known figure is weighed; who entered it and when changes no judgement. */
function figureOf({ layer, at, quantity, low, high, source, baroKPa }: KnownFigure): KnownFigure {
  return { layer, at, quantity, low, high, source, ...(baroKPa === undefined ? {} : { baroKPa }) };
}
