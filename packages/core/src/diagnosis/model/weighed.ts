import type { FaultRow, Shape } from '../../catalogue/index.ts';
import type { Effect } from './forward.ts';

/** One size of one variant, with what it does at every point. */
export interface Cell {
  severity: number;
  shape: Shape;
  probability: number;
  effects: Effect[];
}

/** One fault on one bank, weighed over its severities. */
export interface Weighed {
  row: FaultRow;
  bank: 1 | 2 | null;
  /** ln of prior weight with the weak evidence; banks shared. */
  logPrior: number;
  /** ln likelihood of everything measured, severity integrated out; no prior. */
  logLikelihood: number;
  /** What of it the figures beside trims and airflow give: full load, idle, pressures. */
  restLog: number;
  /** Posterior over variants and sizes. */
  grid: Cell[];
  /** Predicted effects at every point, averaged over the grid. */
  expected: Effect[];
  probability: number;
}

/** ln Σ exp, safe for all −∞. */
export function logSumExp(values: readonly number[]): number {
  let top = Number.NEGATIVE_INFINITY;
  for (const v of values) if (v > top) top = v;
  if (top === Number.NEGATIVE_INFINITY) return top;
  let sum = 0;
  for (const v of values) sum += Math.exp(v - top);
  return top + Math.log(sum);
}
