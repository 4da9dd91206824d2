import { type Case, fuelPressureLimits } from '../../case/index.ts';
import { outcomeLabel, outcomesOf, type TestRow } from '../../catalogue/index.ts';
import { againstLimit } from '../../trims/index.ts';
import { figure, joined, type Said, said } from '../../units/index.ts';
import { throttleStep } from './signs.ts';

/** A pump that gives less in 30 s starves the rail, mL. Common practice, no source. */
const LITTLE_FUEL_ML_PER_30S = 300;
/** A full-load ratio further from 1 than this is called low or high. [house] */
export const FULL_LOAD_SEEN = 0.1;

/** A measured value as the outcome it amounts to, with the figures; null when it cannot decide. */
export function measuredOutcome(
  row: TestRow,
  v: Record<string, number | undefined>,
  c: Case,
): { outcome: string; detail: Said; figure?: number } | null {
  const limits = c.vehicle.limits;
  switch (row.measure) {
    case 'fuel-pressure': {
      const spec = v.specKPa ?? limits?.fuelPressureKPa;
      const { idleKPa, loadKPa, volumeMlPer30s } = v;
      if (loadKPa === undefined && idleKPa === undefined && volumeMlPer30s === undefined) return null;
      const little = volumeMlPer30s !== undefined && volumeMlPer30s < LITTLE_FUEL_ML_PER_30S;
      const fit = fuelPressureLimits(limits, spec);
      const base = spec ?? idleKPa;
      if (base === undefined && !little) return null;
      const least = fuelPressureLimits(limits, base)?.load.low;
      const sag = least !== undefined && loadKPa !== undefined && loadKPa < least;
      const lowIdle = fit !== null && idleKPa !== undefined && idleKPa < fit.idle.low;
      const high = fit !== null && idleKPa !== undefined && idleKPa > fit.idle.high;
      const kPa = (v: number | undefined) => (v === undefined ? '—' : figure(v, 'kPa', undefined, { role: 'fuel' }));
      const detail = said`${kPa(idleKPa)} at idle, ${kPa(loadKPa)} under load${spec === undefined ? '' : said` of ${kPa(spec)}`}${volumeMlPer30s === undefined ? '' : said`, ${figure(volumeMlPer30s, 'mL')} in 30 s`}`;
      const outcome = sag || lowIdle || little ? 'low' : high ? 'high' : 'ok';
      // Too little in the measuring glass says more than any pressure.
      if (little || spec === undefined || !fit) return { outcome, detail };
      const off = loadKPa !== undefined ? loadKPa / spec - 1 : idleKPa! / fit.idleKPa - 1;
      return { outcome, detail, figure: off };
    }
    case 'boost': {
      if (v.measuredKPa === undefined || v.targetKPa === undefined) return null;
      return {
        outcome: v.measuredKPa < 0.92 * v.targetKPa ? 'low' : 'ok',
        detail: said`${figure([v.measuredKPa, v.targetKPa], 'kPa', undefined, { between: ' of ', role: 'boost' })}`,
      };
    }
    case 'full-load':
      if (v.ratio === undefined) return null;
      return {
        outcome: v.ratio < 1 - FULL_LOAD_SEEN ? 'low' : v.ratio > 1 + FULL_LOAD_SEEN ? 'high' : 'normal',
        detail: `${v.ratio} of expected airflow`,
      };
    case 'koeo':
      if (v.differenceKPa === undefined) return null;
      return {
        outcome: Math.abs(v.differenceKPa) > 3 ? 'differs' : 'agrees',
        detail: said`${figure(v.differenceKPa, 'kPa', undefined, { difference: true })} from barometric`,
      };
    case 'throttle': {
      const value = v.value ?? v.deg;
      const unit = v.value === undefined ? 'deg' : (v.unit as unknown as string | undefined);
      const own =
        limits?.relativeThrottleUnit === undefined || limits.relativeThrottleUnit === unit
          ? limits?.relativeThrottleIdle
          : undefined;
      const limit = v.limit ?? v.limitDeg ?? own ?? (unit === 'deg' ? limits?.relativeThrottleIdleDeg : undefined);
      if (value === undefined || limit === undefined) return null;
      const inPct = unit === '%' || unit === 'pct';
      const call = againstLimit(value, limit, throttleStep(inPct ? '%' : '°'));
      const sign = inPct ? ' %' : unit === 'deg' || unit === '°' ? '°' : ` ${unit ?? ''}`.trimEnd();
      // Within one step of the limit it says nothing.
      if (call === 'undecided') return null;
      return { outcome: call === 'past' ? 'high' : 'ok', detail: `${value}${sign} against a limit of ${limit}${sign}` };
    }
    case 'ethanol': {
      if (v.pct === undefined) return null;
      const calibrated = c.vehicle.ethanolPctCalibrated ?? 10;
      return {
        outcome: v.pct > calibrated + 8 ? 'high' : 'as-calibrated',
        detail: `${v.pct} % ethanol, calibrated for ${calibrated}`,
      };
    }
    case 'backpressure': {
      // About 9 kPa at idle and 21 at 2,500 rpm are upper limits (from memory).
      if (v.idleKPa === undefined && v.at2500KPa === undefined) return null;
      const high = (v.idleKPa ?? 0) > 9 || (v.at2500KPa ?? 0) > 21;
      const kPa = (x: number | undefined) => (x === undefined ? '—' : figure(x, 'kPa', undefined, { role: 'boost' }));
      return {
        outcome: high ? 'high' : 'normal',
        detail: said`${kPa(v.idleKPa)} at idle, ${kPa(v.at2500KPa)} at 2,500 rpm`,
      };
    }
    default:
      return null;
  }
}

/** Trim movement that counts as a change when something is shut, percentage points; coolant off the air after a night, K. [house] */
const CHANGE_PCT = 3;
const SOAK_OFF_K = 5;

/** The outcome that optional values amount to where none was named; undefined where they decide nothing. */
export function impliedOutcome(row: TestRow, v: Record<string, number | undefined>): string | undefined {
  const [normal, first] = outcomesOf(row);
  if (v.trimBefore !== undefined && v.trimAfter !== undefined && first === 'changes')
    return Math.abs(v.trimAfter - v.trimBefore) > CHANGE_PCT ? 'changes' : normal;
  if (row.beside === 'coolant' && v.ectMinusAirC !== undefined)
    return Math.abs(v.ectMinusAirC) > SOAK_OFF_K ? 'ect-differs' : normal;
  return undefined;
}

/** The figures that came with an outcome, for the explanation; empty without any. */
export function detailOf(
  test: string,
  outcome: string,
  v: Record<string, number | undefined>,
  cylinders?: readonly number[],
): Said {
  const parts: Said[] = [];
  if (v.trimBefore !== undefined && v.trimAfter !== undefined)
    parts.push(`trim ${v.trimBefore} before, ${v.trimAfter} after`);
  if (v.offsetKPa !== undefined) parts.push(said`${figure(v.offsetKPa, 'kPa', undefined, { difference: true })} off`);
  if (v.ectMinusAirC !== undefined) parts.push(said`coolant ${figure(v.ectMinusAirC, 'K')} from the air`);
  if (cylinders && cylinders.length > 0) parts.push(`cylinder ${cylinders.join(', ')}`);
  return parts.length > 0 ? said`${outcomeLabel(test, outcome)} (${joined(parts, '; ')})` : '';
}
