import { cut } from '@just-balance/contract';
import { beginRun, type CaptureRun, flagsOf, type GuidedRun, readingOf, windowOf } from '@just-balance/core/capture';
import type { SetAside } from '@just-balance/core/link';
import type { Transaction } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { type Author, appendEvent } from '../jobs/events.ts';
import { readHead, readVehicle } from '../jobs/stored.ts';
import { Capture } from '../rows/captures.ts';
import { type Job } from '../rows/jobs.ts';
import { ReadingRow } from '../rows/readings.ts';
import { Vehicle } from '../rows/vehicles.ts';

/** A capture of a job as it begins, with what its vehicle's card and its surroundings say now. */
export async function runOf(job: Job, row: Capture): Promise<CaptureRun> {
  const vehicle = readVehicle((await Vehicle.findOne({ where: { id: job.vehicleId, shopId: job.shopId } }))!).value;
  return beginRun(row.at, { vehicle, ambient: readHead(job).ambient });
}

/** Store a guided capture's reading and close the capture, in one transaction; nothing where it is closed already. */
export async function keepReading(
  who: Author,
  row: Capture,
  run: GuidedRun,
  how: {
    state: 'running' | 'receiving';
    doubtful: string | null;
    wallMs: (atUs: number) => number;
    setAside?: SetAside;
  },
  transaction: Transaction,
): Promise<{ captureId: string } | undefined> {
  const flags = cut([how.doubtful, ...flagsOf(run.setup, run.state)].filter(Boolean).join('; '), 200);
  const open = windowOf(run.state);
  const window = open ? { window: { fromMs: how.wallMs(open.fromS * 1e6), toMs: how.wallMs(open.toS * 1e6) } } : {};
  const [n] = await Capture.update(
    {
      state: 'done',
      endedAt: new Date(),
      command: null,
      meta: { ...row.meta, ...window, ...(how.setAside ? { setAside: how.setAside } : {}) },
    },
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
