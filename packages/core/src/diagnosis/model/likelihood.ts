import { SCATTER } from '../../catalogue/index.ts';
import { COMMON_SHARE, HEALTHY_SD } from '../evidence/points.ts';
import type { Evidence, PointEvidence, TrimEvidence } from '../evidence/types.ts';
import type { Effect } from './forward.ts';

/** Share of a predicted trim that the model may be wrong by, one standard deviation. [house] */
const MODEL_ERROR = 0.1;
/** Of the healthy variance: what all points share, what both banks share at a point, and each trim's own. [house] */
const COMMON_VARIANCE = COMMON_SHARE * HEALTHY_SD ** 2;
const POINT_VARIANCE = 0.5 * (1 - COMMON_SHARE) * HEALTHY_SD ** 2;
const OWN_VARIANCE = 0.5 * (1 - COMMON_SHARE) * HEALTHY_SD ** 2;

/**
 * ln p(trims | prediction) for all points and banks at once. Errors are nested: what all points share, what the banks
 * share at one point (the model's own error among it), and each trim's own; every level is of rank one and is inverted by
 * Sherman and Morrison (1950). A pegged reading is censored: a prediction beyond it costs nothing.
 */
export function trimLogLikelihood(ev: Evidence, effects: readonly Effect[]): number {
  const n = ev.trims.length;
  if (n === 0) return 0;
  let quadratic = 0;
  let weighted = 0;
  let inverse = 0;
  let determinant = 1;
  for (let i = 0; i < n; ) {
    const { point } = ev.trims[i]!;
    let q = 0;
    let w = 0;
    let inv = 0;
    let largest = 0;
    for (; i < n && ev.trims[i]!.point === point; i++) {
      const t = ev.trims[i]!;
      const predicted = effects[point]!.trimPct[t.bank - 1]!;
      const d = OWN_VARIANCE + t.sd * t.sd;
      const r = residual(t, predicted);
      q += (r * r) / d;
      w += r / d;
      inv += 1 / d;
      determinant *= d;
      largest = Math.max(largest, Math.abs(predicted));
    }
    const shared = POINT_VARIANCE + (MODEL_ERROR * largest) ** 2;
    const k = 1 + shared * inv;
    quadratic += q - (shared * w * w) / k;
    weighted += w / k;
    inverse += inv / k;
    determinant *= k;
  }
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

/** Variance of one trim on its own. */
const varianceOf = (t: TrimEvidence, predicted: number) =>
  OWN_VARIANCE + POINT_VARIANCE + COMMON_VARIANCE + t.sd ** 2 + (MODEL_ERROR * predicted) ** 2;

/** How many standard deviations a trim lies from a prediction; 0 where a pegged one is censored. */
export function trimDeviations(t: TrimEvidence, predicted: number): number {
  return residual(t, predicted) / Math.sqrt(varianceOf(t, predicted));
}

/** ln p of one trim on its own: for explanations, where each reading speaks for itself. */
export function singleTrimLog(t: TrimEvidence, predicted: number): number {
  const v = varianceOf(t, predicted);
  const r = residual(t, predicted);
  return -0.5 * ((r * r) / v + Math.log(v));
}

/** Of one gathered evidence: how each airflow signal scatters, by each row of the table. */
const AIRFLOWS = new WeakMap<Evidence, readonly AirflowScatter[]>();

interface AirflowScatter {
  /** Of the rows that scatter so, with what the points' spreads make of its density. */
  density: number;
  /** What all points share, as a part of the whole. */
  shrink: number;
  at: readonly { point: number; measured: number; d: number; share: number }[];
}

function airflowsOf(ev: Evidence): readonly AirflowScatter[] {
  const kept = AIRFLOWS.get(ev);
  if (kept) return kept;
  const found = SCATTER.airflowKinds.map((s): AirflowScatter => {
    const at = ev.points.flatMap((p, point) =>
      p.airflowLog === null
        ? []
        : // What is shared counts by how much of it this point has.
          [
            {
              point,
              measured: p.airflowLog,
              d: (p.pressureRead ? s.own : s.ownWithoutPressure) ** 2,
              share: s.commonFactor * p.airflowSd,
            },
          ],
    );
    const inverse = at.reduce((sum, a) => sum + (a.share * a.share) / a.d, 0);
    const determinant = at.reduce((product, a) => product * a.d, 1);
    return { density: s.share * (determinant * (1 + inverse)) ** -0.5, shrink: 1 / (1 + inverse), at };
  });
  AIRFLOWS.set(ev, found);
  return found;
}

/** ln p of the airflow signals against physics. */
export function airflowLogLikelihood(ev: Evidence, effects: readonly Effect[]): number {
  let p = 0;
  let any = false;
  for (const s of airflowsOf(ev)) {
    let squares = 0;
    let weighted = 0;
    for (const a of s.at) {
      any = true;
      const r = a.measured - effects[a.point]!.airflowLog;
      squares += (r * r) / a.d;
      weighted += (a.share * r) / a.d;
    }
    p += s.density * Math.exp(-0.5 * (squares - weighted * weighted * s.shrink));
  }
  return any ? Math.log(Math.max(p, 1e-30)) : 0;
}

/** ln p of one airflow signal on its own, for explanations. */
export function singleAirflowLog(point: PointEvidence, expectedLog: number): number {
  let p = 0;
  for (const s of SCATTER.airflowKinds) {
    const own = point.pressureRead ? s.own : s.ownWithoutPressure;
    const v = own ** 2 + (s.commonFactor * point.airflowSd) ** 2;
    p += (s.share * Math.exp((-0.5 * (point.airflowLog! - expectedLog) ** 2) / v)) / Math.sqrt(v);
  }
  return Math.log(Math.max(p, 1e-30));
}

/*
 * The figures below are weighed against an engine in which nothing moves them: 0 where a cause does not.
 */

/** ln of a figure's density: a normal one, or, in a share of cases, a wrong one spread wide. */
function figureLog(off: number, sd: number, wrong: { share: number; sd: number }): number {
  const at = (s: number) => Math.exp(-0.5 * (off / s) ** 2) / s;
  // Beyond any slip one figure is as impossible as another.
  return Math.log(Math.max((1 - wrong.share) * at(sd) + wrong.share * at(Math.hypot(sd, wrong.sd)), 1e-9));
}

/** What a cause does at full load: ratio of the airflow signal to expected, its spread (ln), fuel error in % (+ lean). */
export interface FullLoadEffect {
  ratio: number;
  spread: number;
  fuelErrorPct: number;
  /** Trim that closed loop has learnt by then, %. */
  learntPct: number;
}

const NO_EFFECT: FullLoadEffect = { ratio: 1, spread: 0, fuelErrorPct: 0, learntPct: 0 };

/** ln p(full load | effect). */
export function fullLoadLog(ev: Evidence, e: FullLoadEffect): number {
  if (!ev.fullLoad || (e.ratio === 1 && e.spread === 0 && e.fuelErrorPct === 0 && e.learntPct === 0)) return 0;
  return fullLoadAt(ev.fullLoad, e) - fullLoadAt(ev.fullLoad, NO_EFFECT);
}

function fullLoadAt({ ratio, lean }: NonNullable<Evidence['fullLoad']>, e: FullLoadEffect): number {
  const { sd, lambdaSd, carried, wrong } = SCATTER.fullLoad;
  let log = 0;
  if (!Number.isNaN(ratio)) log += figureLog(Math.log(ratio / e.ratio), Math.hypot(sd, e.spread), wrong);
  if (lean !== null) {
    const p = carried.reduce(
      (s, k) => s + Math.exp(figureLog(lean - (e.fuelErrorPct - k * e.learntPct) / 100, lambdaSd, wrong)),
      0,
    );
    log += Math.log(p / carried.length);
  }
  return log;
}

/** ln p(key on, engine off: pressure against the barometer | what a cause adds, kPa). */
export function koeoLog(ev: Evidence, expectedKPa: number): number {
  if (expectedKPa === 0 || ev.koeoDifferenceKPa === null) return 0;
  const at = (kPa: number) => figureLog(ev.koeoDifferenceKPa! - kPa, SCATTER.koeo.sd, SCATTER.koeo.wrong);
  return at(expectedKPa) - at(0);
}

/** ln p(pressure figure | the share by which a cause moves it). */
export function railLog(figure: number, expected: number): number {
  if (expected === 0) return 0;
  const at = (e: number) =>
    figureLog(figure - e, Math.hypot(SCATTER.rail.sd, SCATTER.rail.load * e), SCATTER.rail.wrong);
  return at(expected) - at(0);
}

/** How far a cause lifts idle speed and manifold pressure where nothing takes it back, ln. */
export interface IdleEffect {
  rpmLog: number;
  pressureLog: number;
}

/** ln p(idle speed and pressure | effect). Pressure counts on speed-density: with a meter the airflow is compared with it. */
export function idleLog(ev: Evidence, e: IdleEffect): number {
  const idle = ev.points.find((p) => p.at === 'idle');
  if (!idle || (e.rpmLog === 0 && e.pressureLog === 0)) return 0;
  const usual = SCATTER.idle;
  const at = (rpmLog: number, pressureLog: number) => {
    let log = 0;
    if (idle.rpmRead) log += figureLog(Math.log(idle.rpm / usual.rpm) - rpmLog, usual.rpmSd, usual.wrong);
    if (idle.pressureRead && ev.vehicle.metering === 'speed-density')
      log += figureLog(
        Math.log(idle.mapKPa / (usual.pressureShare * ev.baroKPa)) - pressureLog,
        usual.pressureSd,
        usual.wrong,
      );
    return Math.exp(log);
  };
  return Math.log(usual.takenBack + ((1 - usual.takenBack) * at(e.rpmLog, e.pressureLog)) / at(0, 0));
}
