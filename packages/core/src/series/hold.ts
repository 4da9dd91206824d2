import { indexAt } from './series.ts';

/** Half a nanosecond and more: a sample taken at this very moment counts. */
const SAME_MOMENT_S = 1e-9;

/** Index of the newest sample that is not after `t`; −1 before the first. Times in s, rising. */
export function heldIndex(time: Float64Array, t: number): number {
  return indexAt(time, t + SAME_MOMENT_S) - 1;
}

/** Value of a channel held at `t`: its newest sample not after it; NaN before the first and `staleS` after the last. */
export function heldAt(c: { time: Float64Array; value: Float64Array }, t: number, staleS: number): number {
  const i = heldIndex(c.time, t);
  return i >= 0 && t - c.time[i]! <= staleS ? c.value[i]! : Number.NaN;
}

/** For every moment the index of the newest sample that is not after it; −1 before the first. Both rising; one pass. */
export function holdOnto(moments: ArrayLike<number>, time: ArrayLike<number>): Int32Array {
  const out = new Int32Array(moments.length);
  let k = -1;
  for (let i = 0; i < moments.length; i++) {
    while (k + 1 < time.length && time[k + 1]! <= moments[i]!) k++;
    out[i] = k;
  }
  return out;
}
