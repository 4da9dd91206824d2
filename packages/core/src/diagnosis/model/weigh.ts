import { engineHas, FAULTS, type FaultRow, HINTS, type HintRow, type Shape } from '../../catalogue/index.ts';
import type { Evidence } from '../evidence/types.ts';
import type { Settings } from '../types.ts';
import { type Effect, predict } from './forward.ts';
import { broughtLog, complaintsLog, hintApplies, hintLog, hintWeight, quietLog, smokeLog } from './hintWeight.ts';
import {
  airflowLogLikelihood,
  type FullLoadEffect,
  fullLoadLog,
  type IdleEffect,
  idleLog,
  koeoLog,
  railLog,
  trimLogLikelihood,
} from './likelihood.ts';
import { resultProbability } from './resultProbability.ts';
import { severityGrid } from './severity.ts';
import { type Cell, logSumExp, type Weighed } from './weighed.ts';

/**
 * Weigh every fault that can exist on the vehicle. Per-bank faults are weighed on each bank and the bank mass is
 * shared evenly before. Returns one entry a fault (its likelier bank), probabilities summing to 1, catalogue order.
 * Throws RangeError when the settings leave no cause any weight.
 */
export function weigh(ev: Evidence, settings: Settings = {}): Weighed[] {
  const all: Weighed[] = [];
  const hints = HINTS.filter((h) => hintApplies(h, ev));
  for (const row of FAULTS) {
    if (!engineHas(row.needs, ev.engine, ev.banks)) continue;
    const weight = settings.priors?.[row.id] ?? row.weight;
    const banks: (1 | 2 | null)[] = row.perBank ? (ev.banks === 2 ? [1, 2] : [1]) : [null];
    const perBank = banks.map((bank) => {
      const logPrior =
        weight > 0
          ? Math.log(weight) +
            hintLog(row, bank, hints, ev) +
            complaintsLog(row.id, ev) +
            smokeLog(row.id, ev) +
            broughtLog(row.id, ev)
          : Number.NEGATIVE_INFINITY;
      return weighOne(row, bank, ev, logPrior, hints);
    });
    const best = perBank.reduce((a, b) => (b.logPrior + b.logLikelihood > a.logPrior + a.logLikelihood ? b : a));
    const share = Math.log(banks.length);
    const logLikelihood = logSumExp(perBank.map((w) => w.logLikelihood)) - share;
    const joint = logSumExp(perBank.map((w) => w.logPrior + w.logLikelihood)) - share;
    all.push({ ...best, logLikelihood, logPrior: joint - logLikelihood });
  }
  const z = logSumExp(all.map((w) => w.logPrior + w.logLikelihood));
  if (!Number.isFinite(z))
    throw new RangeError('no cause is left that could be weighed: the starting weights of all that fit are 0');
  for (const w of all) w.probability = Math.exp(w.logPrior + w.logLikelihood - z);
  return all;
}

function weighOne(
  row: FaultRow,
  bank: 1 | 2 | null,
  ev: Evidence,
  logPrior: number,
  hints: readonly HintRow[],
): Weighed {
  const severities = severityGrid(row, ev);
  const cells: Cell[] = [];
  const logs: number[] = [];
  const mixture: number[] = [];
  const quiet = hints.some((h) => h.sign && h.faults.includes(row.id) && hintWeight(h, bank, ev) > 0)
    ? 0
    : quietLog(row.id, ev);
  for (const variant of variantsOn(row, ev.banks)) {
    // A size means nothing to a variant that does nothing: one cell stands for all.
    const sizes =
      variant.shape.kind === 'absent' || (variant.shape.kind === 'none' && !row.fullLoad)
        ? [{ severity: severities[0]!.severity, share: 1 }]
        : severities;
    for (const { severity, share } of sizes) {
      const effects = ev.points.map((p) => predict(variant.shape, severity, bank ?? 1, p, ev));
      const silent =
        (ev.vehicle.fuel === 'diesel' || effects.every((e) => e.trimPct[0] === 0 && e.trimPct[1] === 0)) &&
        !(ev.fullLoad && fullLoadRatio(row, variant.shape, severity) !== 1);
      const moved =
        Math.log(variant.weight * share) +
        (silent ? quiet : 0) +
        trimLogLikelihood(ev, effects) +
        airflowLogLikelihood(ev, effects);
      mixture.push(moved);
      logs.push(moved + figuresLog(row, variant.shape, severity, effects, ev));
      cells.push({ severity, shape: variant.shape, probability: 0, effects });
    }
  }
  const total = logSumExp(logs);
  cells.forEach((c, i) => {
    c.probability = Math.exp(logs[i]! - total);
  });
  const cut = cells.filter((c) => c.probability > 1e-4);
  const grid = cut.length > 0 ? cut : cells;
  return {
    row,
    bank,
    logPrior,
    logLikelihood: total + testsLog(row, bank, ev),
    restLog: total - logSumExp(mixture),
    grid,
    expected: averageEffects(grid, ev),
    probability: 0,
  };
}

