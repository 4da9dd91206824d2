import {
  type CaptureCommand,
  type CaptureStatus,
  type CaptureView,
  captureStatus,
  FREE,
  type NewCaptureRequest,
} from '@just-balance/contract';
import { capturePoint, NOT_BEGUN, planOf } from '@just-balance/core/capture';
import { asideSince, PLANS, type PollingPlan } from '@just-balance/core/link';
import {
  BadRequestException,
  ConflictException,
  HttpException,
  Inject,
  Injectable,
  type OnApplicationBootstrap,
  type OnModuleDestroy,
  ServiceUnavailableException,
} from '@nestjs/common';
import type { Logger } from 'pino';
import { UniqueConstraintError } from 'sequelize';
import { notHere } from '../common/errors.ts';
import { type Actor } from '../common/request.ts';
import { Work } from '../database/work.ts';
import { type Author, appendEvent } from '../jobs/events.ts';
import { captureViews } from '../jobs/rowViews.ts';
import { JobWrites } from '../jobs/write.ts';
import { Leases } from '../links/leases.ts';
import { LinksService } from '../links/links.service.ts';
import { Live } from '../live/live.service.ts';
import { LOGGER } from '../logger.ts';
import { RecordingsService } from '../recordings/recordings.service.ts';
import { Capture, CaptureRow } from '../rows/captures.ts';
import { Job } from '../rows/jobs.ts';
import { RunningCapture } from './runningCapture.ts';
import { runOf } from './runs.ts';

/** How often each server looks for captures that nobody keeps up, and for what others asked of its own, ms. */
const LOOK_MS = 1000;
/** A capture that nobody could take up for this long is over, ms. [house] */
const GIVE_UP_MS = 600_000;
/** How long a command waits for the server that owns the capture, ms. */
const COMMAND_MS = 6000;

const SERVER = (shopId: string): Author => ({ shopId, name: 'server', accountId: null });

/**
 * Guided captures. The server that holds the adapter's lease owns the record: every second is committed before it is
 * shown or counted. When that server is gone, whichever runs goes on under a new epoch, the gap marked.
 */
@Injectable()
export class CapturesService implements OnApplicationBootstrap, OnModuleDestroy {
  private readonly running = new Map<string, RunningCapture>();
  /** Captures this server is just starting: nobody takes them up meanwhile. */
  private readonly starting = new Set<string>();
  private timer: NodeJS.Timeout | null = null;
  private looking: Promise<void> | null = null;
  private stopping = false;

  constructor(
    private readonly jobs: JobWrites,
    private readonly links: LinksService,
    private readonly leases: Leases,
    private readonly live: Live,
    private readonly recordings: RecordingsService,
    private readonly work: Work,
    @Inject(LOGGER) private readonly log: Logger,
  ) {}

  /** Captures of all kinds, oldest first. */
  list(who: Actor, jobId: string): Promise<CaptureView[]> {
    return this.work.read(async (t) => captureViews(who.shopId, (await this.jobs.find(who, jobId, t)).id, t));
  }

  onApplicationBootstrap(): void {
    const look = () => {
      this.looking ??= this.look()
        .catch((e: Error) => this.log.warn({ reason: e.name }, 'captures not looked at'))
        .finally(() => {
          this.looking = null;
        });
    };
    look();
    this.timer = setInterval(look, LOOK_MS).unref();
  }

  async onModuleDestroy(): Promise<void> {
    this.stopping = true;
    for (const capture of this.running.values()) capture.letGo();
    if (this.timer) clearInterval(this.timer);
    await this.looking;
  }

  /** Captures that run: ours may have been asked something by another server; those nobody keeps up are taken up. */
  private async look(): Promise<void> {
    for (const row of await Capture.findAll({ where: { state: 'running' } })) {
      if (this.stopping) return;
      const own = this.running.get(row.jobId);
      if (own?.row.id === row.id) {
        if (row.command)
          await this.obey(own, row.command).catch((e: Error) => this.log.warn({ reason: e.name }, 'command'));
      } else if (!own && !this.starting.has(row.id)) await this.takeUp(row);
    }
  }

