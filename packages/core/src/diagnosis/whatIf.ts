import type { OperatingPoint } from '../case/index.ts';
import { FAULT_BY_ID, moves } from '../catalogue/index.ts';
import type { Evidence } from './evidence/types.ts';
import { predict } from './model/forward.ts';
import { severityGrid } from './model/severity.ts';
import type { Weighed } from './model/weighed.ts';

/** What an engine would show at one point. */
export interface WouldRead {
  at: OperatingPoint;
  airflowGps: number;
  /** Displayed total per bank, %. */
  trimPct: [number, number];
  /** Airflow signal over physics, ratio; null where the engine meters none. */
  airflowRatio: number | null;
}

/** One fault to play with on one vehicle. */
export interface WhatIf {
  /** Smallest and largest size, in the fault's unit; null where a size has no meaning. */
  sizes: { low: number; high: number; unit: string } | null;
  /** The readings that this size would give at the points measured; empty where the fault cannot exist. */
  read: (severity: number, bank?: 1 | 2) => WouldRead[];
}

/** One fault on weighed evidence; any size is cheap. The variant of the fault that fits the evidence best is played. */
export function playedFault(fault: string, ranked: readonly Weighed[], ev: Evidence): WhatIf {
  const row = FAULT_BY_ID.get(fault);
  const weighed = ranked.find((w) => w.row === row);
  if (!row || !weighed) return { sizes: null, read: () => [] };
  const moving = weighed.grid.filter((g) => moves(g.shape));
  const shape =
    moving.length > 0
      ? moving.reduce((a, b) => (b.probability > a.probability ? b : a)).shape
      : (row.variants.find((v) => moves(v.shape)) ?? row.variants[0]!).shape;
  const grid = severityGrid(row, ev);
  return {
    sizes:
      row.severity && !row.sizeless
        ? { low: grid[0]!.severity, high: grid.at(-1)!.severity, unit: row.severity.unit }
        : null,
    read: (severity, bank = 1) =>
      ev.points.map((p) => {
        const e = predict(shape, severity, bank, p, ev);
        return {
          at: p.at,
          airflowGps: p.airflowGps,
          trimPct: e.trimPct,
          airflowRatio: ev.vehicle.metering === 'speed-density' ? null : Math.exp(e.airflowLog),
        };
      }),
  };
}
