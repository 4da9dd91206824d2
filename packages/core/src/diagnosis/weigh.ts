import type { Evidence } from './evidence.ts';
import { canExist, FAULTS, type FaultRow, type Shape } from './faults.ts';
import { type Effect, predict } from './forward.ts';
import {
  ABSENT_SHARE,
  HINTS,
  type HintRow,
  PENDING_POWER,
  QUIET_FACTOR,
  SILENT_FACTOR,
  WORK_HALF_DAYS,
} from './hints.ts';
import { airflowLogLikelihood, fullLoadLog, trimLogLikelihood } from './likelihood.ts';
import { resultProbability } from './tests.ts';
import type { Settings } from './types.ts';

/** Severity grid points per fault. Finer changes no ranking (tested at 12 and 24). */
const GRID = 14;
/** Weight of sizes outside a fault's usual range. [house] */
const UNUSUAL = 1 / 3;

/** One size of one variant, with what it does at every point. */
export interface Cell {
  severity: number;
  shape: Shape;
  probability: number;
  effects: Effect[];
}

/** One fault on one bank, weighed over its severities. */
export interface Weighed {
  row: FaultRow;
  bank: 1 | 2 | null;
  /** ln of prior weight with the weak evidence; banks shared. */
  logPrior: number;
  /** ln likelihood of everything measured, severity integrated out; no prior. */
  logLikelihood: number;
  /** Posterior over variants and sizes. */
  grid: Cell[];
  /** Predicted effects at every point, averaged over the grid. */
  expected: Effect[];
  probability: number;
}

/** ln Σ exp, safe for all −∞. */
export function logSumExp(values: readonly number[]): number {
  let top = Number.NEGATIVE_INFINITY;
  for (const v of values) if (v > top) top = v;
  if (top === Number.NEGATIVE_INFINITY) return top;
  let sum = 0;
  for (const v of values) sum += Math.exp(v - top);
  return top + Math.log(sum);
}

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

