import { betaCdf, betaQuantile } from '../procedures/index.ts';

/** A share with its 95 % interval. */
export interface Share {
  mean: number;
  low: number;
  high: number;
}

/** Mean and central 95 % interval of Beta(a, b). Of a Dirichlet each share alone is Beta(αᵢ, Σα − αᵢ). */
export function betaShare(a: number, b: number): Share {
  if (a <= 0) return { mean: 0, low: 0, high: 0 };
  if (b <= 0) return { mean: 1, low: 1, high: 1 };
  return { mean: a / (a + b), low: betaQuantile(0.025, a, b), high: betaQuantile(0.975, a, b) };
}

/** Middle value of numbers in any order; NaN of none. */
export function median(values: readonly number[]): number {
  const s = [...values].sort((a, b) => a - b);
  const m = s.length >> 1;
  return s.length % 2 === 1 ? s[m]! : (s[m - 1]! + s[m]!) / 2;
}

/** The value that Student's t with `df` degrees of freedom stays below with probability `p` > 0.5. */
export function studentQuantile(p: number, df: number): number {
  // P(T ≤ t) = 1 − ½ I(df / (df + t²); df/2, ½). Abramowitz & Stegun 26.7.1.
  const below = (t: number) => 1 - 0.5 * betaCdf(df / (df + t * t), df / 2, 0.5);
  let low = 0;
  let high = 1;
  while (below(high) < p && high < 1e6) high *= 2;
  for (let i = 0; i < 80; i++) {
    const mid = (low + high) / 2;
    if (below(mid) < p) low = mid;
    else high = mid;
  }
  return (low + high) / 2;
}

/** The median absolute deviation times this is the standard deviation of a normal distribution: 1/Φ⁻¹(¾). */
const MAD_TO_SD = 1.482602218505602;
/** Engines of one family differ by at least this share of the figure: no band gets narrower. [house] */
const LEAST_SPREAD = 0.02;

/** A middle value with the range of most of them. */
export interface RobustBand {
  n: number;
  middle: number;
  low: number;
  high: number;
}

/** From so many figures on a band is offered. [house] */
export const LEAST_FIGURES = 4;

/**
 * Where the next figure of the same kind should fall, 95 %: median ± t · s · √(1 + 1/n), with s from the median absolute
 * deviation, so that one wrong figure moves it little. It narrows with the count. Null below `LEAST_FIGURES`.
 */
export function robustBand(values: readonly number[]): RobustBand | null {
  const n = values.length;
  if (n < LEAST_FIGURES) return null;
  const middle = median(values);
  const s = Math.max(MAD_TO_SD * median(values.map((v) => Math.abs(v - middle))), LEAST_SPREAD * Math.abs(middle));
  const half = studentQuantile(0.975, n - 1) * s * Math.sqrt(1 + 1 / n);
  return { n, middle, low: middle - half, high: middle + half };
}

/** Median and middle half. */
export interface Spread {
  n: number;
  median: number;
  low: number;
  high: number;
}

export function spreadOf(values: readonly number[]): Spread | null {
  if (values.length === 0) return null;
  const s = [...values].sort((a, b) => a - b);
  const at = (p: number) => {
    const x = p * (s.length - 1);
    const i = Math.floor(x);
    return s[i]! + (x - i) * ((s[i + 1] ?? s[i]!) - s[i]!);
  };
  return { n: s.length, median: at(0.5), low: at(0.25), high: at(0.75) };
}
