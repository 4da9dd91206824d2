import { cut } from '@just-balance/contract';
import {
  capturePoint,
  FREE_START,
  type FreeState,
  flagsOf,
  freeStatus,
  GUIDED_START,
  type GuidedEvent,
  type GuidedSetup,
  type GuidedState,
  type GuidedStatus,
  guide,
  guidedSetup,
  guidedStatus,
  readingOf,
  record,
  windowOf,
} from '@just-balance/core/capture';
import { stationPressure } from '@just-balance/core/expected';
import type { Transaction } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { type Author, appendEvent } from '../jobs/events.ts';
import { readHead, readVehicle } from '../jobs/stored.ts';
import { Capture } from '../rows/captures.ts';
import { type Job } from '../rows/jobs.ts';
import { ReadingRow } from '../rows/readings.ts';
import { Vehicle } from '../rows/vehicles.ts';

/** What a capture is of and where it stands: at an operating point, or everything until it is stopped. */
export type Run = { setup: GuidedSetup; state: GuidedState } | { setup: null; state: FreeState };

/** A capture as it begins. */
export async function runOf(job: Job, row: Capture): Promise<Run> {
  const vehicle = readVehicle((await Vehicle.findOne({ where: { id: job.vehicleId, shopId: job.shopId } }))!).value;
  const point = capturePoint(row.at);
  if (!point) return { setup: null, state: FREE_START };
  const { baroKPa } = stationPressure(readHead(job).ambient);
  const metered = vehicle.metering !== 'speed-density';
  return {
    setup: guidedSetup(point, { banks: vehicle.banks ?? 1, metered, fuel: vehicle.fuel, baroKPa }),
    state: GUIDED_START,
  };
}

/** A capture takes what happened to it. Of a free recording only samples matter. */
export function follow(run: Run, event: GuidedEvent): Run {
  if (run.setup) return { ...run, state: guide(run.setup, run.state, event)[0] };
  return event.kind === 'samples' ? { ...run, state: record(run.state, event.samples) } : run;
}

export function statusOfRun(run: Run): GuidedStatus {
  return run.setup ? guidedStatus(run.setup, run.state) : freeStatus(run.state);
}

/** Store a guided capture's reading and close the capture, in one transaction; nothing where it is closed already. */
export async function keepReading(
  who: Author,
  row: Capture,
  run: Extract<Run, { setup: GuidedSetup }>,
  how: { state: 'running' | 'receiving'; doubtful: string | null; wallMs: (atUs: number) => number },
  transaction: Transaction,
): Promise<{ captureId: string } | undefined> {
  const flags = cut([how.doubtful, ...flagsOf(run.setup, run.state)].filter(Boolean).join('; '), 200);
  const open = windowOf(run.state);
  const window = open ? { window: { fromMs: how.wallMs(open.fromS * 1e6), toMs: how.wallMs(open.toS * 1e6) } } : {};
  const [n] = await Capture.update(
    { state: 'done', endedAt: new Date(), command: null, meta: { ...row.meta, ...window } },
    { where: { id: row.id, shopId: row.shopId, state: how.state }, transaction },
  );
  if (n === 0) return undefined;
  await ReadingRow.create(
    {
      id: uuidv7(),
      shopId: row.shopId,
      jobId: row.jobId,
      rev: 1,
      phase: row.phase,
      source: 'capture',
      captureId: row.id,
      doubtful: flags || null,
      data: readingOf(run.setup, run.state),
    },
    { transaction },
  );
  const data = { at: row.at, phase: row.phase, source: 'capture', captureId: row.id };
  await appendEvent(who, row.jobId, 'reading', data, transaction);
  return { captureId: row.id };
}
