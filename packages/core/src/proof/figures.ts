import { type Reading, throttleLimit, type VehicleSpec } from '../case/index.ts';
import { DOWNSTREAM, FEW_CROSSINGS, SLOW_MS } from '../oxygen/index.ts';

/** What a figure may be at most or at least for the part to be in order. */
export interface FigureLimit {
  value: number;
  side: 'most' | 'least';
}

/** A figure beside the trims, before and after the repair. */
export interface FigureChange {
  at: Reading['at'];
  quantity:
    | 'Airflow'
    | 'Airflow sensor’s signal'
    | 'Manifold pressure'
    | 'Relative throttle'
    | 'Slowest transition'
    | 'Crossings in 10 s'
    | 'Downstream crossings in 10 s';
  /** Of the sensor; null for what the whole engine has. */
  bank: 1 | 2 | null;
  unit: 'g/s' | 'V' | 'kPa' | '%' | '°' | 'ms' | '';
  before: number;
  after: number;
  /** What two readings of it differ by anyway. */
  uncertainty: number;
  changed: boolean;
  /** The vehicle's own, or that of every sensor of its kind; null where there is none. */
  limit: FigureLimit | null;
}

/**
 * Two readings of the same figure differ by about 3 % of it, by its step (SAE J1979: MAF 0.01 g/s, MAP 1 kPa, throttle
 * 0.392 %), and by what differs between two visits; switching differs by more. [house]
 */
const SHARE = { 'g/s': 0.03, V: 0.03, kPa: 0.03, '%': 0.03, '°': 0.03, ms: 0.2, '': 0.1 } as const;
const STEP = { 'g/s': 0.1, V: 0.02, kPa: 1.5, '%': 0.5, '°': 0.3, ms: 5, '': 1 } as const;

/** Whether a figure is where a part in order has it; true where nothing says. */
export function insideLimit(v: number, limit: FigureLimit | null): boolean {
  return limit === null || (limit.side === 'most' ? v <= limit.value : v >= limit.value);
}

/**
 * Airflow, pressure, throttle and the switching of oxygen sensors at the points taken both times; the throttle only on one
 * channel, against its own limit.
 */
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
      limit: FigureLimit | null = null,
      bank: FigureChange['bank'] = null,
    ) => {
      if (then === undefined || now === undefined) return;
      const uncertainty = SHARE[unit] * Math.max(Math.abs(then), Math.abs(now)) + STEP[unit];
      const changed = Math.abs(now - then) > uncertainty;
      out.push({ at: a.at, quantity, bank, unit, before: then, after: now, uncertainty, changed, limit });
    };
    add('Airflow', 'g/s', b.mafGps, a.mafGps);
    // Only where both are volts: with the curve on the card since, the later one is airflow.
    add('Airflow sensor’s signal', 'V', b.mafV, a.mafV);
    add('Manifold pressure', 'kPa', b.mapKPa, a.mapKPa);
    for (const bank of [1, 2] as const) {
      const [up, upNow] = [b.o2?.[`bank${bank}s1`], a.o2?.[`bank${bank}s1`]];
      add('Slowest transition', 'ms', slowest(up), slowest(upNow), { value: SLOW_MS, side: 'most' }, bank);
      if (a.at === 'idle') continue;
      const least = { value: FEW_CROSSINGS, side: 'least' } as const;
      add('Crossings in 10 s', '', up?.crossingsPer10s, upNow?.crossingsPer10s, least, bank);
      const [down, downNow] = [b.o2?.[`bank${bank}s2`], a.o2?.[`bank${bank}s2`]].map((s) => s?.crossingsPer10s);
      add('Downstream crossings in 10 s', '', down, downNow, { value: DOWNSTREAM.steady, side: 'most' }, bank);
    }
    if (a.at !== 'idle') continue;
    // A percent channel is never held against a limit in degrees.
    const own = throttleLimit(limits);
    const against = (unit: '°' | '%') => (own?.unit === unit ? ({ value: own.limit, side: 'most' } as const) : null);
    add('Relative throttle', '°', b.relativeThrottleDeg, a.relativeThrottleDeg, against('°'));
    add('Relative throttle', '%', b.relativeThrottlePct, a.relativeThrottlePct, against('%'));
  }
  return out;
}

/** The relative throttle on the channel it was read on. */
export function throttleOf(r: Reading): { value: number; unit: '%' | '°' } | null {
  if (r.relativeThrottlePct !== undefined) return { value: r.relativeThrottlePct, unit: '%' };
  return r.relativeThrottleDeg === undefined ? null : { value: r.relativeThrottleDeg, unit: '°' };
}

/** The slower of the two ways a sensor switches, ms. */
function slowest(s: NonNullable<Reading['o2']>[string] | undefined): number | undefined {
  const times = [s?.leanToRichMs, s?.richToLeanMs].filter((t) => t !== undefined);
  return times.length > 0 ? Math.max(...times) : undefined;
}

/** Digits behind the point of two figures beside each other: as many as they were given with, one to two. */
export function digitsOf(f: Pick<FigureChange, 'before' | 'after' | 'unit'>): number {
  const given = (v: number) => (Math.round(v * 10) === v * 10 ? 1 : 2);
  return f.unit === 'ms' || f.unit === '' ? 0 : Math.max(given(f.before), given(f.after));
}
