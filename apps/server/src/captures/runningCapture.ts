import { type CaptureCommand, type CaptureStatus, captureStatus, FREE } from '@just-balance/contract';
import type { CanFrame } from '@just-balance/core/can';
import { type CaptureRun, followRun, type GuidedEvent, runStatus } from '@just-balance/core/capture';
import { packSecond, type Sample, type SetAside } from '@just-balance/core/link';
import { BadRequestException, ConflictException } from '@nestjs/common';
import { type Transaction, UniqueConstraintError } from 'sequelize';
import { type Author, appendEvent } from '../jobs/events.ts';
import type { JobWrites } from '../jobs/write.ts';
import type { Live } from '../live/live.service.ts';
import { Capture, CaptureRow } from '../rows/captures.ts';
import { FrameKeeper } from './frameKeeper.ts';
import { keepReading } from './runs.ts';

/** Seconds without a value after which a capture says so. [house] */
const SILENT_S = 3;
/** Frames of the bus are written this often: what a server that dies takes with it at most. [house] */
const FLUSH_FRAMES_S = 5;

interface Parts {
  /** Frames that did not count since it began. */
  setAside(): SetAside;
  jobs: JobWrites;
  live: Live;
  /** It is over: the link asks for something else again, what was recorded is packed. */
  ended(capture: RunningCapture): void;
}

/**
 * A capture that this server keeps: the seconds of its link, where it stands, what a person asks of it. Every second is
 * committed before it counts.
 */
export class RunningCapture {
  status: CaptureStatus;
  private seq = 0;
  private readonly wallMs = wallClock();
  /** The newest committed second: it comes again when closing the capture failed after it. */
  private newest: Sample[] | null = null;
  private paused = false;
  /** Closing is under way. */
  private closing = false;
  /** It is another's now, or over: nothing that comes in changes it. */
  private over = false;
  /** What is on the bus meanwhile. */
  private readonly bus: FrameKeeper;
  /** Seconds in a row without a value. */
  private silentS = 0;

  constructor(
    readonly row: Capture,
    private readonly who: Author,
    private run: CaptureRun,
    /** Committed seconds. */
    private seconds: number,
    private readonly parts: Parts,
  ) {
    this.bus = new FrameKeeper(row, this.wallMs);
    this.status = this.statusNow();
  }

  private statusNow(): CaptureStatus {
    return captureStatus(this.row, runStatus(this.run), this.seconds);
  }

  private follow(event: GuidedEvent): void {
    this.run = followRun(this.run, event);
  }

  /** Its row and the screens say where it stands. */
  publish(): void {
    const { row, status } = this;
    void Capture.update({ status }, { where: { id: row.id, shopId: row.shopId, state: 'running' } }).catch(() => {});
    this.parts.live.publish(row.shopId, { type: 'capture', jobId: row.jobId, status });
  }

  /** Nothing that comes in counts any more: the server stops, or another has it. */
  letGo(): void {
    this.over = true;
  }

  /** Commit the second, then let the guided capture see it. */
  async second(samples: Sample[], epoch: number): Promise<void> {
    this.silentS = 0;
    if (this.paused || this.over) return;
    if (samples !== this.newest) {
      await this.commit(samples, epoch);
      await this.bus.flush(epoch, FLUSH_FRAMES_S);
    }
    // While it was written somebody may have ended or paused the capture: the second is kept, and says nothing more.
    if (this.paused) this.status = { ...this.status, keptSeconds: this.seconds };
    if (this.paused || this.closing || this.over) return;
    this.follow({ kind: 'samples', samples });
    this.status = this.statusNow();
    if (this.status.state === 'done') await this.finish(null);
    else this.publish();
  }

  private async commit(samples: Sample[], epoch: number): Promise<void> {
    await CaptureRow.create({
      captureId: this.row.id,
      epoch,
      seq: this.seq,
      shopId: this.row.shopId,
      atMs: Math.round(this.wallMs(samples[0]!.atUs)),
      data: packSecond(samples),
    }).catch((e) => {
      // Only this lease writes this epoch: the row is there because its first acknowledgement was lost.
      if (!(e instanceof UniqueConstraintError)) throw e;
    });
    this.seq++;
    this.seconds++;
    this.newest = samples;
  }

  /** Frames of the bus while it records. */
  frames(frames: readonly CanFrame[], atUs: number): void {
    if (!this.paused && !this.over) this.bus.add(frames, atUs);
  }

