import type { CanFrame } from './frame.ts';
import type { TimedFrame } from './frameLog.ts';

/** Frames between two writes; a bus of 500 kbit/s carries 4,000 a second at most. [house] */
export const MOST_IN_BATCH = 20_000;
/** Bytes of frames of one recording, deflated: hours of an ordinary bus. [house] */
export const MOST_BUS_BYTES = 32 * 1024 * 1024;

/** Frames of one stretch of a recording, and how many more there were. */
export interface TakenFrames {
  frames: readonly TimedFrame[];
  lost: number;
}

/**
 * What is on the bus between two writes, beside the values of a recording. It is no value's proof: what is more than is
 * kept is counted as lost. One frame is kept whatever there is: with it stands how many were lost.
 */
export class FrameBatch {
  private frames: TimedFrame[] = [];
  private lost = 0;

  /** `bytes`: of what is written already, deflated. */
  add(frames: readonly CanFrame[], atUs: number, bytes: number): void {
    for (const frame of frames)
      if (this.frames.length === 0 || (this.frames.length < MOST_IN_BATCH && bytes < MOST_BUS_BYTES))
        this.frames.push({ atUs: Math.round(atUs), frame });
      else this.lost++;
  }

  /** The first and the newest, µs; null where nothing is there. */
  get span(): { fromUs: number; toUs: number } | null {
    const [first] = this.frames;
    return first ? { fromUs: first.atUs, toUs: this.frames.at(-1)!.atUs } : null;
  }

  /** All of it; from here on it is empty. Null where nothing came. */
  take(): TakenFrames | null {
    const { frames, lost } = this;
    if (frames.length === 0) return null;
    this.clear();
    return { frames, lost };
  }

  /** Forget what came: it belongs to no recording. */
  clear(): void {
    [this.frames, this.lost] = [[], 0];
  }

  /** What could not be written comes before what has come since, as far as there is room. */
  giveBack(taken: TakenFrames): void {
    const all = [...taken.frames, ...this.frames];
    this.frames = all.slice(0, MOST_IN_BATCH);
    this.lost += taken.lost + all.length - this.frames.length;
  }

  /** What could not be written is gone: counted. */
  lose({ frames, lost }: TakenFrames): void {
    this.lost += frames.length + lost;
  }
}
