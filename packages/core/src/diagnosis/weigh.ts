import type { Evidence } from './evidence.ts';
import { canExist, FAULTS, type FaultRow, movesNoTrim } from './faults.ts';
import { type Effect, predict } from './forward.ts';
import { HINTS, type HintRow } from './hints.ts';
import { airflowLogLikelihood, fullLoadLog, trimLogLikelihood } from './likelihood.ts';
import { outcomeProbability } from './tests.ts';
import type { Settings } from './types.ts';

/** Severity grid points per fault. Finer changes no ranking (tested at 12 and 24). */
const GRID = 14;
/** A fault that usually stores a code, where codes were read and none speaks for it. [house] */
const SILENT_FACTOR = 0.7;

/** One fault on one bank, weighed over its severities. */
export interface Weighed {
  row: FaultRow;
  bank: 1 | 2 | null;
  /** ln of prior weight. */
  logPrior: number;
  /** ln likelihood of everything measured, severity integrated out; no prior. */
  logLikelihood: number;
  /** Posterior over the severity grid. */
  grid: { severity: number; probability: number; effects: Effect[] }[];
  probability: number;
}

/** ln Σ exp, safe for all −∞. */
export function logSumExp(values: readonly number[]): number {
  const top = Math.max(...values);
  if (top === Number.NEGATIVE_INFINITY) return top;
  return top + Math.log(values.reduce((s, v) => s + Math.exp(v - top), 0));
}

/**
 * Weigh every fault that can exist on the vehicle. Per-bank faults are weighed on each bank and the bank mass is
 * shared evenly before. Returns one entry a fault (its likelier bank), probabilities summing to 1, catalogue order.
 */
export function weigh(ev: Evidence, settings: Settings = {}): Weighed[] {
  const all: Weighed[] = [];
  for (const row of FAULTS) {
    if (!canExist(row, ev.vehicle, ev.banks)) continue;
    const weight = settings.priors?.[row.id] ?? row.weight;
    const logPrior = weight > 0 ? Math.log(weight) + hintLog(row, ev) : Number.NEGATIVE_INFINITY;
    const banks: (1 | 2 | null)[] = row.perBank ? (ev.banks === 2 ? [1, 2] : [1]) : [null];
    const perBank = banks.map((bank) => weighOne(row, bank, ev, logPrior));
    const best = perBank.reduce((a, b) => (b.logLikelihood > a.logLikelihood ? b : a));
    const total = logSumExp(perBank.map((w) => w.logLikelihood)) - Math.log(banks.length);
    all.push({ ...best, logLikelihood: total });
  }
  const z = logSumExp(all.map((w) => w.logPrior + w.logLikelihood));
  for (const w of all) w.probability = Math.exp(w.logPrior + w.logLikelihood - z);
  return all;
}

function weighOne(row: FaultRow, bank: 1 | 2 | null, ev: Evidence, logPrior: number): Weighed {
  const severities = severityGrid(row, ev);
  const cells: { severity: number; log: number; effects: Effect[] }[] = [];
  for (const variant of row.variants) {
    for (const severity of severities) {
      const effects = ev.points.map((p) => predict(variant.shape, severity, bank ?? 1, p, ev));
      const log =
        Math.log(variant.weight / severities.length) +
        trimLogLikelihood(ev, effects) +
        airflowLogLikelihood(ev, effects) +
        fullLoadLog(ev, fullLoadRatio(row, severity), fullLoadFuelError(row, variant.shape.kind, severity, ev)) +
        koeoLog(row, severity, ev);
      cells.push({ severity, log, effects });
    }
  }
  const total = logSumExp(cells.map((c) => c.log));
  return {
    row,
    bank,
    logPrior,
    logLikelihood: total + testsLog(row, bank, ev),
    grid: cells.map((c) => ({ severity: c.severity, probability: Math.exp(c.log - total), effects: c.effects })),
    probability: 0,
  };
}

/** Severities from low to high, geometric (linear where the range spans zero). */
export function severityGrid(row: FaultRow, ev: Evidence): number[] {
  const s = row.severity;
  if (!s) return [0];
  const k = s.relativeToIdleFlow ? ev.idleFlowGps : 1;
  const step = (i: number) => i / (GRID - 1);
  return Array.from({ length: GRID }, (_, i) =>
    s.low > 0 ? s.low * (s.high / s.low) ** step(i) * k : (s.low + (s.high - s.low) * step(i)) * k,
  );
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
  return 0;
}

function koeoLog(row: FaultRow, severity: number, ev: Evidence): number {
  if (ev.koeoDifferenceKPa === null || ev.vehicle.metering === 'maf') return 0;
  const r = (ev.koeoDifferenceKPa - (row.id === 'map-bias' ? severity : 0)) / 1.5;
  return -0.5 * Math.min(r * r, 20);
}

function testsLog(row: FaultRow, bank: 1 | 2 | null, ev: Evidence): number {
  let log = 0;
  for (const t of ev.tests) {
    // A test aimed at one bank says nothing of a per-bank fault on the other.
    const relevant = t.bank === null || bank === null || t.bank === bank;
    log += Math.log(outcomeProbability(t.row, t.outcome, relevant ? row.id : 'balanced'));
  }
  return log;
}

/** Whether a hint row applies to this evidence. */
export function hintApplies(h: HintRow, ev: Evidence): boolean {
  if (h.code) return (ev.codes ?? []).some((c) => c >= h.code![0] && c <= h.code![1]);
  if (h.signal) return ev.airflowDead;
  if (h.complaint) return ev.complaints.includes(h.complaint);
  return h.work !== undefined && ev.work.some((w) => w.includes(h.work!));
}

function hintLog(row: FaultRow, ev: Evidence): number {
  let log = 0;
  for (const h of HINTS) if (h.faults.includes(row.id) && hintApplies(h, ev)) log += Math.log(h.factor);
  const coded = HINTS.some((h) => h.code && h.factor >= 10 && h.faults.includes(row.id));
  if (
    ev.codes &&
    coded &&
    movesNoTrim(row) &&
    !HINTS.some((h) => h.code && h.faults.includes(row.id) && hintApplies(h, ev))
  ) {
    log += Math.log(SILENT_FACTOR);
  }
  return log;
}

/** Mean and 10–90 % interval of the severity, in the fault's unit; null where a size has no meaning. */
export function severityOf(w: Weighed): { value: number; low: number; high: number; unit: string } | null {
  if (!w.row.severity) return null;
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

/** Predicted effects at every point, averaged over the severity posterior. */
export function expectedEffects(w: Weighed, ev: Evidence): Effect[] {
  return ev.points.map((_, i) => {
    const e: Effect = { trimPct: [0, 0], airflowLog: 0 };
    for (const g of w.grid) {
      const x = g.effects[i]!;
      e.trimPct[0] += g.probability * x.trimPct[0];
      e.trimPct[1] += g.probability * x.trimPct[1];
      e.airflowLog += g.probability * x.airflowLog;
    }
    return e;
  });
}