  /** The lease of the server that died may still run: tried again until it has expired. */
  private async takeUp(row: Capture): Promise<void> {
    const job = await Job.findOne({ where: { id: row.jobId, shopId: row.shopId } });
    if (!job?.adapter || job.status === 'closed') return this.giveUp(row);
    if (await this.leases.elsewhere(job.id)) return;
    try {
      await this.links.open(job.shopId, job.id, job.adapter);
      const gaps = await Capture.increment('gaps', { where: { id: row.id, shopId: row.shopId } });
      if (!gaps) return;
      await this.jobs.write(SERVER(row.shopId), job.id, async (_, t) => {
        await appendEvent(SERVER(row.shopId), job.id, 'capture-resumed', { captureId: row.id }, t);
        return undefined;
      });
      const fresh = await Capture.findOne({ where: { id: row.id, shopId: row.shopId, state: 'running' } });
      if (fresh) await this.begin(job, fresh, SERVER(row.shopId));
    } catch (e) {
      // The adapter is in use, not allowed here, or another server was quicker.
      if (!(e instanceof HttpException)) throw e;
      const last = await CaptureRow.max<number, CaptureRow>('atMs', {
        where: { captureId: row.id, shopId: row.shopId },
      });
      if (Date.now() - Math.max(Number(last ?? 0), row.createdAt.getTime()) > GIVE_UP_MS) await this.giveUp(row);
    }
  }

  private async giveUp(row: Capture): Promise<void> {
    this.log.warn({ captureId: row.id }, 'capture given up');
    await Capture.update(
      { state: 'failed', endedAt: new Date(), command: null },
      { where: { id: row.id, shopId: row.shopId, state: 'running' } },
    );
    await this.recordings.compact(row.shopId, row.id);
  }

  /** Where the job's running capture stands, whichever server keeps it. */
  async statusOf(shopId: string, jobId: string): Promise<CaptureStatus | null> {
    const own = this.running.get(jobId);
    if (own) return own.status;
    const row = await Capture.findOne({ where: { jobId, shopId, state: 'running' } });
    return row && (row.status ?? captureStatus(row, NOT_BEGUN, 0));
  }

  async start(who: Actor, job: Job, body: NewCaptureRequest): Promise<CaptureStatus> {
    const existing = this.running.get(job.id);
    if (existing?.row.id === body.id) return existing.status;
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
    if (existing || (await Capture.count({ where: { jobId: job.id, shopId: who.shopId, state: 'running' } })))
      throw runsAlready();
    this.starting.add(body.id);
    try {
      await this.links.open(who.shopId, job.id, job.adapter);
      const status = await this.jobs.write(who, job.id, async (_, transaction) => {
        const before = await Capture.findOne({ where: { id: body.id, shopId: who.shopId }, transaction });
        if (before) throw new ConflictException({ statusCode: 409, message: 'this capture has ended already' });
        const row = await Capture.create(
          {
            id: body.id,
            shopId: who.shopId,
            jobId: job.id,
            at: body.at,
            phase: body.phase,
            state: 'running',
            source: 'link',
            gaps: 0,
            endedAt: null,
            meta: only === undefined ? null : { only },
          },
          { transaction },
        ).catch((e: unknown) => {
          // Several starts at once: the database lets one run.
          throw e instanceof UniqueConstraintError ? runsAlready() : e;
        });
        const data = { captureId: body.id, at: body.at, phase: body.phase };
        await appendEvent(who, job.id, 'capture-started', data, transaction);
        return captureStatus(row, NOT_BEGUN, 0);
      });
      const row = await Capture.findOne({ where: { id: body.id, shopId: who.shopId, state: 'running' } });
      return row ? await this.begin(job, row, who) : status;
    } finally {
      this.starting.delete(body.id);
    }
  }

  private async begin(job: Job, row: Capture, who: Author): Promise<CaptureStatus> {
    const run = await runOf(job, row);
    const seconds = await CaptureRow.count({ where: { captureId: row.id, shopId: row.shopId } });
    const capture = new RunningCapture(row, who, run, seconds, {
      jobs: this.jobs,
      live: this.live,
      ended: (c) => this.ended(c),
      setAside: () => asideSince(before, this.links.setAside(job.id)),
    });
    await this.links.open(job.shopId, job.id, job.adapter!);
    const before = this.links.setAside(job.id);
    // The plan first: what is asked from now on is what this capture wants.
    this.links.poll(job.id, planFor(row.at, row.meta?.only));
    const listening = this.links.listen(job.id, {
      second: (samples, epoch) => capture.second(samples, epoch),
      frames: (frames, atUs) => capture.frames(frames, atUs),
      lost: (detail, silent) => capture.lost(detail, silent),
      nothing: () => capture.nothing(),
      taken: () => this.letGo(capture),
      closed: () => capture.closed(),
    });
    // The link went down in between: the next look takes the capture up.
    if (!listening) return capture.status;
    this.running.set(job.id, capture);
    capture.publish();
    return capture.status;
  }

