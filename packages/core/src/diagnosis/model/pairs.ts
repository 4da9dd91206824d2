import { type FaultRow, moves, outcomesOf, type Shape } from '../../catalogue/index.ts';
import type { Evidence } from '../evidence/types.ts';
import { type Effect, predict } from './forward.ts';
import { airflowLogLikelihood, trimLogLikelihood } from './likelihood.ts';
import { resultRow } from './resultProbability.ts';
import { severityGrid } from './severity.ts';
import { variantsOn } from './weigh.ts';
import { logSumExp, type Weighed } from './weighed.ts';

/** Two independent faults at once, as a share of what their separate priors would give. [house] */
const PAIR_RATE = 0.5;
/** So many single causes, and of the pairs of all that move anything so many by a coarse look, are looked at closely. */
const LEADING = 5;
const CLOSELY = 10;
/** Where one cause alone fits as well as this, ln, short of everything as it was read, two are no better: by so much only. [house] */
const FITS_ALONE = 1.5;
/** Steps of the grid of sizes between two that are looked at: at a close look, and at a coarse one. */
const CLOSE = 2;
const COARSE = 5;

/** What a cause of one kind does at every point, by its sizes. */
type Sizes = readonly { effects: Effect[] }[];

/**
 * Joint probability of two faults: their trims add, their airflow ratios multiply. Where no cause alone explains what was
 * read, among all that move it: what fits well together need not fit at all alone. Returns at most five, each at least
 * 0.02; they are not part of the causes' sum.
 */
export function weighPairs(
  weighed: readonly Weighed[],
  ev: Evidence,
): { faults: [string, string]; probability: number }[] {
  if (ev.trims.length === 0) return [];
  const movers = weighed
    .filter((w) => w.row.severity !== null && w.row.variants.some((v) => moves(v.shape)))
    .sort((a, b) => b.probability - a.probability);
  const chosen = [...leading(movers), ...(explainedAlone(movers, ev) ? [] : among(movers, ev))];
  const zSingle = logSumExp(weighed.map((w) => w.logPrior + w.logLikelihood));
  const priorSum = logSumExp(weighed.map((w) => w.logPrior));
  const out = chosen.map(({ a, b, shapes }) => ({
    faults: [a.row.id, b.row.id] as [string, string],
    log:
      fit(sizesOf(a, shapes[0].shape, CLOSE, ev), sizesOf(b, shapes[1].shape, CLOSE, ev), ev) +
      Math.log(shapes[0].weight * shapes[1].weight) +
      testsOfBoth(a, b, ev) +
      Math.max(a.restLog, b.restLog) +
      a.logPrior +
      b.logPrior -
      priorSum +
      Math.log(PAIR_RATE),
  }));
  const z = logSumExp([zSingle, ...out.map((o) => o.log)]);
  return out
    .map((o) => ({ faults: o.faults, probability: Math.exp(o.log - z) }))
    .filter((o) => o.probability >= 0.02)
    .sort((a, b) => b.probability - a.probability)
    .slice(0, 5);
}

type Variant = FaultRow['variants'][number];

/** Two causes, each in one of its kinds; `weight`: of the kind, 1 where the cause stands for all of them. */
interface Pair {
  a: Weighed;
  b: Weighed;
  shapes: [Variant, Variant];
}

/** The likeliest causes two by two, each as it is likeliest alone. */
function leading(movers: readonly Weighed[]): Pair[] {
  const alone = movers.slice(0, LEADING).map((w) => {
    const { shape } = w.grid.reduce((a, b) => (b.probability > a.probability ? b : a));
    return { w, variant: { shape, weight: 1 } };
  });
  return alone.flatMap((x, i) =>
    alone.slice(i + 1).map((y): Pair => ({ a: x.w, b: y.w, shapes: [x.variant, y.variant] })),
  );
}

/** Whether some cause alone comes near enough to every trim as it was read. */
function explainedAlone(movers: readonly Weighed[], ev: Evidence): boolean {
  const read: Effect[] = ev.points.map(() => ({ trimPct: [0, 0], airflowLog: 0 }));
  for (const t of ev.trims) read[t.point]!.trimPct[t.bank - 1] = t.totalPct;
  const best = trimLogLikelihood(ev, read);
  return movers.some((w) => w.grid.some((g) => best - trimLogLikelihood(ev, g.effects) < FITS_ALONE));
}

/** Of all pairs that move what was read, in all their kinds, the best by a coarse look and not among the leaders. */
function among(movers: readonly Weighed[], ev: Evidence): Pair[] {
  const kinds = movers.map((w) =>
    variantsOn(w.row, ev.banks)
      .filter((v) => moves(v.shape))
      .map((variant) => ({ variant, sizes: sizesOf(w, variant.shape, COARSE, ev) })),
  );
  const found: { pair: Pair; log: number }[] = [];
  movers.forEach((a, i) => {
    for (let j = Math.max(i + 1, LEADING * Number(i < LEADING)); j < movers.length; j++) {
      const b = movers[j]!;
      let best: { pair: Pair; log: number } | null = null;
      for (const x of kinds[i]!)
        for (const y of kinds[j]!) {
          const log =
            fit(x.sizes, y.sizes, ev) + Math.log(x.variant.weight * y.variant.weight) + a.logPrior + b.logPrior;
          if (!best || log > best.log) best = { pair: { a, b, shapes: [x.variant, y.variant] }, log };
        }
      if (best) found.push(best);
    }
  });
  return found
    .sort((x, y) => y.log - x.log)
    .slice(0, CLOSELY)
    .map((f) => f.pair);
}

/** ln p(trims and airflow | both), over the sizes of each. */
function fit(a: Sizes, b: Sizes, ev: Evidence): number {
  const logs: number[] = [];
  const n = ev.points.length;
  const effects: Effect[] = Array.from({ length: n }, () => ({ trimPct: [0, 0], airflowLog: 0 }));
  for (const x of a)
    for (const y of b) {
      for (let k = 0; k < n; k++) {
        const [e, p, q] = [effects[k]!, x.effects[k]!, y.effects[k]!];
        e.trimPct[0] = p.trimPct[0] + q.trimPct[0];
        e.trimPct[1] = p.trimPct[1] + q.trimPct[1];
        e.airflowLog = p.airflowLog + q.airflowLog;
      }
      logs.push(trimLogLikelihood(ev, effects) + airflowLogLikelihood(ev, effects));
    }
  return logSumExp(logs) - Math.log(logs.length);
}

/** ln P(results of tests | both): what either shows is seen, and what neither shows looks normal. */
function testsOfBoth(a: Weighed, b: Weighed, ev: Evidence): number {
  let log = 0;
  for (const t of ev.tests) {
    if (t.figure !== undefined) continue;
    const [x, y] = [resultRow(t, a.row.id, a.bank, ev.banks), resultRow(t, b.row.id, b.bank, ev.banks)];
    const both = x.map((p, o) => (o === 0 ? p * y[0]! : 1 - (1 - p) * (1 - y[o]!)));
    const sum = both.reduce((s, p) => s + p, 0);
    log += Math.log(both[outcomesOf(t.row).indexOf(t.outcome)]! / sum);
  }
  return log;
}

/** Every so many of its sizes: what fits alone need not fit beside another. */
function sizesOf(w: Weighed, shape: Shape, step: number, ev: Evidence): Sizes {
  return severityGrid(w.row, ev)
    .filter((_, i) => i % step === 0)
    .map(({ severity }) => ({ effects: ev.points.map((p) => predict(shape, severity, w.bank ?? 1, p, ev)) }));
}
