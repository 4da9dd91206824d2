import { covered, median } from '../series/index.ts';

/** How a narrow-band sensor switched over a window. */
export interface Switching {
  crossingsPer10s: number;
  /** Median of the rises from 0.3 to 0.6 V and of the falls back, ms; null where the rate does not allow it. */
  leanToRichMs: number | null;
  richToLeanMs: number | null;
  minV: number;
  maxV: number;
  sampleHz: number;
  seconds: number;
}

/** Transitions are judged above this rate on one channel only, samples/s. Common practice, no source. */
export const TRANSITIONS_FROM_HZ = 20;
/** Lean below, rich above, V: the transition's ends. Common practice, no source. */
const LEAN_V = 0.3;
const RICH_V = 0.6;
/** A crossing of 0.45 V counts once the signal has left this band, V: noise at the switch is none. [house] */
const BAND_V = [0.4, 0.5] as const;
/** In closed loop at 2,500 rpm a good sensor crosses at least this often in 10 s. Common practice, no source. */
export const FEW_CROSSINGS = 4;
/** A good transition takes less than about this, ms. Common practice, no source. */
export const SLOW_MS = 100;
/** A rise or fall longer than this is drift, not a switch, s. [house] */
const LONGEST_S = 2;

/**
 * Count and time the switching. Times in s, rising; null of fewer than five samples or no span. What may have happened in
 * a gap is not counted, nor is its time.
 */
export function switching(time: ArrayLike<number>, volts: ArrayLike<number>): Switching | null {
  const n = Math.min(time.length, volts.length);
  const { seconds, steps, gaps } = covered(Float64Array.from({ length: n }, (_, i) => time[i]!));
  if (n < 5 || !(seconds > 0)) return null;
  const sampleHz = steps / seconds;
  const behindGap = new Set(gaps.map((g) => g.to));
  let minV = Number.POSITIVE_INFINITY;
  let maxV = Number.NEGATIVE_INFINITY;
  let side = 0;
  let crossings = 0;
  const rises: number[] = [];
  const falls: number[] = [];
  /** When the signal last left the lean end upwards, and the rich end downwards. */
  let leftLean: number | null = null;
  let leftRich: number | null = null;
  const at = (i: number, level: number) =>
    time[i - 1]! + ((time[i]! - time[i - 1]!) * (level - volts[i - 1]!)) / (volts[i]! - volts[i - 1]!);
  for (let i = 0; i < n; i++) {
    const v = volts[i]!;
    minV = Math.min(minV, v);
    maxV = Math.max(maxV, v);
    const anew = i === 0 || behindGap.has(time[i]!);
    if (anew) [side, leftLean, leftRich] = [0, null, null];
    const now = v >= BAND_V[1] ? 1 : v <= BAND_V[0] ? -1 : side;
    if (side !== 0 && now !== side) crossings++;
    side = now;
    if (anew) continue;
    const before = volts[i - 1]!;
    if (before <= LEAN_V && v > LEAN_V) leftLean = at(i, LEAN_V);
    if (before >= RICH_V && v < RICH_V) leftRich = at(i, RICH_V);
    if (before < RICH_V && v >= RICH_V && leftLean !== null) {
      if (at(i, RICH_V) - leftLean < LONGEST_S) rises.push(at(i, RICH_V) - leftLean);
      leftLean = null;
    }
    if (before > LEAN_V && v <= LEAN_V && leftRich !== null) {
      if (at(i, LEAN_V) - leftRich < LONGEST_S) falls.push(at(i, LEAN_V) - leftRich);
      leftRich = null;
    }
  }
  const timed = (list: number[]) => (sampleHz > TRANSITIONS_FROM_HZ && list.length > 0 ? 1000 * median(list) : null);
  return {
    crossingsPer10s: (10 * crossings) / seconds,
    leanToRichMs: timed(rises),
    richToLeanMs: timed(falls),
    minV,
    maxV,
    sampleHz,
    seconds,
  };
}

/** What a switching sensor does, and why it is called so. */
export interface NarrowJudgement {
  verdict: 'switching' | 'slow' | 'few' | 'stays-lean' | 'stays-rich' | 'undecided';
  why: string;
}

/** A sensor in closed loop at a steady hold. Sensor or mixture is not decided here: a sensor that stays lean may be right. */
export function judgeNarrow(s: Switching): NarrowJudgement {
  const range = `${s.minV.toFixed(2)} to ${s.maxV.toFixed(2)} V`;
  if (s.seconds < 8) return { verdict: 'undecided', why: `${s.seconds.toFixed(0)} s of signal: ten are needed` };
  if (s.maxV < 0.45)
    return { verdict: 'stays-lean', why: `stays at ${range}: force it rich to tell sensor from mixture` };
  if (s.minV > 0.45)
    return { verdict: 'stays-rich', why: `stays at ${range}: force it lean to tell sensor from mixture` };
  const slowest = Math.max(s.leanToRichMs ?? 0, s.richToLeanMs ?? 0);
  if (slowest > SLOW_MS)
    return {
      verdict: 'slow',
      why: `0.3 to 0.6 V takes ${slowest.toFixed(0)} ms, a good one under about ${SLOW_MS} ms`,
    };
  if (s.crossingsPer10s < FEW_CROSSINGS)
    // Sampled below twice its own pace, switching is missed: a count of few proves nothing.
    return s.sampleHz < 2
      ? { verdict: 'undecided', why: `${s.sampleHz.toFixed(1)} samples/s miss crossings: poll this sensor alone` }
      : { verdict: 'few', why: `${s.crossingsPer10s.toFixed(1)} crossings in 10 s, several are expected` };
  return slowest > 0
    ? { verdict: 'switching', why: `${s.crossingsPer10s.toFixed(0)} crossings in 10 s, ${slowest.toFixed(0)} ms` }
    : {
        verdict: 'switching',
        why: `${s.crossingsPer10s.toFixed(0)} crossings in 10 s; transition times undecided at ${s.sampleHz.toFixed(0)} samples/s, more than ${TRANSITIONS_FROM_HZ} are needed`,
      };
}