  /** The adapter is connected and says nothing: a capture that waits in silence says why. */
  nothing(): void {
    this.silentS++;
    if (this.silentS !== SILENT_S || this.paused || this.status.state === 'lost') return;
    this.lost(`no value has come for ${SILENT_S} s: is the key on, and the plug all the way in?`, true);
  }

  /** @param silent The adapter is there, and the vehicle says nothing. */
  lost(detail: string, silent: boolean): void {
    this.follow({ kind: 'interrupted' });
    if (this.paused || this.over) return;
    this.status = { ...this.statusNow(), state: 'lost', reason: detail, silent };
    void Capture.increment('gaps', { where: { id: this.row.id, shopId: this.row.shopId } }).catch(() => {});
    this.publish();
  }

  /** The link was closed under it: what there is is kept. */
  async closed(): Promise<void> {
    if (!this.closing) await this.perform(this.who, 'stop');
  }

  async perform(who: Author, command: CaptureCommand['command']): Promise<CaptureStatus> {
    if (command === 'again') {
      this.follow({ kind: 'again' });
      this.status = this.statusNow();
      this.publish();
    } else if (command === 'pause' || command === 'resume') await this.hold(who, command);
    else await this.close(who, command);
    return this.status;
  }

  /** Nothing is committed meanwhile, and nothing of the window counts across the pause; the gap shows in the record. */
  private async hold(who: Author, command: 'pause' | 'resume'): Promise<void> {
    this.paused = command === 'pause';
    this.follow({ kind: 'interrupted' });
    const status = this.statusNow();
    this.status = this.paused ? { ...status, state: 'paused', reason: 'paused by hand' } : status;
    await this.write(who, async (t) => {
      await appendEvent(who, this.row.jobId, `capture-${command}d`, { captureId: this.row.id }, t);
    });
    this.publish();
  }

  private async close(who: Author, command: 'stop' | 'keep-doubtful'): Promise<void> {
    if (this.closing) throw new ConflictException({ statusCode: 409, message: 'this capture is being closed already' });
    this.closing = true;
    try {
      if (command === 'keep-doubtful')
        await this.finish(runStatus(this.run).reason ?? 'kept before the window was complete');
      else await this.stop(who);
    } finally {
      this.closing = false;
    }
  }

  private async stop(who: Author): Promise<void> {
    const { row } = this;
    await this.write(who, async (transaction) => {
      const where = { id: row.id, shopId: row.shopId, state: 'running' as const };
      const now = await Capture.findOne({ where, transaction, lock: true });
      await now?.update(
        {
          state: row.at === FREE ? 'done' : 'stopped',
          endedAt: new Date(),
          command: null,
          meta: { ...now.meta, setAside: this.parts.setAside() },
        },
        { transaction },
      );
      await appendEvent(who, row.jobId, 'capture-stopped', { captureId: row.id }, transaction);
    });
    this.end('refused');
  }

  /** Store the reading and close the capture, together. */
  private async finish(doubtful: string | null): Promise<void> {
    const { row, who, run } = this;
    if (!run.setup)
      throw new BadRequestException({
        statusCode: 400,
        message: 'a free recording has no reading: stop it, then mark what counts',
      });
    const how = { state: 'running', wallMs: this.wallMs, setAside: this.parts.setAside() } as const;
    await this.write(who, (t) => keepReading(who, row, run, { ...how, doubtful }, t));
    this.end('done');
  }

  /** What was recorded before somebody closed the job is kept. */
  private write(who: Author, f: (t: Transaction) => Promise<unknown>): Promise<unknown> {
    return this.parts.jobs.write(who, this.row.jobId, async (_, t) => f(t), { evenClosed: true });
  }

  private end(state: 'done' | 'refused'): void {
    this.over = true;
    void this.bus.flush(null, 0);
    this.status = { ...this.statusNow(), state };
    this.parts.live.publish(this.row.shopId, { type: 'capture', jobId: this.row.jobId, status: this.status });
    this.parts.ended(this);
  }
}

/**
 * Wall-clock time of a moment on the link's clock, ms since 1970. The wall clock is read once: when it is set in the
 * middle of a capture, its seconds go on as they came.
 */
function wallClock(): (atUs: number) => number {
  const offsetMs = Date.now() - Number(process.hrtime.bigint() / 1000n) / 1000;
  return (atUs) => offsetMs + atUs / 1000;
}
