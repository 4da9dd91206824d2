import { indexAt } from './series.ts';

/** What a strip draws: per bucket the least and the greatest value, so that no peak is lost. */
export interface MinMax {
  /** Bucket middles, s. Buckets without a sample are left out. */
  time: Float64Array;
  min: Float64Array;
  max: Float64Array;
}

/**
 * Reduce samples to at most `buckets` pairs over [from, to). Given rising times. Spikes survive: every bucket keeps its
 * extremes. One pass.
 */
export function minMax(time: Float64Array, value: Float64Array, from: number, to: number, buckets: number): MinMax {
  if (!(to > from) || !(buckets >= 1)) throw new RangeError(`minMax: from ${from} to ${to} in ${buckets} buckets`);
  const min = new Float64Array(buckets);
  const max = new Float64Array(buckets);
  const middle = new Float64Array(buckets);
  const width = (to - from) / buckets;
  const last = indexAt(time, to);
  let i = indexAt(time, from);
  let n = 0;
  for (let b = 0; b < buckets && i < last; b++) {
    const end = b === buckets - 1 ? Number.POSITIVE_INFINITY : from + (b + 1) * width;
    let low = Number.POSITIVE_INFINITY;
    let high = Number.NEGATIVE_INFINITY;
    for (; i < last && time[i]! < end; i++) {
      const v = value[i]!;
      if (v < low) low = v;
      if (v > high) high = v;
    }
    if (low > high) continue;
    middle[n] = from + (b + 0.5) * width;
    min[n] = low;
    max[n++] = high;
  }
  return { time: middle.subarray(0, n), min: min.subarray(0, n), max: max.subarray(0, n) };
}

/** Mean, sample standard deviation, extremes and count of some values; null of none. */
export function statistics(
  value: ArrayLike<number>,
): { mean: number; sd: number; min: number; max: number; n: number } | null {
  const n = value.length;
  if (n === 0) return null;
  let mean = 0;
  let m2 = 0;
  let min = Number.POSITIVE_INFINITY;
  let max = Number.NEGATIVE_INFINITY;
  // Welford's recurrence: no cancellation on long recordings.
  for (let i = 0; i < n; i++) {
    const v = value[i]!;
    const d = v - mean;
    mean += d / (i + 1);
    m2 += d * (v - mean);
    if (v < min) min = v;
    if (v > max) max = v;
  }
  return { mean, sd: n > 1 ? Math.sqrt(m2 / (n - 1)) : 0, min, max, n };
}

/** The middle value; of an even number the mean of the middle two. NaN of nothing. */
export function median(value: ArrayLike<number>): number {
  const sorted = Float64Array.from(value).sort();
  return (sorted[(sorted.length - 1) >> 1]! + sorted[sorted.length >> 1]!) / 2;
}
