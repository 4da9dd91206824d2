import { type Reading, throttleLimit, type VehicleSpec } from '../case/index.ts';

/** A figure beside the trims, before and after the repair. */
export interface FigureChange {
  at: Reading['at'];
  quantity: 'Airflow' | 'Manifold pressure' | 'Relative throttle';
  unit: 'g/s' | 'kPa' | '%' | '°';
  before: number;
  after: number;
  /** What two readings of it differ by anyway. */
  uncertainty: number;
  changed: boolean;
  /** At most, where the vehicle has a limit of its own for it. */
  limit: number | null;
}

/**
 * Two readings of the same figure differ by about 3 % of it, by its step (SAE J1979: MAF 0.01 g/s, MAP 1 kPa, throttle
 * 0.392 %), and by what differs between two visits. [house]
 */
const SHARE = 0.03;
const STEP = { 'g/s': 0.1, kPa: 1.5, '%': 0.5, '°': 0.3 } as const;

/** Airflow, pressure and throttle at the points taken both times; the throttle only on one channel, against its own limit. */
export function compareFigures(
  before: readonly Reading[],
  after: readonly Reading[],
  limits: VehicleSpec['limits'],
): FigureChange[] {
  const out: FigureChange[] = [];
  for (const a of after) {
    const b = before.find((x) => x.at === a.at);
    if (!b) continue;
    const add = (
      quantity: FigureChange['quantity'],
      unit: FigureChange['unit'],
      then: number | undefined,
      now: number | undefined,
      limit: number | null = null,
    ) => {
      if (then === undefined || now === undefined) return;
      const uncertainty = SHARE * Math.max(Math.abs(then), Math.abs(now)) + STEP[unit];
      out.push({
        at: a.at,
        quantity,
        unit,
        before: then,
        after: now,
        uncertainty,
        changed: Math.abs(now - then) > uncertainty,
        limit,
      });
    };
    add('Airflow', 'g/s', b.mafGps, a.mafGps);
    add('Manifold pressure', 'kPa', b.mapKPa, a.mapKPa);
    if (a.at !== 'idle') continue;
    // A percent channel is never held against a limit in degrees.
    const own = throttleLimit(limits);
    const against = (unit: '°' | '%') => (own?.unit === unit ? own.limit : null);
    add('Relative throttle', '°', b.relativeThrottleDeg, a.relativeThrottleDeg, against('°'));
    add('Relative throttle', '%', b.relativeThrottlePct, a.relativeThrottlePct, against('%'));
  }
  return out;
}
