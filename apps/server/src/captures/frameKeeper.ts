import type { CanFrame, TimedFrame } from '@just-balance/core/can';
import { storedFrames } from '../recordings/onTheBus.ts';
import { Capture, CaptureFrames } from '../rows/captures.ts';

/** Frames between two writes; a bus of 500 kbit/s carries 4,000 a second at most. [house] */
const MOST_WAITING = 20_000;
/** Bytes of frames of one capture, deflated: hours of an ordinary bus. [house] */
const MOST_BYTES = 32 * 1024 * 1024;

/**
 * What is on the bus while a capture runs, kept beside its values. It is no value's proof and nothing waits for it:
 * where it cannot be written, or is more than is kept, the frames are counted as lost.
 */
export class FrameKeeper {
  private waiting: TimedFrame[] = [];
  private lost = 0;
  private seq = 0;
  private epoch = 0;
  private flushedUs: number | null = null;
  private bytes = 0;
  private writing: Promise<void> = Promise.resolve();

  constructor(
    private readonly capture: Capture,
    private readonly wallMs: (atUs: number) => number,
  ) {}

  add(frames: readonly CanFrame[], atUs: number): void {
    // One of each time is kept whatever there is: with it stands how many were lost.
    for (const frame of frames)
      if (this.waiting.length === 0 || (this.waiting.length < MOST_WAITING && this.bytes < MOST_BYTES))
        this.waiting.push({ atUs: Math.round(atUs), frame });
      else this.lost++;
  }

  /** Write what waits, if it waits for so long, s. `epoch` of the lease; null: the one before. */
  flush(epoch: number | null, afterS: number): Promise<void> {
    this.epoch = epoch ?? this.epoch;
    const [first] = this.waiting;
    const newest = this.waiting.at(-1);
    if (!first || !newest) return this.writing;
    this.flushedUs ??= first.atUs;
    if (newest.atUs - this.flushedUs < afterS * 1e6) return this.writing;
    this.flushedUs = newest.atUs;
    const { waiting, lost } = this;
    this.waiting = [];
    this.lost = 0;
    this.writing = this.writing
      .then(() => this.write(waiting, lost))
      .catch(() => {
        this.lost += waiting.length + lost;
      });
    return this.writing;
  }

  private async write(frames: readonly TimedFrame[], lost: number): Promise<void> {
    const [first] = frames;
    const { id: captureId, shopId } = this.capture;
    const row = await storedFrames(frames, this.wallMs(first!.atUs));
    await CaptureFrames.create({ ...row, captureId, shopId, epoch: this.epoch, seq: this.seq, lost });
    this.seq++;
    this.bytes += row.data.length;
  }
}