  private letGo(capture: RunningCapture): boolean {
    capture.letGo();
    return this.running.get(capture.row.jobId) === capture && this.running.delete(capture.row.jobId);
  }

  private ended(capture: RunningCapture): void {
    const { row } = capture;
    if (this.letGo(capture)) {
      this.links.listen(row.jobId, null);
      this.links.poll(row.jobId, PLANS.mixture);
    }
    void this.recordings.compact(row.shopId, row.id);
  }

  async command(who: Actor, job: Job, captureId: string, command: CaptureCommand['command']): Promise<CaptureStatus> {
    const entry = this.running.get(job.id);
    if (entry?.row.id === captureId) return entry.perform(who, command);
    const row = await Capture.findOne({
      where: { id: captureId, jobId: job.id, shopId: who.shopId, state: 'running' },
    });
    if (!row) throw notHere('running capture');
    if (await this.leases.elsewhere(job.id)) return this.askElsewhere(who, row, command);
    // Nobody keeps it up: it can be ended, and nothing else.
    if (command !== 'stop')
      throw new ConflictException({
        statusCode: 409,
        message: 'this capture is being taken up again: wait a moment, or stop it',
      });
    await this.jobs.write(
      who,
      job.id,
      async (_, transaction) => {
        await Capture.update(
          { state: 'stopped', endedAt: new Date(), command: null },
          { where: { id: row.id, shopId: who.shopId, state: 'running' }, transaction },
        );
        await appendEvent(who, job.id, 'capture-stopped', { captureId }, transaction);
        return { captureId };
      },
      { evenClosed: true },
    );
    void this.recordings.compact(row.shopId, row.id);
    return { ...(row.status ?? captureStatus(row, NOT_BEGUN, 0)), state: 'refused', reason: null };
  }

  /** Another server holds the adapter: it is asked through the row, and done when the row says so. */
  private async askElsewhere(who: Actor, row: Capture, command: CaptureCommand['command']): Promise<CaptureStatus> {
    await Capture.update(
      { command: { command, by: who.name, accountId: who.accountId } },
      { where: { id: row.id, shopId: who.shopId, state: 'running' } },
    );
    const until = Date.now() + COMMAND_MS;
    while (Date.now() < until) {
      await new Promise((r) => setTimeout(r, 150));
      const now = await Capture.findOne({ where: { id: row.id, shopId: who.shopId } });
      if (!now) break;
      if (now.command === null)
        return (
          now.status ?? { ...captureStatus(now, NOT_BEGUN, 0), state: now.state === 'running' ? 'waiting' : 'refused' }
        );
    }
    throw new ServiceUnavailableException({
      statusCode: 503,
      message: 'the server that holds the adapter does not answer: its capture is taken up in a moment, try again',
    });
  }

  /** What another server's screen asked of our capture. */
  private async obey(entry: RunningCapture, c: NonNullable<Capture['command']>): Promise<void> {
    const who = { shopId: entry.row.shopId, name: c.by, accountId: c.accountId };
    await entry.perform(who, c.command).catch((e: unknown) => {
      if (!(e instanceof HttpException)) throw e;
    });
    await Capture.update(
      { command: null, status: entry.status },
      { where: { id: entry.row.id, shopId: entry.row.shopId } },
    );
  }

  /** Whether this server keeps the job's capture. */
  keeps(jobId: string): boolean {
    return this.running.has(jobId);
  }
}

function runsAlready() {
  return new ConflictException({ statusCode: 409, message: 'a capture is running already: stop it first' });
}

/** What the bus is asked for. Throws 400 for a channel that no parameter carries. */
function planFor(at: string, only: string | undefined): PollingPlan {
  try {
    return planOf(at, only);
  } catch (e) {
    throw new BadRequestException({ statusCode: 400, message: `only: ${(e as Error).message}` });
  }
}
