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

/** Numbers that come one by one, in blocks: nothing is copied as they grow. */
class Numbers {
  private readonly blocks: Float64Array[] = [];
  private block = NO_BLOCK;
  n = 0;

  push(v: number): void {
    const at = this.n & (BLOCK - 1);
    if (at === 0) {
      // The first one begins small: many channels of a few values keep next to nothing.
      this.block = new Float64Array(this.n === 0 ? FIRST : BLOCK);
      this.blocks.push(this.block);
    } else if (at === this.block.length) this.grow();
    this.block[at] = v;
    this.n++;
  }

  private grow(): void {
    const bigger = new Float64Array(2 * this.block.length);
    bigger.set(this.block);
    this.block = bigger;
    this.blocks[this.blocks.length - 1] = bigger;
  }

  /** The newest; only where there is one. */
  get last(): number {
    return this.block[(this.n - 1) & (BLOCK - 1)]!;
  }

  /** The first `n` of them, of exact length. */
  first(n: number): Float64Array {
    const out = new Float64Array(n);
    this.blocks.forEach((b, i) => {
      const at = i * BLOCK;
      if (at < n) out.set(at + BLOCK <= n ? b : b.subarray(0, n - at), at);
    });
    return out;
  }
}

const BLOCK = 1 << 14;
const FIRST = 1 << 6;
const NO_BLOCK = new Float64Array(0);

/** Moments that several channels share, as the rows of a table give them. */
export class Clock {
  readonly moments = new Numbers();
  /** Whether no moment lies before the one that came before it. */
  sorted = true;

  tick(time: number): void {
    if (this.moments.n > 0 && time < this.moments.last) this.sorted = false;
    this.moments.push(time);
  }
}

/** Grows one channel sample by sample; `finish` gives exact columns, sorted where the source was not. */
export class ChannelBuilder {
  private readonly values = new Numbers();
  /** Of its own once it has left a shared one. */
  private own: Clock | null = null;
  private shared: Clock | null = null;

  constructor(
    readonly id: string,
    readonly unit: string,
    readonly quantum?: number,
  ) {}

  get length(): number {
    return this.values.n;
  }

  /** Finite numbers only; the caller has said what is wrong with others. */
  push(time: number, value: number): void {
    this.own ??= this.leave();
    this.own.tick(time);
    this.values.push(value);
  }

  /** A value at the newest moment of a clock it shares: while it has one at each, no times of its own are kept. */
  pushOn(clock: Clock, value: number): void {
    const { n } = this.values;
    if (this.own === null && (this.shared === clock || n === 0) && clock.moments.n === n + 1) {
      this.shared = clock;
      this.values.push(value);
    } else this.push(clock.moments.last, value);
  }

  private leave(): Clock {
    const clock = new Clock();
    if (this.shared) for (const t of this.shared.moments.first(this.values.n)) clock.tick(t);
    this.shared = null;
    return clock;
  }

  /** Copies of exact length; times shifted by `-from`. */
  finish(from = 0): Channel {
    const { n } = this.values;
    const clock = this.own ?? this.shared;
    const time = clock ? clock.moments.first(n) : new Float64Array(0);
    const value = this.values.first(n);
    if (clock && !clock.sorted) {
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

/** Grows a channel of words; `finish` gives it in the order of its times. */
export class TextBuilder {
  private readonly samples: { time: number; value: string }[] = [];

  constructor(readonly id: string) {}

  get length(): number {
    return this.samples.length;
  }

  /** The least of its times; +∞ where it has none. */
  get first(): number {
    return this.samples.reduce((least, { time }) => Math.min(least, time), Number.POSITIVE_INFINITY);
  }

  push(time: number, value: string): void {
    this.samples.push({ time, value });
  }

  /** Words of one moment stay in the order they came in. */
  finish(): TextChannel {
    const sorted = this.samples.toSorted((a, b) => a.time - b.time);
    return { id: this.id, time: Float64Array.from(sorted, (s) => s.time), value: sorted.map((s) => s.value) };
  }
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

/** Samples of a channel from `from` to `to`, seconds, both included, as views, not copies. */
export function between(c: Channel, from: number, to: number): { time: Float64Array; value: Float64Array } {
  const a = indexAt(c.time, from);
  let b = indexAt(c.time, to);
  while (b < c.time.length && c.time[b]! <= to) b++;
  return { time: c.time.subarray(a, b), value: c.value.subarray(a, b) };
}
