import { indexAt } from './series.ts';
import { type MinMax, minMax } from './statistics.ts';

/** Samples under one bucket of the finest level, and buckets under one of the next. [house] */
const FINEST = 64;
const STEP = 8;
const COARSEST_BUCKETS = 256;

/** One level: per bucket its first sample's time, least and greatest value. */
export interface Level {
  time: Float64Array;
  min: Float64Array;
  max: Float64Array;
}

/** Levels of a numeric column, finest first; none for a short one. Every peak of the column is in every level. */
export function pyramid(time: Float64Array, value: Float64Array): Level[] {
  const levels: Level[] = [];
  let below: Level = { time, min: value, max: value };
  for (let by = FINEST; below.time.length > COARSEST_BUCKETS * (levels.length === 0 ? 4 : 1); by = STEP) {
    below = merged(below, by);
    levels.push(below);
  }
  return levels;
}

function merged(l: Level, by: number): Level {
  const n = Math.ceil(l.time.length / by);
  const out = { time: new Float64Array(n), min: new Float64Array(n), max: new Float64Array(n) };
  for (let b = 0; b < n; b++) {
    let low = Number.POSITIVE_INFINITY;
    let high = Number.NEGATIVE_INFINITY;
    const end = Math.min(l.time.length, (b + 1) * by);
    for (let i = b * by; i < end; i++) {
      if (l.min[i]! < low) low = l.min[i]!;
      if (l.max[i]! > high) high = l.max[i]!;
    }
    out.time[b] = l.time[b * by]!;
    out.min[b] = low;
    out.max[b] = high;
  }
  return out;
}

/**
 * At most `buckets` pairs over [from, to) from the coarsest level that still has four entries a bucket; from the samples
 * themselves when none has. Buckets of a level reach over the border of a drawn bucket by at most one entry.
 */
export function reduce(
  column: { time: Float64Array; value: Float64Array; levels: readonly Level[] },
  from: number,
  to: number,
  buckets: number,
): MinMax {
  for (let k = column.levels.length - 1; k >= 0; k--) {
    const l = column.levels[k]!;
    const inside = indexAt(l.time, to) - indexAt(l.time, from);
    if (inside < 4 * buckets) continue;
    const low = minMax(l.time, l.min, from, to, buckets);
    const high = minMax(l.time, l.max, from, to, buckets);
    return { time: low.time, min: low.min, max: high.max };
  }
  return minMax(column.time, column.value, from, to, buckets);
}
