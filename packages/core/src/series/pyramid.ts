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
  const walk = (k: number, first: number, last: number) => {
    const l = levels[k]!;
    for (let i = first; i < last && l.time[i]! <= to; i++) {
      if (l.end[i]! < from) continue;
      const begins = l.time[i]!;
      const whole = k === 0 || (begins >= from && l.end[i]! <= to && l.end[i]! - begins <= MOST_SPAN * width);
      if (whole) {
        const b = Math.min(buckets - 1, Math.floor((begins - from) / width));
        if (l.min[i]! < min[b]!) min[b] = l.min[i]!;
        if (l.max[i]! > max[b]!) max[b] = l.max[i]!;
      } else {
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
  walk(k, Math.max(0, indexAt(start.time, from) - (k === 0 ? 0 : 1)), start.time.length);
  const filled = [...min.keys()].filter((b) => min[b]! <= max[b]!);
  return {
    time: Float64Array.from(filled, (b) => from + (b + 0.5) * width),
    min: Float64Array.from(filled, (b) => min[b]!),
    max: Float64Array.from(filled, (b) => max[b]!),
  };
}
