import type { OperatingPoint, Reading } from '../case/index.ts';
import { HEALTHY_BAND_PCT } from '../trims/index.ts';

/** A bank's trims at one point, %. */
export interface BankReading {
  at: OperatingPoint;
  bank: 1 | 2;
  totalPct: number;
  sd: number;
  n: number;
}

/** A figure before and after the repair at one point, and under which conditions each was read. */
export interface Change {
  at: OperatingPoint;
  bank: 1 | 2;
  beforePct: number;
  afterPct: number;
  changePct: number;
  /** Two standard errors of the change. */
  uncertaintyPct: number;
  verdict: 'better' | 'worse' | 'no change';
  inBand: boolean;
}

/**
 * Before beside after at the same point and bank. Better or worse only where the change of distance from zero exceeds
 * its uncertainty (two standard errors of both means, plus half a point for what differs between two days [house]).
 */
export function compareTrims(
  before: readonly BankReading[],
  after: readonly BankReading[],
  bandPct = HEALTHY_BAND_PCT,
): Change[] {
  const out: Change[] = [];
  for (const a of after) {
    const b = before.find((x) => x.at === a.at && x.bank === a.bank);
    if (!b) continue;
    const error = (r: BankReading) => r.sd ** 2 / Math.max(1, Math.min(r.n, 25));
    const uncertaintyPct = 2 * Math.sqrt(error(a) + error(b)) + 0.5;
    const nearer = Math.abs(b.totalPct) - Math.abs(a.totalPct);
    const verdict = nearer > uncertaintyPct ? 'better' : nearer < -uncertaintyPct ? 'worse' : 'no change';
    out.push({
      at: a.at,
      bank: a.bank,
      beforePct: b.totalPct,
      afterPct: a.totalPct,
      changePct: a.totalPct - b.totalPct,
      uncertaintyPct,
      verdict,
      inBand: Math.abs(a.totalPct) <= bandPct,
    });
  }
  return out;
}

/** What the comparison amounts to. */
export type Proof = 'proven' | 'better, not proven' | 'not proven' | 'nothing to compare';

/**
 * A mixture repair is proven by trims back in band at every point that was off, under matched conditions, none worse.
 * Common practice, no source; no pending code after two trips is the other half and is asked for beside this.
 */
export function proofOf(changes: readonly Change[], bandPct = HEALTHY_BAND_PCT): Proof {
  if (changes.length === 0) return 'nothing to compare';
  const wereOff = changes.filter((c) => Math.abs(c.beforePct) > bandPct);
  const allIn = changes.every((c) => c.inBand);
  if (allIn && changes.every((c) => c.verdict !== 'worse')) return 'proven';
  return wereOff.some((c) => c.verdict === 'better') ? 'better, not proven' : 'not proven';
}

/** A condition of both readings, and whether they agree in it. */
export interface MatchedCondition {
  at: OperatingPoint;
  quantity: string;
  before: number;
  after: number;
  unit: string;
  matched: boolean;
}

/** In place of a unit, the words for 1 and 0. */
export const STATES: Readonly<Record<string, readonly [on: string, off: string]>> = {
  'on/off': ['on', 'off'],
  'open/shut': ['open', 'shut'],
};

type Conditions = Pick<
  Reading,
  'ectC' | 'rpm' | 'iatC' | 'vssKmh' | 'baroKPa' | 'fuelPct' | 'airCon' | 'recirculation'
>;

/**
 * Whether two readings of one point were taken alike. Tolerances [house]: coolant 8 °C, engine speed 8 %, intake air
 * 15 °C, road speed 8 km/h, air pressure 3 kPa (about 250 m of height); fuel: more than 8 % came in since.
 */
export function matchConditions(before: Conditions & { at: OperatingPoint }, after: Conditions): MatchedCondition[] {
  const out: MatchedCondition[] = [];
  const add = (quantity: string, unit: string, b: number | undefined, a: number | undefined, tolerance: number) => {
    if (b !== undefined && a !== undefined)
      out.push({ at: before.at, quantity, before: b, after: a, unit, matched: Math.abs(a - b) <= tolerance });
  };
  add('Coolant', '°C', before.ectC, after.ectC, 8);
  add('Engine speed', 'rpm', before.rpm, after.rpm, 0.08 * (before.rpm ?? 0));
  add('Intake air', '°C', before.iatC, after.iatC, 15);
  // Standing still both times says nothing.
  if ((before.vssKmh ?? 0) + (after.vssKmh ?? 0) > 0) add('Road speed', 'km/h', before.vssKmh, after.vssKmh, 8);
  add('Air pressure', 'kPa', before.baroKPa, after.baroKPa, 3);
  if (before.fuelPct !== undefined && after.fuelPct !== undefined)
    out.push({
      at: before.at,
      quantity: 'Fuel in the tank',
      before: before.fuelPct,
      after: after.fuelPct,
      unit: '%',
      matched: after.fuelPct - before.fuelPct <= 8,
    });
  add('Air conditioning', 'on/off', state(before.airCon), state(after.airCon), 0);
  const open = (r: Conditions) => state(r.recirculation === undefined ? undefined : r.recirculation === 'open');
  add('Recirculation', 'open/shut', open(before), open(after), 0);
  return out;
}

const state = (on: boolean | undefined) => (on === undefined ? undefined : Number(on));
