import { FAULTS, type FaultRow, HINTS, QUIET_FACTOR } from '../../catalogue/index.ts';
import type { Evidence } from '../evidence/types.ts';
import type { Settings } from '../types.ts';
import { canExist } from './canExist.ts';
import { type Effect, predict } from './forward.ts';
import { hintApplies, hintLog, spokenFor } from './hintWeight.ts';
import { airflowLogLikelihood, fullLoadLog, trimLogLikelihood } from './likelihood.ts';
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
    if (!canExist(row, ev.vehicle, ev.banks)) continue;
    const weight = settings.priors?.[row.id] ?? row.weight;
    const banks: (1 | 2 | null)[] = row.perBank ? (ev.banks === 2 ? [1, 2] : [1]) : [null];
    const perBank = banks.map((bank) => {
      const logPrior = weight > 0 ? Math.log(weight) + hintLog(row, bank, hints, ev) : Number.NEGATIVE_INFINITY;
      return weighOne(row, bank, ev, logPrior);
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

function weighOne(row: FaultRow, bank: 1 | 2 | null, ev: Evidence, logPrior: number): Weighed {
  const severities = severityGrid(row, ev);
  const cells: Cell[] = [];
  const logs: number[] = [];
  const quiet = row.id !== 'balanced' && !spokenFor(row, bank, ev);
  for (const variant of row.variants) {
    // A size means nothing to a variant that does nothing: one cell stands for all.
    const sizes =
      variant.shape.kind === 'none' && !row.fullLoad ? [{ severity: severities[0]!.severity, share: 1 }] : severities;
    for (const { severity, share } of sizes) {
      const effects = ev.points.map((p) => predict(variant.shape, severity, bank ?? 1, p, ev));
      // What moves no trim here and has nothing speaking for it is rarely why the car came. A leak is found by its idle.
      const silent =
        quiet &&
        variant.shape.kind !== 'leak' &&
        (ev.vehicle.fuel === 'diesel' || effects.every((e) => e.trimPct[0] === 0 && e.trimPct[1] === 0));
      logs.push(
        Math.log(variant.weight * share * (silent ? QUIET_FACTOR : 1)) +
          trimLogLikelihood(ev, effects) +
          airflowLogLikelihood(ev, effects) +
          fullLoadLog(ev, fullLoadRatio(row, severity), fullLoadFuelError(row, variant.shape.kind, severity, ev)) +
          koeoLog(row, severity, ev),
      );
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
    grid,
    expected: averageEffects(grid, ev),
    probability: 0,
  };
}

export function fullLoadRatio(row: FaultRow, severity: number): number {
  if (row.fullLoad?.ratio !== undefined) return row.fullLoad.ratio;
  return row.fullLoad?.shareSign ? 1 + (row.fullLoad.shareSign * severity) / 100 : 1;
}

/** Fuel error at full load, %: open loop does not correct it, so λ shows it. + lean. */
function fullLoadFuelError(row: FaultRow, kind: string, severity: number, ev: Evidence): number {
  if (kind === 'sag') return 100 * (1 / Math.sqrt(Math.max(1 - (2 * severity) / ev.railKPa, 0.3)) - 1);
  if (kind === 'meter' && row.id !== 'maf-over') return severity;
  if (kind === 'meter') return -severity;
  if (kind === 'skew' || kind === 'injectors') return severity;
  if (kind === 'boostLoss') return -severity;
  return 0;
}

function koeoLog(row: FaultRow, severity: number, ev: Evidence): number {
  if (ev.koeoDifferenceKPa === null || ev.vehicle.metering === 'maf') return 0;
  const r = (ev.koeoDifferenceKPa - (row.id === 'map-bias' ? severity : 0)) / 1.5;
  return -0.5 * Math.min(r * r, 20);
}

function testsLog(row: FaultRow, bank: 1 | 2 | null, ev: Evidence): number {
  let log = 0;
  for (const t of ev.tests) log += Math.log(resultProbability(t, row.id, bank));
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
