import { COMMON_SHARE, type Evidence, HEALTHY_SD, type TrimEvidence } from './evidence.ts';
import type { Effect } from './forward.ts';

/** Share of a predicted trim that the model may be wrong by, one standard deviation. [house] */
const MODEL_ERROR = 0.1;
/** Spread of airflow against speed-density that all points of a vehicle share (its VE), and its own per point. [house] */
const AIRFLOW_OWN_SD = 0.04;

/**
 * ln p(trims | prediction) for all points and banks at once. The healthy offset is partly common to all points:
 * covariance σ_c²·11ᵀ + diag(d), inverted by Sherman–Morrison. A pegged reading is censored: a prediction beyond it
 * costs nothing.
 */
export function trimLogLikelihood(ev: Evidence, effects: readonly Effect[]): number {
  const common = COMMON_SHARE * HEALTHY_SD ** 2;
  let quadratic = 0;
  let weighted = 0;
  let inverse = 0;
  let logDet = 0;
  let n = 0;
  ev.points.forEach((p, i) => {
    for (const t of p.trims) {
      const predicted = effects[i]!.trimPct[t.bank - 1]!;
      const d = ownVariance(t, predicted);
      const r = residual(t, predicted);
      quadratic += (r * r) / d;
      weighted += r / d;
      inverse += 1 / d;
      logDet += Math.log(d);
      n++;
    }
  });
  if (n === 0) return 0;
  const k = 1 + common * inverse;
  return -0.5 * (quadratic - (common * weighted * weighted) / k + logDet + Math.log(k) + n * Math.log(2 * Math.PI));
}

function ownVariance(t: TrimEvidence, predicted: number): number {
  return (1 - COMMON_SHARE) * HEALTHY_SD ** 2 + t.sd ** 2 + (MODEL_ERROR * predicted) ** 2;
}

function residual(t: TrimEvidence, predicted: number): number {
  const r = t.totalPct - predicted;
  if (t.pegged && Math.sign(predicted) === Math.sign(t.totalPct) && Math.abs(predicted) > Math.abs(t.totalPct))
    return 0;
  return r;
}

/** ln p of one trim on its own: for explanations, where each reading speaks for itself. */
export function singleTrimLog(t: TrimEvidence, predicted: number): number {
  const v = ownVariance(t, predicted) + COMMON_SHARE * HEALTHY_SD ** 2;
  const r = residual(t, predicted);
  return -0.5 * ((r * r) / v + Math.log(v));
}

/** ln p of the airflow signals against physics; the vehicle's own volumetric efficiency is a common offset. */
export function airflowLogLikelihood(ev: Evidence, effects: readonly Effect[]): number {
  let quadratic = 0;
  let weighted = 0;
  let inverse = 0;
  let n = 0;
  let common = 0;
  ev.points.forEach((p, i) => {
    if (p.airflowLog === null) return;
    const d = AIRFLOW_OWN_SD ** 2;
    const r = p.airflowLog - effects[i]!.airflowLog;
    quadratic += (r * r) / d;
    weighted += r / d;
    inverse += 1 / d;
    common = Math.max(common, p.airflowSd ** 2);
    n++;
  });
  if (n === 0) return 0;
  return -0.5 * (quadratic - (common * weighted * weighted) / (1 + common * inverse));
}

/** Spread of full-load airflow over expected in healthy engines, and the λ (relative) shift that counts. [house] */
const FULL_LOAD_SD = 0.08;

/** ln p(full load | ratio of airflow signal expected, fuel error % not corrected in open loop). */
export function fullLoadLog(ev: Evidence, expectedRatio: number, fuelErrorPct: number): number {
  if (!ev.fullLoad) return 0;
  let log = 0;
  if (!Number.isNaN(ev.fullLoad.ratio)) {
    const r = Math.log(ev.fullLoad.ratio / expectedRatio) / FULL_LOAD_SD;
    log += -0.5 * r * r;
  }
  if (ev.fullLoad.lean !== null) {
    const r = (ev.fullLoad.lean - fuelErrorPct / 100) / 0.06;
    log += -0.5 * Math.min(r * r, 9);
  }
  return log;
}
