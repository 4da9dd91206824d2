/** One channel: sample times in s from the capture's start, rising, and values in the channel's unit. */
export interface Channel {
  id: string;
  unit: string;
  /** One step of the channel, where it is known. */
  quantum?: number;
  time: Float64Array;
  value: Float64Array;
}

/** A span of an operating point, s. */
export interface Mark {
  at: string;
  from: number;
  to: number;
}

/** A channel of words: loop state and the like. */
export interface TextChannel {
  id: string;
  time: Float64Array;
  value: string[];
}

/** Columns of a recording. Channels may have different sample times. */
export interface Series {
  /** ISO time of second 0; null where the source has none. */
  startedAt: string | null;
  channels: Channel[];
  /** Words beside the numbers; absent where the source has none. */
  texts?: TextChannel[];
  marks: Mark[];
}

const FIRST_SIZE = 1024;

/** Grows one channel sample by sample, doubling; `finish` gives exact columns, sorted where the source was not. */
export class ChannelBuilder {
  private time = new Float64Array(FIRST_SIZE);
  private value = new Float64Array(FIRST_SIZE);
  private n = 0;
  private sorted = true;

  constructor(
    readonly id: string,
    readonly unit: string,
    readonly quantum?: number,
  ) {}

  get length(): number {
    return this.n;
  }

  /** Finite numbers only; the caller has said what is wrong with others. */
  push(time: number, value: number): void {
    if (this.n === this.time.length) {
      this.time = grown(this.time);
      this.value = grown(this.value);
    }
    if (this.n > 0 && time < this.time[this.n - 1]!) this.sorted = false;
    this.time[this.n] = time;
    this.value[this.n++] = value;
  }

  /** Copies of exact length; times shifted by `-from`. */
  finish(from = 0): Channel {
    const time = this.time.slice(0, this.n);
    const value = this.value.slice(0, this.n);
    if (!this.sorted) {
      const order = Uint32Array.from(time, (_, i) => i).sort((a, b) => time[a]! - time[b]! || a - b);
      const t = time.slice();
      const v = value.slice();
      order.forEach((k, i) => {
        time[i] = t[k]!;
        value[i] = v[k]!;
      });
    }
    if (from !== 0) for (let i = 0; i < time.length; i++) time[i] = time[i]! - from;
    return {
      id: this.id,
      unit: this.unit,
      ...(this.quantum === undefined ? {} : { quantum: this.quantum }),
      time,
      value,
    };
  }
}

function grown(a: Float64Array<ArrayBuffer>): Float64Array<ArrayBuffer> {
  const b = new Float64Array(a.length * 2);
  b.set(a);
  return b;
}

/** First index whose time is at or after `t`: a binary search over rising times. */
export function indexAt(time: Float64Array, t: number): number {
  let low = 0;
  let high = time.length;
  while (low < high) {
    const mid = (low + high) >> 1;
    if (time[mid]! < t) low = mid + 1;
    else high = mid;
  }
  return low;
}

/** Samples of a channel from `from` to `to`, as views, not copies. */
export function between(c: Channel, from: number, to: number): { time: Float64Array; value: Float64Array } {
  const a = indexAt(c.time, from);
  const b = indexAt(c.time, to);
  return { time: c.time.subarray(a, b), value: c.value.subarray(a, b) };
}
