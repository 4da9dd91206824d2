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
