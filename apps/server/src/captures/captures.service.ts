import { type CaptureCommand, type CaptureStatus, FREE, type NewCaptureRequest } from '@just-balance/contract';
import { capturePoint, FreeRecording, GuidedCapture, type GuidedStatus } from '@just-balance/core/capture';
import { stationPressure } from '@just-balance/core/expected';
import { PLANS, type PollingPlan, planAlone, type Sample } from '@just-balance/core/link';
import {
  BadRequestException,
  ConflictException,
  Inject,
  Injectable,
  type OnApplicationBootstrap,
  type OnModuleDestroy,
} from '@nestjs/common';
import type { Logger } from 'pino';
import { type Sequelize, UniqueConstraintError } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { SEQUELIZE } from '../database/connect.ts';
import { Capture, CaptureRow, Job, ReadingRow, Vehicle } from '../database/models.ts';
import { appendEvent } from '../jobs/events.ts';
import { LinksService } from '../links/links.service.ts';
import { Live } from '../live/live.service.ts';
import { LOGGER } from '../logger.ts';
import { RecordingsService } from './recordings.service.ts';

interface Running {
  row: Capture;
  who: Pick<Actor, 'shopId' | 'name'> & { accountId: string | null };
  guided: GuidedCapture | FreeRecording;
  seq: number;
  /** Committed seconds, and the newest of them: it comes again when closing the capture failed after it. */
  kept: { seconds: number; last: Sample[] | null };
  status: CaptureStatus;
  paused: boolean;
}

const RESUME_TRIES = 30;
const RESUME_EVERY_MS = 1000;

/**
 * Guided captures. The server owns the record: every second is committed before it is shown or counted; after a
 * restart a running capture goes on under a new epoch, the gap marked.
 */
