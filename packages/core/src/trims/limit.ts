/** On which side of a limit a figure stands, or that its step leaves it open. */
export type LimitCall = 'inside' | 'past' | 'undecided';

/**
 * A figure against a limit, both in the same unit, as the tool's steps allow: within one step of the limit nothing is
 * said. `quantum` 0 for a mean of many samples, which lies between the steps. SAE J1979 gives the steps.
 */
export function againstLimit(value: number, limit: number, quantum: number): LimitCall {
  if (Math.abs(value - limit) < quantum) return 'undecided';
  return value > limit ? 'past' : 'inside';
}

/** The same against a band; past either edge is past. */
export function againstBand(value: number, low: number, high: number, quantum: number): LimitCall {
  const calls = [againstLimit(value, high, quantum), againstLimit(-value, -low, quantum)];
  return calls.includes('past') ? 'past' : calls.includes('undecided') ? 'undecided' : 'inside';
}
