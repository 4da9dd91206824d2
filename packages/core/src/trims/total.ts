import { againstLimit } from './limit.ts';

/** The trim limits in force: percentage points of displayed total. Common practice; a shop setting. */
export interface TrimLimits {
  watchPct: number;
  actPct: number;
}

/** Total trim within this is normal, %. Common practice, no source. */
export const HEALTHY_BAND_PCT = 5;
/** Total trim worth watching, and worth acting on, ±%. Common practice, no source. */
export const DEFAULT_LIMITS: TrimLimits = { watchPct: 5, actPct: 10 };
/** Limits in use, from early to late. Common practice; people disagree, the shop chooses. */
export const TRIM_LIMIT_SETS: readonly (TrimLimits & { id: string; label: string })[] = [
  { id: '5', label: 'Act past ±5', watchPct: 3, actPct: 5 },
  { id: '8', label: 'Act past ±8', watchPct: 5, actPct: 8 },
  { id: '10', label: 'Act past ±10', watchPct: 5, actPct: 10 },
  { id: '20', label: 'Wait for ±20', watchPct: 10, actPct: 20 },
];
/** Where the ECU's authority ends, %. Common practice, no source. */
export const TRIM_AUTHORITY_PCT = 25;

/** Displayed total trim, %: short plus long term. Undefined when neither is there. */
export function displayedTotal(t: { stft?: number; ltft?: number }): number | undefined {
  if (t.stft === undefined && t.ltft === undefined) return undefined;
  return (t.stft ?? 0) + (t.ltft ?? 0);
}

/** The correction really applied, %: (1 + S)(1 + L) − 1. */
export function appliedCorrectionPct(stft: number, ltft: number): number {
  return ((1 + stft / 100) * (1 + ltft / 100) - 1) * 100;
}

/** One of the two stands at the ECU's limit: the true error may be larger. */
export function isPegged(t: { stft?: number; ltft?: number }): boolean {
  const at = (v: number | undefined) => v !== undefined && Math.abs(v) >= TRIM_AUTHORITY_PCT - 0.8;
  return at(t.stft) || at(t.ltft);
}

/** What a total is called under the limits. */
export type TrimVerdict = 'normal' | 'watch' | 'act' | 'undecided';

/** What a total is called under the limits. `quantum`: the tool's step for a total read by eye, 0 for a mean of many samples. */
export function verdict(totalPct: number, limits: TrimLimits, quantum = 0): TrimVerdict {
  const a = Math.abs(totalPct);
  const act = againstLimit(a, limits.actPct, quantum);
  if (act !== 'inside') return act === 'past' ? 'act' : 'undecided';
  const watch = againstLimit(a, limits.watchPct, quantum);
  return watch === 'inside' ? 'normal' : watch === 'past' ? 'watch' : 'undecided';
}

/** How far a total wanders that was read by eye, and what an eye adds to its noise, percentage points. [house] */
export const BY_EYE_SD = 1.5;