@Injectable()
export class CapturesService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly running = new Map<string, Running>();
  private stopping = false;

  constructor(
    @Inject(LinksService) private readonly links: LinksService,
    @Inject(Live) private readonly live: Live,
    @Inject(SEQUELIZE) private readonly db: Sequelize,
    @Inject(RecordingsService) private readonly recordings: RecordingsService,
    @Inject(LOGGER) private readonly log: Logger,
  ) {}

  /** Captures that ran when the server went down go on; a start does not wait for them. */
  async onApplicationBootstrap(): Promise<void> {
    for (const row of await Capture.findAll({ where: { state: 'running' } })) void this.resume(row);
  }

  /** The lease of the server that died may still run: tried until it has expired. */
  private async resume(row: Capture): Promise<void> {
    const who = { shopId: row.shopId, name: 'server', accountId: null };
    for (let attempt = 0; attempt < RESUME_TRIES && !this.stopping; attempt++) {
      try {
        const job = await Job.findOne({ where: { id: row.jobId, shopId: row.shopId } });
        if (!job?.adapter) break;
        await this.links.open(job.shopId, job.id, job.adapter);
        await this.db.transaction(async (t) => {
          await Capture.increment('gaps', { where: { id: row.id, shopId: row.shopId }, transaction: t });
          await appendEvent(who, job.id, 'capture-resumed', { captureId: row.id }, t);
        });
        await this.begin(job, row, who);
        return;
      } catch (e) {
        if (!(e instanceof ConflictException))
          this.log.warn({ captureId: row.id, reason: (e as Error).name }, 'capture not resumed yet');
        await new Promise((r) => setTimeout(r, RESUME_EVERY_MS));
      }
    }
    if (this.stopping) return;
    this.log.warn({ captureId: row.id }, 'capture given up');
    await Capture.update(
      { state: 'failed', endedAt: new Date() },
      { where: { id: row.id, shopId: row.shopId, state: 'running' } },
    ).catch(() => {});
    await this.recordings.compact(row.shopId, row.id);
  }

  onModuleDestroy(): void {
    this.stopping = true;
  }

  statusOf(jobId: string): CaptureStatus | null {
    return this.running.get(jobId)?.status ?? null;
  }

  async start(who: Actor, job: Job, body: NewCaptureRequest): Promise<CaptureStatus> {
    const existing = this.running.get(job.id);
    if (existing?.row.id === body.id) return existing.status;
    if (existing)
      throw new ConflictException({ statusCode: 409, message: 'a capture is running already: stop it first' });
    const only = body.at === FREE ? body.only : undefined;
    if (only !== undefined) planFor(FREE, only);
    if (body.at !== FREE && !capturePoint(body.at))
      throw new BadRequestException({
        statusCode: 400,
        message: `at: ${body.at} has no guided capture yet; enter it by hand`,
      });
    if (!job.adapter)
      throw new BadRequestException({
        statusCode: 400,
        message: 'adapter: choose one first, or enter the reading by hand',
      });
    if (await Capture.count({ where: { jobId: job.id, shopId: who.shopId, state: 'running' } }))
      throw new ConflictException({
        statusCode: 409,
        message: 'a capture from before the restart is being taken up again: wait a moment',
      });
    const before = await Capture.findOne({ where: { id: body.id, shopId: who.shopId } });
    if (before) throw new ConflictException({ statusCode: 409, message: 'this capture has ended already' });
    await this.links.open(who.shopId, job.id, job.adapter);
    await this.db.transaction(async (transaction) => {
      await Capture.create(
        {
          id: body.id,
          shopId: who.shopId,
          jobId: job.id,
          at: body.at,
          phase: body.phase,
          state: 'running',
          gaps: 0,
          endedAt: null,
          meta: only === undefined ? null : { only },
        },
        { transaction },
      );
      await appendEvent(
        who,
        job.id,
        'capture-started',
        { captureId: body.id, at: body.at, phase: body.phase },
        transaction,
      );
    });
    return this.begin(job, (await Capture.findOne({ where: { id: body.id, shopId: who.shopId } }))!, who);
  }

  private async begin(job: Job, row: Capture, who: Running['who']): Promise<CaptureStatus> {
    const vehicle = (await Vehicle.findOne({ where: { id: job.vehicleId, shopId: job.shopId } }))!;
    const point = capturePoint(row.at);
    const guided = !point
      ? new FreeRecording()
      : new GuidedCapture(
          point,
          vehicle.data.banks ?? 1,
          vehicle.data.metering !== 'speed-density',
          vehicle.data.fuel,
          stationPressure(job.ambient).baroKPa,
        );
    const kept = await CaptureRow.count({ where: { captureId: row.id, shopId: row.shopId } });
    const entry: Running = {
      row,
      who,
      guided,
      seq: 0,
      kept: { seconds: kept, last: null },
      status: statusView(row, guided.status(), kept),
      paused: false,
    };
    this.running.set(job.id, entry);
    await this.links.open(job.shopId, job.id, job.adapter!);
    this.links.poll(job.id, planFor(row.at, row.meta?.only));
    this.links.listen(job.id, {
      second: (samples, epoch) => this.onSecond(entry, samples, epoch),
      lost: (detail) => this.onLost(entry, detail),
    });
    this.publish(entry);
    return entry.status;
  }

  /** Commit the second, then let the guided capture see it. */
  private async onSecond(entry: Running, samples: Sample[], epoch: number): Promise<void> {
    if (this.stopping || entry.paused) return;
    const first = samples[0]!.atUs;
    const data: CaptureRow['data'] = {};
    for (const s of samples) {
      const list = data[s.channel] ?? [];
      list.push([Math.round((s.atUs - first) / 1000), s.value]);
      data[s.channel] = list;
    }
    if (samples !== entry.kept.last) {
      await CaptureRow.create({
        captureId: entry.row.id,
        epoch,
        seq: entry.seq,
        shopId: entry.row.shopId,
        atMs: Math.round(wallMs(first)),
        data,
      }).catch((e) => {
        // Only this lease writes this epoch: the row is there because its first acknowledgement was lost.
        if (!(e instanceof UniqueConstraintError)) throw e;
      });
      entry.seq++;
      entry.kept = { seconds: entry.kept.seconds + 1, last: samples };
    }
    const status = entry.guided.take(samples);
    if (status.state === 'done') await this.finish(entry, null);
    else {
      entry.status = statusView(entry.row, status, entry.kept.seconds);
      this.publish(entry);
    }
  }

  private onLost(entry: Running, detail: string) {
    entry.guided.interrupted();
    if (entry.paused) return;
    entry.status = {
      ...statusView(entry.row, entry.guided.status(), entry.kept.seconds),
      state: 'lost',
      reason: detail,
    };
    void Capture.increment('gaps', { where: { id: entry.row.id, shopId: entry.row.shopId } }).catch(() => {});
    this.publish(entry);
  }

  /** Store the reading and close the capture, together. */
  private async finish(entry: Running, doubtful: string | null): Promise<void> {
    const { row, who, guided } = entry;
    if (!(guided instanceof GuidedCapture))
      throw new BadRequestException({
        statusCode: 400,
        message: 'a free recording has no reading: stop it, then mark what counts',
      });
    const reading = guided.reading();
    const flags = [doubtful, ...guided.flags()].filter(Boolean).join('; ').slice(0, 200);
    const open = guided.openWindow();
    const window = open ? { window: { fromMs: wallMs(open.fromS * 1e6), toMs: wallMs(open.toS * 1e6) } } : {};
    await this.db.transaction(async (transaction) => {
      const [n] = await Capture.update(
        { state: 'done', endedAt: new Date(), meta: { ...row.meta, ...window } },
        { where: { id: row.id, shopId: row.shopId, state: 'running' }, transaction },
      );
      if (n === 0) return;
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
          data: reading,
        },
        { transaction },
      );
      await appendEvent(
        who,
        row.jobId,
        'reading',
        { at: row.at, phase: row.phase, source: 'capture', captureId: row.id },
        transaction,
      );
    });
    this.end(entry, 'done');
  }

  private end(entry: Running, state: 'done' | 'refused') {
    this.running.delete(entry.row.jobId);
    this.links.listen(entry.row.jobId, null);
    this.links.poll(entry.row.jobId, PLANS.mixture);
    entry.status = { ...statusView(entry.row, entry.guided.status(), entry.kept.seconds), state };
    this.publish(entry);
    this.live.publish(entry.row.shopId, { type: 'changed', jobId: entry.row.jobId });
    void this.recordings.compact(entry.row.shopId, entry.row.id);
  }

  async command(who: Actor, job: Job, captureId: string, command: CaptureCommand['command']): Promise<CaptureStatus> {
    const entry = this.running.get(job.id);
    if (!entry || entry.row.id !== captureId) throw notHere('running capture');
    if (command === 'again') {
      entry.guided.again();
      entry.status = statusView(entry.row, entry.guided.status(), entry.kept.seconds);
      this.publish(entry);
    } else if (command === 'pause' || command === 'resume') {
      // Nothing is committed meanwhile, and nothing of the window counts across the pause; the gap shows in the record.
      entry.paused = command === 'pause';
      entry.guided.interrupted();
      const status = statusView(entry.row, entry.guided.status(), entry.kept.seconds);
      entry.status = entry.paused ? { ...status, state: 'paused', reason: 'paused by hand' } : status;
      await this.db.transaction((t) => appendEvent(who, job.id, `capture-${command}d`, { captureId }, t));
      this.publish(entry);
    } else if (command === 'keep-doubtful')
      await this.finish(entry, entry.guided.status().reason ?? 'kept before the window was complete');
    else {
      await this.db.transaction(async (transaction) => {
        await Capture.update(
          { state: entry.row.at === FREE ? 'done' : 'stopped', endedAt: new Date() },
          { where: { id: captureId, shopId: who.shopId }, transaction },
        );
        await appendEvent(who, job.id, 'capture-stopped', { captureId }, transaction);
      });
      this.end(entry, 'refused');
    }
    return entry.status;
  }

  private publish(entry: Running) {
    this.live.publish(entry.row.shopId, { type: 'capture', jobId: entry.row.jobId, status: entry.status });
  }
}

/** What the bus is asked for. Throws 400 for a channel that no parameter carries. */
function planFor(at: string, only: string | undefined): PollingPlan {
  const point = capturePoint(at);
  if (point) return PLANS[point.plan];
  if (only === undefined) return PLANS.road;
  try {
    return planAlone(only);
  } catch (e) {
    throw new BadRequestException({ statusCode: 400, message: `only: ${(e as Error).message}` });
  }
}

/** Wall-clock time of a moment on the link's clock, ms since 1970. */
function wallMs(atUs: number): number {
  return Date.now() - (Number(process.hrtime.bigint() / 1000n) - atUs) / 1000;
}

function statusView(row: Capture, s: GuidedStatus, kept: number): CaptureStatus {
  return {
    captureId: row.id,
    at: row.at,
    phase: row.phase,
    state: s.state,
    reason: s.reason,
    etaS: s.etaS,
    keptSeconds: kept,
    conditions: s.conditions.map(({ id, label, met, detail }) => ({ id, label, met, detail })),
    goodS: Math.round(s.goodS * 10) / 10,
    wantedS: s.wantedS,
  };
}
