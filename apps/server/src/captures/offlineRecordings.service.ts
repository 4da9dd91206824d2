import {
  FREE,
  type OfflineAnswer,
  type OfflineCaptureRequest,
  type OfflineEndRequest,
  type OfflineSecondsRequest,
} from '@just-balance/contract';
import { MOST_BUS_BYTES, type TimedFrame } from '@just-balance/core/can';
import { followRun, runStatus } from '@just-balance/core/capture';
import { unpackSecond } from '@just-balance/core/link';
import { ConflictException, Injectable } from '@nestjs/common';
import { UniqueConstraintError } from 'sequelize';
import { badFields, conflict, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { appendEvent } from '../jobs/events.ts';
import { JobWrites } from '../jobs/write.ts';
import { bytesOnTheBus, framesOfDevice, storedFrames } from '../recordings/onTheBus.ts';
import { RecordingsService } from '../recordings/recordings.service.ts';
import { Capture, CaptureFrames, CaptureRow } from '../rows/captures.ts';
import { type Job } from '../rows/jobs.ts';
import { keepReading, runOf } from './runs.ts';

/** Seconds of a browser's link have no lease: their epoch. */
const EPOCH = 0;
/** Three and a half hours at a second each is a long drive; this is four times that. [house] */
const MOST_SECONDS = 50_000;

/**
 * Captures that a browser's own link recorded where the shop's network does not reach. They come up in numbered chunks,
 * each acknowledged once it is committed; the same again changes nothing. What they amount to is worked out here, with
 * the same guided capture, from the seconds that are in.
 */
@Injectable()
export class OfflineRecordingsService {
  constructor(
    private readonly jobs: JobWrites,
    private readonly recordings: RecordingsService,
  ) {}

  async begin(who: Actor, job: Job, body: OfflineCaptureRequest): Promise<OfflineAnswer> {
    const before = await Capture.findByPk(body.id);
    if (before) {
      if (before.shopId !== who.shopId || before.jobId !== job.id) throw conflict('this id', null);
      return { committed: await this.count(before) };
    }
    await this.jobs.write(
      who,
      job.id,
      async (_, transaction) => {
        await Capture.create(
          {
            id: body.id,
            shopId: who.shopId,
            jobId: job.id,
            at: body.at,
            phase: body.phase,
            state: 'receiving',
            source: 'link',
            gaps: 0,
            endedAt: null,
            meta: null,
          },
          { transaction },
        );
        const data = { captureId: body.id, at: body.at, phase: body.phase };
        await appendEvent(who, job.id, 'capture-started', data, transaction);
        return { captureId: body.id };
      },
      { evenClosed: true },
    );
    return { committed: 0 };
  }

  async take(who: Actor, job: Job, captureId: string, body: OfflineSecondsRequest): Promise<OfflineAnswer> {
    const row = await this.find(who, job, captureId);
    const there = await this.count(row);
    // Ended: whatever comes again is in already.
    if (row.state !== 'receiving') return { committed: there };
    if (body.from > there)
      throw new ConflictException({
        statusCode: 409,
        message: `seconds ${there} to ${body.from - 1} have not come up yet: send from ${there} on`,
      });
    if (body.from + body.seconds.length > MOST_SECONDS)
      throw new ConflictException({ statusCode: 409, message: `a capture holds at most ${MOST_SECONDS} seconds` });
    const fresh = body.seconds.slice(there - body.from);
    if (fresh.length === 0) return { committed: there };
    const whose = { captureId, epoch: EPOCH, shopId: who.shopId };
    const bus = await this.busOf(body, fresh, there);
    try {
      await CaptureRow.sequelize!.transaction(async (transaction) => {
        await CaptureRow.bulkCreate(
          fresh.map((s, i) => ({ ...whose, seq: there + i, atMs: s.atMs, data: s.data })),
          { transaction },
        );
        if (bus.length === 0) return;
        let bytes = await bytesOnTheBus(captureId, transaction);
        for (const { seq, frames, lost } of bus) {
          // Beyond what is kept one stands for all: with it how many there were.
          const kept = bytes < MOST_BUS_BYTES ? frames : frames.slice(0, 1);
          const row = await storedFrames(kept, kept[0]!.atUs / 1000);
          bytes += row.data.length;
          await CaptureFrames.create(
            { ...whose, seq, ...row, lost: lost + frames.length - kept.length },
            { transaction },
          );
        }
      });
    } catch (e) {
      // Two at once: one of them wrote these rows, whole.
      if (!(e instanceof UniqueConstraintError)) throw e;
    }
    return { committed: await this.count(row) };
  }

  /** What was on the bus in the seconds that are new. */
  private async busOf(body: OfflineSecondsRequest, fresh: OfflineSecondsRequest['seconds'], there: number) {
    const out: { seq: number; frames: TimedFrame[]; lost: number }[] = [];
    for (const [i, { atMs, bus }] of fresh.entries()) {
      if (!bus) continue;
      const frames = await framesOfDevice(Buffer.from(bus.frames, 'base64'), atMs);
      const field = `seconds[${body.seconds.length - fresh.length + i}].bus.frames`;
      if (!frames) throw badFields([{ field, message: 'no frames of this second, packed and deflated' }]);
      out.push({ seq: there + i, frames, lost: bus.lost });
    }
    return out;
  }

  async end(who: Actor, job: Job, captureId: string, body: OfflineEndRequest): Promise<OfflineAnswer> {
    const row = await this.find(who, job, captureId);
    const committed = await this.count(row);
    if (row.state !== 'receiving') return { committed };
    if (committed < body.seconds)
      throw new ConflictException({
        statusCode: 409,
        message: `${committed} of ${body.seconds} seconds are up: send the rest first`,
      });
    const { run, doubtful } = await this.replay(job, row, body);
    const aside = body.setAside ? { setAside: body.setAside } : {};
    const how = { state: 'receiving', ...aside } as const;
    await this.jobs.write(
      who,
      job.id,
      async (_, transaction) => {
        if (run.setup && doubtful !== undefined)
          return keepReading(who, row, run, { ...how, doubtful, wallMs: (us) => us / 1000 }, transaction);
        const [n] = await Capture.update(
          { state: row.at === FREE ? 'done' : 'stopped', endedAt: new Date(), meta: { ...row.meta, ...aside } },
          { where: { id: row.id, shopId: row.shopId, state: 'receiving' }, transaction },
        );
        if (n === 0) return undefined;
        await appendEvent(who, job.id, 'capture-stopped', { captureId }, transaction);
        return { captureId };
      },
      { evenClosed: true },
    );
    await this.recordings.compact(row.shopId, row.id);
    return { committed };
  }

  /** The capture again, from its committed seconds. `doubtful`: undefined where no reading is to be kept. */
  private async replay(job: Job, row: Capture, body: OfflineEndRequest) {
    let run = await runOf(job, row);
    if (!run.setup) return { run, doubtful: undefined };
    const rows = await CaptureRow.findAll({
      where: { captureId: row.id, shopId: row.shopId },
      order: [['seq', 'ASC']],
    });
    for (const [i, r] of rows.entries()) {
      for (const e of body.events) if (e.after === i) run = followRun(run, { kind: e.kind });
      run = followRun(run, { kind: 'samples', samples: unpackSecond({ atMs: Number(r.atMs), data: r.data }) });
    }
    const status = runStatus(run);
    if (status.state === 'done') return { run, doubtful: null };
    return {
      run,
      doubtful: body.how === 'keep-doubtful' ? (status.reason ?? 'kept before the window was complete') : undefined,
    };
  }

  private async find(who: Actor, job: Job, captureId: string): Promise<Capture> {
    const row = await Capture.findOne({ where: { id: captureId, jobId: job.id, shopId: who.shopId, source: 'link' } });
    if (!row) throw notHere('capture');
    return row;
  }

  /** Seconds committed; those of a compacted capture are counted in its description. */
  private async count(row: Capture): Promise<number> {
    const { seconds } = (await Capture.findByPk(row.id))?.meta ?? {};
    return seconds ?? CaptureRow.count({ where: { captureId: row.id, shopId: row.shopId } });
  }
}
