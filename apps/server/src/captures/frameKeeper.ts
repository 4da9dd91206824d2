import { type CanFrame, FrameBatch, type TakenFrames } from '@just-balance/core/can';
import { storedFrames } from '../recordings/onTheBus.ts';
import { Capture, CaptureFrames } from '../rows/captures.ts';

/** What is on the bus while a capture runs, kept beside its values; nothing waits for it. */
export class FrameKeeper {
  private readonly batch = new FrameBatch();
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
    this.batch.add(frames, atUs, this.bytes);
  }

  /** Write what waits, if it waits for so long, s. `epoch` of the lease; null: the one before. */
  flush(epoch: number | null, afterS: number): Promise<void> {
    this.epoch = epoch ?? this.epoch;
    const { span } = this.batch;
    if (!span) return this.writing;
    this.flushedUs ??= span.fromUs;
    if (span.toUs - this.flushedUs < afterS * 1e6) return this.writing;
    this.flushedUs = span.toUs;
    const taken = this.batch.take()!;
    this.writing = this.writing.then(() => this.write(taken)).catch(() => this.batch.lose(taken));
    return this.writing;
  }

  private async write({ frames, lost }: TakenFrames): Promise<void> {
    const [first] = frames;
    const { id: captureId, shopId } = this.capture;
    const row = await storedFrames(frames, this.wallMs(first!.atUs));
    await CaptureFrames.create({ ...row, captureId, shopId, epoch: this.epoch, seq: this.seq, lost });
    this.seq++;
    this.bytes += row.data.length;
  }
}
