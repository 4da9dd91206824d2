import { covered, statistics } from '../series/index.ts';

/** What the sensor after the catalyst says of it, and why. */
export interface DownstreamJudgement {
  verdict: 'steady' | 'follows' | 'undecided';
  /** Path length of the downstream signal over that of the upstream one; null with a wide-band sensor upstream. */
  activityRatio: number | null;
  why: string;
}

/** Below: storage is there; above: the downstream sensor follows. Between the two nothing is said. [house] */
const STEADY_BELOW = 0.25;
const FOLLOWS_ABOVE = 0.6;
/** With a wide-band sensor upstream, the downstream swing that asks for a forced step, V. [house] */
const SWING_V = 0.45;

/**
 * By its crossings: a healthy downstream sensor crosses hardly at all. One that crosses this share of the upstream one's
 * times (where that is wide-band, this often in 10 s) and swings by this many volts follows it. [house]
 */
export const DOWNSTREAM = { share: FOLLOWS_ABOVE, crossings: 6, swingV: 0.25, steady: 1 } as const;

/** Length a signal travels a second; across a gap nobody saw it travel. */
function activity(time: ArrayLike<number>, volts: ArrayLike<number>): number {
  const { seconds, gaps } = covered(time);
  const behindGap = new Set(gaps.map((g) => g.to));
  let sum = 0;
  for (let i = 1; i < volts.length; i++) if (!behindGap.has(time[i]!)) sum += Math.abs(volts[i]! - volts[i - 1]!);
  return sum / seconds;
}

/**
 * Downstream against upstream, both narrow-band, warm, at a steady hold; `upstream` null: wide-band, then only the
 * downstream swing is seen. Needs ten seconds.
 */
export function judgeDownstream(
  upstream: { time: ArrayLike<number>; volts: ArrayLike<number> } | null,
  downstream: { time: ArrayLike<number>; volts: Float64Array },
): DownstreamJudgement {
  const n = downstream.volts.length;
  const { seconds } = covered(downstream.time);
  if (!(seconds >= 8) || n < 8)
    return { verdict: 'undecided', activityRatio: null, why: 'too little signal: ten seconds are needed' };
  const s = statistics(downstream.volts)!;
  if (!upstream) {
    const swing = s.max - s.min;
    return swing < SWING_V / 3
      ? { verdict: 'steady', activityRatio: null, why: `downstream moves ${swing.toFixed(2)} V` }
      : {
          verdict: 'undecided',
          activityRatio: null,
          why: `downstream moves ${swing.toFixed(2)} V under a wide-band sensor: time its delay after a forced step`,
        };
  }
  const up = activity(upstream.time, upstream.volts);
  if (!(up > 0.2))
    return {
      verdict: 'undecided',
      activityRatio: null,
      why: 'the upstream sensor hardly moves: nothing to compare with',
    };
  const ratio = activity(downstream.time, downstream.volts) / up;
  const share = `${Math.round(100 * ratio)} % of the upstream activity`;
  if (ratio < STEADY_BELOW) return { verdict: 'steady', activityRatio: ratio, why: `${share}: oxygen is stored` };
  if (ratio > FOLLOWS_ABOVE)
    return { verdict: 'follows', activityRatio: ratio, why: `${share}: the storage looks gone` };
  return { verdict: 'undecided', activityRatio: ratio, why: `${share}: between steady and following` };
}
