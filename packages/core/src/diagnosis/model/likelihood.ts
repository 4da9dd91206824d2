import { COMMON_SHARE, HEALTHY_SD } from '../evidence/points.ts';
import type { Evidence, TrimEvidence } from '../evidence/types.ts';
import type { Effect } from './forward.ts';

/** Share of a predicted trim that the model may be wrong by, one standard deviation. [house] */
const MODEL_ERROR = 0.1;
const OWN_VARIANCE = (1 - COMMON_SHARE) * HEALTHY_SD ** 2;
const COMMON_VARIANCE = COMMON_SHARE * HEALTHY_SD ** 2;

/**
 * ln p(trims | prediction) for all points and banks at once. The healthy offset is partly common to all points:
 * covariance σ_c²·11ᵀ + diag(d), inverted by Sherman–Morrison. A pegged reading is censored: a prediction beyond it
 * costs nothing.
 */
export function trimLogLikelihood(ev: Evidence, effects: readonly Effect[]): number {
  let quadratic = 0;
  let weighted = 0;
  let inverse = 0;
  let determinant = 1;
  for (const t of ev.trims) {
    const predicted = effects[t.point]!.trimPct[t.bank - 1]!;
    const d = OWN_VARIANCE + t.sd * t.sd + (MODEL_ERROR * predicted) ** 2;
    const r = residual(t, predicted);
    quadratic += (r * r) / d;
    weighted += r / d;
    inverse += 1 / d;
    determinant *= d;
  }
  const n = ev.trims.length;
  if (n === 0) return 0;
  const k = 1 + COMMON_VARIANCE * inverse;
  return -0.5 * (quadratic - (COMMON_VARIANCE * weighted * weighted) / k + Math.log(determinant * k) + n * LOG_2PI);
}

const LOG_2PI = Math.log(2 * Math.PI);

function residual(t: TrimEvidence, predicted: number): number {
  const r = t.totalPct - predicted;
  if (t.pegged && Math.sign(predicted) === Math.sign(t.totalPct) && Math.abs(predicted) > Math.abs(t.totalPct))
    return 0;
  return r;
}

/** How many standard deviations a trim lies from a prediction; 0 where a pegged one is censored. */
export function trimDeviations(t: TrimEvidence, predicted: number): number {
  return (
    residual(t, predicted) / Math.sqrt(OWN_VARIANCE + t.sd ** 2 + (MODEL_ERROR * predicted) ** 2 + COMMON_VARIANCE)
  );
}

/** ln p of one trim on its own: for explanations, where each reading speaks for itself. */
export function singleTrimLog(t: TrimEvidence, predicted: number): number {
  const v = OWN_VARIANCE + t.sd ** 2 + (MODEL_ERROR * predicted) ** 2 + COMMON_VARIANCE;
  const r = residual(t, predicted);
  return -0.5 * ((r * r) / v + Math.log(v));
}

/**
 * How airflow signals scatter about physics: a deviation that all points of a vehicle share (its volumetric
 * efficiency), and each point's own. Mostly as the first row says; now and then a cam, a charge temperature or a
 * typing slip makes it the second. [house]
 */
const AIRFLOW_SCATTER = [
  { share: 0.8, own: 0.05, commonFactor: 1 },
  { share: 0.2, own: 0.3, commonFactor: 2 },
] as const;

/** ln p of the airflow signals against physics. */
export function airflowLogLikelihood(ev: Evidence, effects: readonly Effect[]): number {
  let n = 0;
  let sum = 0;
  let squares = 0;
  let commonSd = 0;
  ev.points.forEach((p, i) => {
    if (p.airflowLog === null) return;
    const r = p.airflowLog - effects[i]!.airflowLog;
    n++;
    sum += r;
    squares += r * r;
    commonSd = Math.max(commonSd, p.airflowSd);
  });
  if (n === 0) return 0;
  let p = 0;
  for (const s of AIRFLOW_SCATTER) {
    const d = s.own ** 2;
    const common = (s.commonFactor * commonSd) ** 2;
    const k = 1 + (n * common) / d;
    const q = (squares - (common * sum * sum) / (d * k)) / d;
    p += s.share * Math.exp(-0.5 * q) * (d ** n * k) ** -0.5;
  }
  return Math.log(Math.max(p, 1e-30));
}

/** ln p of one airflow signal on its own, for explanations. */
export function singleAirflowLog(deviation: number, expectedLog: number, commonSd: number): number {
  let p = 0;
  for (const s of AIRFLOW_SCATTER) {
    const v = s.own ** 2 + (s.commonFactor * commonSd) ** 2;
    p += (s.share * Math.exp((-0.5 * (deviation - expectedLog) ** 2) / v)) / Math.sqrt(v);
  }
  return Math.log(Math.max(p, 1e-30));
}

/** Spread of full-load airflow over expected in healthy engines, and the λ (relative) shift that counts. [house] */
const FULL_LOAD_SD = 0.08;

/** ln p(full load | ratio of airflow signal expected, fuel error % not corrected in open loop). */
export function fullLoadLog(ev: Evidence, expectedRatio: number, fuelErrorPct: number): number {
  if (!ev.fullLoad) return 0;
  let log = 0;
  if (!Number.isNaN(ev.fullLoad.ratio)) {
    const r = Math.log(ev.fullLoad.ratio / expectedRatio) / FULL_LOAD_SD;
    log += -0.5 * Math.min(r * r, 16);
  }
  if (ev.fullLoad.lean !== null) {
    const r = (ev.fullLoad.lean - fuelErrorPct / 100) / 0.06;
    log += -0.5 * Math.min(r * r, 9);
  }
  return log;
}