/** Variants that differ only by the bank they favour are one where there is one bank: weighed once, with all their weight. */
export function variantsOn(row: FaultRow, banks: 1 | 2): FaultRow['variants'] {
  if (banks === 2 || row.variants.length === 1) return row.variants;
  const whole = row.variants.filter((v) => !('bank' in v.shape));
  // Each of the others is the one of its kind that favours none.
  const weightOf = (v: FaultRow['variants'][number]) =>
    row.variants.reduce(
      (s, o) => s + (o === v || ('bank' in o.shape && o.shape.kind === v.shape.kind) ? o.weight : 0),
      0,
    );
  return whole.length > 0 && whole.length < row.variants.length
    ? whole.map((v) => ({ ...v, weight: weightOf(v) }))
    : row.variants;
}

/** Figures beside trims and airflow in which the size of the fault shows. */
function figuresLog(row: FaultRow, shape: Shape, severity: number, effects: readonly Effect[], ev: Evidence): number {
  let log = fullLoadLog(ev, fullLoadEffect(row, shape, severity, effects, ev));
  log += koeoLog(ev, row.koeo ? severity : 0);
  log += idleLog(ev, idleEffect(row, shape, severity, ev));
  for (const t of ev.tests) if (t.figure !== undefined) log += railLog(t.figure, railEffect(shape, severity, ev));
  return log;
}

/** Full-load airflow over expected: what the signal is off by, or what the fault's row says. */
export function fullLoadRatio(row: FaultRow, shape: Shape, severity: number): number {
  if (shape.kind === 'meter') return 1 + (shape.sign * severity) / 100;
  if (shape.kind === 'absent') return 1;
  const f = row.fullLoad;
  return !f ? 1 : 'ratio' in f ? f.ratio : 1 + (f.shareSign * severity) / 100;
}

function fullLoadEffect(
  row: FaultRow,
  shape: Shape,
  severity: number,
  effects: readonly Effect[],
  ev: Evidence,
): FullLoadEffect {
  const last = effects.at(-1)?.trimPct ?? [0, 0];
  return {
    ratio: fullLoadRatio(row, shape, severity),
    spread: row.fullLoad && 'spread' in row.fullLoad && shape.kind !== 'absent' ? row.fullLoad.spread : 0,
    fuelErrorPct: fullLoadFuelError(shape, severity, ev),
    learntPct: (last[0] + last[1]) / 2,
  };
}

/** Fuel error at full load, %: open loop does not correct it, so λ shows it. + lean. */
function fullLoadFuelError(shape: Shape, severity: number, ev: Evidence): number {
  const { kind } = shape;
  if (kind === 'sag') return 100 * (1 / Math.sqrt(Math.max(1 - (2 * severity) / ev.railKPa, 0.3)) - 1);
  if (shape.kind === 'meter') return -shape.sign * severity;
  if (kind === 'skew' || kind === 'injectors') return severity;
  if (kind === 'boostLoss') return -severity;
  return 0;
}

/** Share by which a cause moves the fuel pressure under load. */
export function railEffect(shape: Shape, severity: number, ev: Evidence): number {
  if (shape.kind === 'sag') return -severity / ev.railKPa;
  return shape.kind === 'overPressure' ? severity / ev.railKPa : 0;
}

/** How far an engine that does not take it back idles faster and at more pressure. Common practice, no source; [house]. */
function idleEffect(row: FaultRow, shape: Shape, severity: number, ev: Evidence): IdleEffect {
  if (row.idle) return row.idle;
  switch (shape.kind) {
    case 'leak':
    case 'vapour': {
      const share = severity / ev.idleFlowGps;
      return { rpmLog: 0.5 * share, pressureLog: 0.35 * share };
    }
    case 'recirculated':
      return { rpmLog: 0, pressureLog: Math.log(1 + severity / 100) };
    case 'mapOffset':
      return { rpmLog: 0, pressureLog: severity / ev.idleMapKPa };
    case 'mapTowardsBaro':
      return { rpmLog: 0, pressureLog: Math.log(1 + (severity / 100) * (ev.baroKPa / ev.idleMapKPa - 1)) };
    default:
      return { rpmLog: 0, pressureLog: 0 };
  }
}

function testsLog(row: FaultRow, bank: 1 | 2 | null, ev: Evidence): number {
  let log = 0;
  for (const t of ev.tests) if (t.figure === undefined) log += Math.log(resultProbability(t, row.id, bank, ev.banks));
  return log;
}

function averageEffects(grid: readonly Cell[], ev: Evidence): Effect[] {
  return ev.points.map((_, i) => {
    const e: Effect = { trimPct: [0, 0], airflowLog: 0 };
    for (const g of grid) {
      const x = g.effects[i]!;
      e.trimPct[0] += g.probability * x.trimPct[0];
      e.trimPct[1] += g.probability * x.trimPct[1];
      e.airflowLog += g.probability * x.airflowLog;
    }
    return e;
  });
}
