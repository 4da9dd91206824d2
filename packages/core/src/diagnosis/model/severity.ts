import type { FaultRow } from '../../catalogue/index.ts';
import type { Evidence } from '../evidence/types.ts';
import type { Weighed } from './weighed.ts';

/** Severity grid points per fault. Finer changes no ranking (tested at 12 and 24). */
const GRID = 14;
/** Weight of sizes outside a fault's usual range. [house] */
const UNUSUAL = 1 / 3;

/** Of one gathered evidence, by fault: asked for many times. */
const GRIDS = new WeakMap<Evidence, Map<string, readonly Size[]>>();

interface Size {
  severity: number;
  share: number;
}

/** Sizes of a fault from low to high with their share of what is expected, worked out once for one evidence. */
export function severityGrid(row: FaultRow, ev: Evidence): readonly Size[] {
  let grids = GRIDS.get(ev);
  if (!grids) {
    grids = new Map();
    GRIDS.set(ev, grids);
  }
  let grid = grids.get(row.id);
  if (!grid) {
    grid = gridOf(row, ev);
    grids.set(row.id, grid);
  }
  return grid;
}

/** Sizes from low to high, geometric (linear where the range spans zero), with their share of the prior. */
function gridOf(row: FaultRow, ev: Evidence): Size[] {
  const s = row.severity;
  if (!s) return [{ severity: 0, share: 1 }];
  const k = s.of === 'idleFlow' ? ev.idleFlowGps : s.of === 'rail' ? ev.railKPa : 1;
  const step = (i: number) => i / (GRID - 1);
  const out = Array.from({ length: GRID }, (_, i) => {
    const v = s.low > 0 ? s.low * (s.high / s.low) ** step(i) : s.low + (s.high - s.low) * step(i);
    return { severity: v * k, share: s.usual && (v < s.usual[0] || v > s.usual[1]) ? UNUSUAL : 1 };
  });
  const sum = out.reduce((a, c) => a + c.share, 0);
  for (const c of out) c.share /= sum;
  return out;
}

/** A size that the readings leave as it was taken to be is none that was measured: so far it must be from it, ln. [house] */
const LEARNT = 0.03;

/** Whether anything that was read says how large a cause is. */
export function isMeasured(w: Weighed, ev: Evidence): boolean {
  const now = new Map<number, number>();
  for (const g of w.grid) now.set(g.severity, (now.get(g.severity) ?? 0) + g.probability);
  let apart = 0;
  for (const { severity, share } of severityGrid(w.row, ev)) {
    const p = now.get(severity) ?? 0;
    if (p > 0) apart += p * Math.log(p / share);
  }
  return apart > LEARNT;
}

/** Mean and 10–90 % interval of the severity, in the fault's unit; null where a size has no meaning. */
export function severityOf(w: Weighed): { value: number; low: number; high: number; unit: string } | null {
  if (!w.row.severity || w.row.sizeless) return null;
  const merged = new Map<number, number>();
  for (const g of w.grid) merged.set(g.severity, (merged.get(g.severity) ?? 0) + g.probability);
  const sorted = [...merged].sort((a, b) => a[0] - b[0]);
  const mean = sorted.reduce((s, [v, p]) => s + v * p, 0);
  const quantile = (q: number) => {
    let sum = 0;
    for (let i = 0; i < sorted.length; i++) {
      const [v, p] = sorted[i]!;
      if (sum + p >= q) {
        const next = sorted[Math.min(i + 1, sorted.length - 1)]![0];
        const prev = sorted[Math.max(i - 1, 0)]![0];
        // Inside a cell the mass is spread evenly between the midpoints to its neighbours.
        const lo = (v + prev) / 2;
        const hi = (v + next) / 2;
        return lo + (p > 0 ? (q - sum) / p : 0.5) * (hi - lo);
      }
      sum += p;
    }
    return sorted[sorted.length - 1]![0];
  };
  return {
    value: mean,
    low: Math.min(quantile(0.1), mean),
    high: Math.max(quantile(0.9), mean),
    unit: w.row.severity.unit,
  };
}
