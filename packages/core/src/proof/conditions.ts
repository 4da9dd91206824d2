import type { Reading } from '../case/index.ts';
import { orificeFlowGps } from '../gas/index.ts';
import { displayedTotal } from '../trims/index.ts';
import { signed } from '../units/index.ts';
import type { MatchedCondition } from './compare.ts';

/** What a difference in conditions does to the figures. Common practice, no source, where no formula is named. */
const EFFECTS: Readonly<Record<string, string>> = {
  Coolant: 'a colder engine is enriched and may run open loop: trims of it are not comparable',
  'Engine speed': 'a leak is a smaller share of more air: its trim falls as the flow rises',
  'Road speed': 'another load: compare trims of like air, not of like speed',
  'Air pressure': 'height changes airflow and vacuum by about 1.2 % a 100 m; a leak pulls less the thinner the air',
  'Fuel in the tank': 'refuelled since: other fuel moves trims by itself, 10 % more ethanol by about 4 points',
  'Air conditioning': 'its load raises airflow at idle and hides a small leak',
  'Intake air': 'denser air is more air at the same opening; trims move little, airflow by about 0.3 % a degree',
};

/** What a condition that differs may have done to the figures, as a sentence; null where they agree. */
export function effectOf(m: MatchedCondition): string | null {
  return m.matched ? null : (EFFECTS[m.quantity] ?? null);
}

/**
 * What an air leak that gave the trim before would give at the flow and pressure of today's reading, %: the hole passes
 * what the pressures let through (Heywood app. C, from memory), as a share of what is metered today. Null where the
 * readings do not say enough.
 */
export function leakToday(
  before: Reading,
  after: Reading,
  baroKPa: number,
  bank: 'bank1' | 'bank2' = 'bank1',
): number | null {
  const trim = before.trims?.[bank];
  const then = trim && displayedTotal(trim);
  if (then === undefined || !before.mafGps || !after.mafGps) return null;
  const air = 20;
  const flow = (mapKPa: number) => orificeFlowGps(1, baroKPa, air, mapKPa);
  const pressures =
    before.mapKPa !== undefined && after.mapKPa !== undefined && flow(before.mapKPa) > 0
      ? flow(after.mapKPa) / flow(before.mapKPa)
      : 1;
  return (then * pressures * before.mafGps) / after.mafGps;
}

/** The same in words, where it differs enough to matter, points. */
export function leakTodayWords(before: Reading, after: Reading, baroKPa: number): string | null {
  const today = leakToday(before, after, baroKPa);
  const trim = before.trims?.bank1;
  const then = trim && displayedTotal(trim);
  if (today === null || then === undefined || Math.abs(today - then) < 1) return null;
  return `A leak that gave ${signed(then)} % then would give ${signed(today)} % at today’s flow and pressure.`;
}
