import { median } from './statistics.ts';

/** Shorter ones are no outage, s; and so many of a channel's own steps are none either. [house] */
export const LEAST_GAP_S = 2;
const MOST_STEPS = 6;
/** A time without a sample: from the last one before it to the first behind it, s. */
export interface Gap {
  from: number;
  to: number;
}

/** Steps that are looked at for the rhythm. */
const LOOKED_AT = 2001;

/**
 * Where a channel has no sample for far longer than its own rhythm: from the last sample before to the first after, s.
 * Given rising times. A channel asked every 20 s has no gap of 20 s.
 */
export function gapsOf(time: ArrayLike<number>): Gap[] {
  const steps = time.length - 1;
  if (steps < 2) return [];
  const looked = Math.min(LOOKED_AT, steps);
  const rhythm = median(
    Float64Array.from({ length: looked }, (_, k) => {
      const i = Math.floor((k * (steps - 1)) / Math.max(1, looked - 1));
      return time[i + 1]! - time[i]!;
    }),
  );
  const limit = Math.max(LEAST_GAP_S, MOST_STEPS * rhythm);
  const out: Gap[] = [];
  for (let i = 0; i < steps; i++) if (time[i + 1]! - time[i]! >= limit) out.push({ from: time[i]!, to: time[i + 1]! });
  return out;
}

/** Time that samples cover, gaps left out: seconds, and the steps from one sample to the next within them. */
export function covered(time: ArrayLike<number>): { seconds: number; steps: number; gaps: readonly Gap[] } {
  const n = time.length;
  if (n < 2) return { seconds: 0, steps: 0, gaps: [] };
  const gaps = gapsOf(time);
  const empty = gaps.reduce((sum, g) => sum + g.to - g.from, 0);
  return { seconds: time[n - 1]! - time[0]! - empty, steps: n - 1 - gaps.length, gaps };
}

/**
 * At most about `most` of some points, in their order: of every stretch those with the least and the greatest x and y.
 * No extreme of a scatter is lost.
 */
export function thinned<P extends { x: number; y: number }>(points: readonly P[], most: number): P[] {
  if (points.length <= most) return [...points];
  const stretch = Math.ceil((4 * points.length) / most);
  const out: P[] = [];
  for (let from = 0; from < points.length; from += stretch) {
    const part = points.slice(from, from + stretch);
    const extremes = (['x', 'y'] as const).flatMap((axis) => [
      part.reduce((a, b) => (b[axis] < a[axis] ? b : a)),
      part.reduce((a, b) => (b[axis] > a[axis] ? b : a)),
    ]);
    out.push(...part.filter((p) => extremes.includes(p)));
  }
  return out;
}
