import type { Case, OperatingPoint } from '../case/index.ts';
import { gatherEvidence } from './evidence/evidence.ts';
import { weigh } from './model/weigh.ts';
import type { Settings } from './types.ts';

/** A cause's predicted totals at every closed-loop point, for the ghost line on the beam. */
export interface GhostShape {
  fault: string;
  bank: 1 | 2 | null;
  probability: number;
  points: { at: OperatingPoint; airflowGps: number; trimPct: [number, number] }[];
}

/** Predicted shapes of the leading causes, likeliest first; points ordered by airflow. */
export function beamShapes(c: Case, settings: Settings = {}, count = 3): GhostShape[] {
  const ev = gatherEvidence(c);
  return weigh(ev, settings)
    .sort((a, b) => b.probability - a.probability)
    .slice(0, count)
    .map((w) => ({
      fault: w.row.id,
      bank: w.bank,
      probability: w.probability,
      points: ev.points.map((p, i) => ({ at: p.at, airflowGps: p.airflowGps, trimPct: w.expected[i]!.trimPct })),
    }));
}
