import { indexAt } from './series.ts';

/** Samples under one bucket of the finest level, and buckets under one of the next. [house] */
const FINEST = 64;
const STEP = 8;
const COARSEST_BUCKETS = 256;
/** Entries of a level that a drawn bucket is made of at least, and what share of a bucket one may span. [house] */
const ENTRIES_A_BUCKET = 4;
const MOST_SPAN = 0.5;

/** What a strip draws: per bucket the least and the greatest value, so that no peak is lost. */
export interface MinMax {
  /** Bucket middles, s. Buckets without a sample are left out. */
  time: Float64Array;
  min: Float64Array;
  max: Float64Array;
}

/** One level: per entry its first and last sample's time, least and greatest value. */
export interface Level {
  time: Float64Array;
  end: Float64Array;
  min: Float64Array;
  max: Float64Array;
}

/** Levels of a numeric column, finest first; none for a short one. Every peak of the column is in every level. */
export function pyramid(time: Float64Array, value: Float64Array): Level[] {
  const levels: Level[] = [];
  let below: Level = { time, end: time, min: value, max: value };
  for (let by = FINEST; below.time.length > COARSEST_BUCKETS * (levels.length === 0 ? 4 : 1); by = STEP) {
    below = merged(below, by);
    levels.push(below);
  }
  return levels;
}

function merged(l: Level, by: number): Level {
  const n = Math.ceil(l.time.length / by);
  const array = () => new Float64Array(n);
  const out = { time: array(), end: array(), min: array(), max: array() };
  for (let b = 0; b < n; b++) {
    let low = Number.POSITIVE_INFINITY;
    let high = Number.NEGATIVE_INFINITY;
    const end = Math.min(l.time.length, (b + 1) * by);
    for (let i = b * by; i < end; i++) {
      if (l.min[i]! < low) low = l.min[i]!;
      if (l.max[i]! > high) high = l.max[i]!;
    }
    out.time[b] = l.time[b * by]!;
    out.end[b] = l.end[end - 1]!;
    out.min[b] = low;
    out.max[b] = high;
  }
  return out;
}

/**
 * At most `buckets` pairs over [from, to], from the coarsest level that has enough entries a bucket. An entry that spans
 * more than half a bucket, as over a gap, or that reaches over an end, is looked into: every extreme stands within one
 * bucket of its place, and none is of what lies outside. Throws RangeError where there is nothing to divide.
 */
export function reduce(
  column: { time: Float64Array; value: Float64Array; levels: readonly Level[] },
  from: number,
  to: number,
  buckets: number,
): MinMax {
  if (!(to > from) || !(buckets >= 1)) throw new RangeError(`reduce: from ${from} to ${to} in ${buckets} buckets`);
  const { time, value } = column;
  const width = (to - from) / buckets;
  const min = new Float64Array(buckets).fill(Number.POSITIVE_INFINITY);
  const max = new Float64Array(buckets).fill(Number.NEGATIVE_INFINITY);
  const levels: Level[] = [{ time, end: time, min: value, max: value }, ...column.levels];
  const put = (t: number, low: number, high: number) => {
    const b = Math.min(buckets - 1, Math.floor((t - from) / width));
    if (low < min[b]!) min[b] = low;
    if (high > max[b]!) max[b] = high;
  };
  const walk = (k: number, first: number, last: number) => {
    if (k === 0) return samplesInto({ time, value, from, to, width, min, max }, first, last);
    const l = levels[k]!;
    for (let i = first; i < last && l.time[i]! <= to; i++) {
      const [begins, ends] = [l.time[i]!, l.end[i]!];
      if (ends < from) continue;
      if (begins >= from && ends <= to && ends - begins <= MOST_SPAN * width) put(begins, l.min[i]!, l.max[i]!);
      else {
        const by = k === 1 ? FINEST : STEP;
        walk(k - 1, i * by, Math.min(levels[k - 1]!.time.length, (i + 1) * by));
      }
    }
  };
  const inside = (l: Level) => indexAt(l.time, to) - indexAt(l.time, from);
  const k = Math.max(
    0,
    levels.findLastIndex((l) => inside(l) >= ENTRIES_A_BUCKET * buckets),
  );
  const start = levels[k]!;
  // The entry that began before may reach in.
  const first = Math.max(0, indexAt(start.time, from) - (k === 0 ? 0 : 1));
  walk(k, first, afterAll(start.time, to));
  return filled(min, max, from, width);
}

/** The buckets that hold something, with their middles. */
function filled(min: Float64Array, max: Float64Array, from: number, width: number): MinMax {
  const time = new Float64Array(min.length);
  let n = 0;
  for (let b = 0; b < min.length; b++) {
    if (min[b]! > max[b]!) continue;
    time[n] = from + (b + 0.5) * width;
    min[n] = min[b]!;
    max[n++] = max[b]!;
  }
  return { time: time.subarray(0, n), min: min.subarray(0, n), max: max.subarray(0, n) };
}

interface Into {
  time: Float64Array;
  value: Float64Array;
  from: number;
  to: number;
  width: number;
  min: Float64Array;
  max: Float64Array;
}

/** Samples [first, last) into their buckets, one after the other: most of the work where somebody has zoomed in. */
function samplesInto({ time, value, from, to, width, min, max }: Into, first: number, last: number): void {
  const most = min.length - 1;
  let i = first;
  while (i < last && time[i]! < from) i++;
  let until = last;
  while (until > i && time[until - 1]! > to) until--;
  while (i < until) {
    const b = Math.min(most, Math.floor((time[i]! - from) / width));
    const end = b === most ? Number.POSITIVE_INFINITY : from + (b + 1) * width;
    let low = min[b]!;
    let high = max[b]!;
    do {
      const v = value[i]!;
      if (v < low) low = v;
      if (v > high) high = v;
      i++;
    } while (i < until && time[i]! < end);
    min[b] = low;
    max[b] = high;
  }
}

/** The first place behind a moment and all that stand on it. */
function afterAll(time: Float64Array, t: number): number {
  let i = indexAt(time, t);
  while (i < time.length && time[i]! <= t) i++;
  return i;
}
