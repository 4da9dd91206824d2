import { gatherEvidence } from './evidence.ts';
import { canExist, FAULT_BY_ID } from './faults.ts';
import { predict } from './forward.ts';
import type { Case } from './types.ts';
import { severityGrid, weigh } from './weigh.ts';

/** What an engine would show at one point. */
export interface WouldRead {
  at: string;
  airflowGps: number;
  /** Displayed total per bank, %. */
  trimPct: [number, number];
  /** Airflow signal over physics, ratio; null where the engine meters none. */
  airflowRatio: number | null;
}

/** Smallest and largest size of a fault on this vehicle, in the fault's unit; null where a size has no meaning. */
export function sizesOf(c: Case, fault: string): { low: number; high: number; unit: string } | null {
  const row = FAULT_BY_ID.get(fault);
  if (!row?.severity || row.sizeless) return null;
  const grid = severityGrid(row, gatherEvidence(c));
  return { low: grid[0]!.severity, high: grid.at(-1)!.severity, unit: row.severity.unit };
}

/**
 * The readings that a fault of this size would give at the points measured, by the variant that fits the evidence best.
 * Given a case, a fault id, a size in its unit, the bank of a per-bank fault. Empty where the fault cannot exist.
 */
export function wouldRead(c: Case, fault: string, severity: number, bank: 1 | 2 = 1): WouldRead[] {
  const ev = gatherEvidence(c);
  const row = FAULT_BY_ID.get(fault);
  if (!row || !canExist(row, ev.vehicle, ev.banks)) return [];
  const moving = weigh(ev)
    .find((w) => w.row === row)!
    .grid.filter((g) => g.shape.kind !== 'none');
  const shape =
    moving.length > 0
      ? moving.reduce((a, b) => (b.probability > a.probability ? b : a)).shape
      : (row.variants.find((v) => v.shape.kind !== 'none') ?? row.variants[0]!).shape;
  return ev.points.map((p) => {
    const e = predict(shape, severity, bank, p, ev);
    return {
      at: p.at,
      airflowGps: p.airflowGps,
      trimPct: e.trimPct,
      airflowRatio: ev.vehicle.metering === 'speed-density' ? null : Math.exp(e.airflowLog),
    };
  });
}
