import { median, statistics } from '../series/index.ts';

/** One sample: time in s of the link's clock, value in the channel's unit. */
export interface Point {
  readonly t: number;
  readonly v: number;
}

/** A single value this many robust deviations off its neighbours is a broken frame, not the engine. Hampel's identifier. */
const SPIKE = 8;
/** The least deviation assumed, as a share of the median: quiet channels have none. [house] */
const SPIKE_FLOOR = 0.02;
/** A median absolute deviation of this many makes a standard deviation of normal noise. Hampel 1974 (from memory). */
const MAD_TO_SD = 1.4826;

function withoutSpikes(values: readonly number[]): readonly number[] {
  if (values.length < 7) return values;
  const middle = median(values);
  const spread = MAD_TO_SD * median(values.map((v) => Math.abs(v - middle)));
  const limit = SPIKE * Math.max(spread, SPIKE_FLOOR * Math.abs(middle), 1e-3);
  const kept = values.filter((v) => Math.abs(v - middle) <= limit);
  // More than a tenth off is no spike: that is how the engine runs.
  return kept.length >= 0.9 * values.length ? kept : values;
}

/** Mean and sample standard deviation without single broken frames; null of nothing. */
export function robust(points: readonly Point[]): { mean: number; sd: number } | null {
  return statistics(withoutSpikes(points.map((p) => p.v)));
}

/** Median of the newest five: one broken frame decides nothing. */
export function recent(points: readonly Point[]): number | undefined {
  return points.length === 0 ? undefined : median(points.slice(-5).map((p) => p.v));
}