/** Sizes from low to high, geometric (linear where the range spans zero), with their share of the prior. */
export function severityGrid(row: FaultRow, ev: Evidence): { severity: number; share: number }[] {
  const s = row.severity;
  if (!s) return [{ severity: 0, share: 1 }];
  const k = s.of === 'idleFlow' ? ev.idleFlowGps : s.of === 'rail' ? ev.railKPa : 1;
  const step = (i: number) => i / (GRID - 1);
  const out = Array.from({ length: GRID }, (_, i) => {
    const v = s.low > 0 ? s.low * (s.high / s.low) ** step(i) : s.low + (s.high - s.low) * step(i);
    return { severity: v * k, share: s.usual && (v < s.usual[0] || v > s.usual[1]) ? UNUSUAL : 1 };
  });
  const sum = out.reduce((a, c) => a + c.share, 0);
  for (const c of out) c.share /= sum;
  return out;
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

/** The code of this evidence that a hint is about, if any. */
export function codeOf(h: HintRow, ev: Evidence) {
  return h.code && (ev.codes ?? []).find((c) => c.code >= h.code![0] && c.code <= h.code![1]);
}

/** Whether a hint row applies to this evidence. */
export function hintApplies(h: HintRow, ev: Evidence): boolean {
  if (h.withoutTrims && ev.trims.length > 0) return false;
  if (h.code) return codeOf(h, ev) !== undefined;
  if (h.sign) return ev.signs.some((s) => s.id === h.sign);
  if (h.complaint) return ev.complaints.includes(h.complaint);
  return workOf(h, ev) !== undefined;
}

export function workOf(h: HintRow, ev: Evidence) {
  return h.work === undefined ? undefined : ev.work.find((w) => w.part.includes(h.work!));
}

/** ln of what a hint says of a fault on a bank; 0 where it is about the other bank. */
export function hintWeight(h: HintRow, bank: 1 | 2 | null, ev: Evidence): number {
  let log = Math.log(h.factor);
  if (h.code) {
    if (h.bank && bank && h.bank !== bank) return 0;
    if (codeOf(h, ev)?.state === 'pending') log *= PENDING_POWER;
  }
  if (h.sign && bank && !ev.signs.some((s) => s.id === h.sign && (s.bank === null || s.bank === bank))) return 0;
  if (h.work) log *= 0.5 ** ((workOf(h, ev)?.days ?? 0) / WORK_HALF_DAYS);
  return log;
}

/** Whether a code, a sign, a complaint, recent work or a test speaks for a fault. */
function spokenFor(row: FaultRow, bank: 1 | 2 | null, ev: Evidence): boolean {
  return (
    ev.tests.some((t) => t.row.speaks[t.outcome]?.includes(row.id)) ||
    HINTS.some((h) => h.faults.includes(row.id) && hintApplies(h, ev) && hintWeight(h, bank, ev) > 0)
  );
}

function hintLog(row: FaultRow, bank: 1 | 2 | null, hints: readonly HintRow[], ev: Evidence): number {
  let log = 0;
  let spoken = false;
  for (const h of hints) {
    if (!h.faults.includes(row.id)) continue;
    log += hintWeight(h, bank, ev);
    spoken ||= h.code !== undefined;
  }
  // What usually comes with a fault and was asked for, yet is not there.
  if (ev.codes && !spoken) log += STORES_CODE.has(row.id) ? Math.log(SILENT_FACTOR) : (ABSENT_CODE.get(row.id) ?? 0);
  for (const h of ev.complaints.length > 0 ? (ABSENT_COMPLAINTS.get(row.id) ?? []) : [])
    if (!ev.complaints.includes(h.complaint)) log += h.log;
  return log;
}

/** ln of a complaint's absence, by fault: the stronger its presence speaks for the fault, the more it is missed. */
const ABSENT_COMPLAINTS: ReadonlyMap<string, readonly { complaint: string; log: number }[]> = new Map(
  FAULTS.map((f) => [
    f.id,
    HINTS.filter((h) => h.complaint && h.factor >= 2 && h.faults.includes(f.id)).map((h) => ({
      complaint: h.complaint!,
      log: Math.log(1 - ABSENT_SHARE * (h.factor - 1)),
    })),
  ]),
);

/** ln of the absence of every code, for faults that store one now and then. */
const ABSENT_CODE: ReadonlyMap<string, number> = new Map(
  FAULTS.flatMap((f) => {
    const most = Math.max(
      1,
      ...HINTS.filter((h) => h.code && !h.withoutTrims && h.faults.includes(f.id)).map((h) => h.factor),
    );
    return most > 1 ? [[f.id, Math.log(1 - ABSENT_SHARE * Math.min(0.45 * (most - 1), 3))] as const] : [];
  }),
);

/** Faults that usually store a code of their own. */
const STORES_CODE: ReadonlySet<string> = new Set(
  HINTS.filter((h) => h.code && h.factor >= 14 && !h.withoutTrims).flatMap((h) => h.faults),
);

/** Mean and 10–90 % interval of the severity, in the fault's unit; null where a size has no meaning. */
export function severityOf(w: Weighed): { value: number; low: number; high: number; unit: string } | null {
  if (!w.row.severity || w.row.sizeless) return null;
  const merged = new Map<number, number>();
  for (const g of w.grid) merged.set(g.severity, (merged.get(g.severity) ?? 0) + g.probability);
  const sorted = [...merged].sort((a, b) => a[0] - b[0]);
  const mean = sorted.reduce((s, [v, p]) => s + v * p, 0);
  const quantile = (q: number) => {
    let sum = 0;
    for (let i = 0; i < sorted.length; i++) {
      const [v, p] = sorted[i]!;
      if (sum + p >= q) {
        const next = sorted[Math.min(i + 1, sorted.length - 1)]![0];
        const prev = sorted[Math.max(i - 1, 0)]![0];
        // Inside a cell the mass is spread evenly between the midpoints to its neighbours.
        const lo = (v + prev) / 2;
        const hi = (v + next) / 2;
        return lo + (p > 0 ? (q - sum) / p : 0.5) * (hi - lo);
      }
      sum += p;
    }
    return sorted[sorted.length - 1]![0];
  };
  return {
    value: mean,
    low: Math.min(quantile(0.1), mean),
    high: Math.max(quantile(0.9), mean),
    unit: w.row.severity.unit,
  };
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
