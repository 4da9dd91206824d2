import { outcomesOf } from '../../catalogue/index.ts';
import type { Evidence } from '../evidence/types.ts';
import { predict } from './forward.ts';
import { airflowLogLikelihood, trimLogLikelihood } from './likelihood.ts';
import { resultRow } from './resultProbability.ts';
import { severityGrid } from './severity.ts';
import { logSumExp, type Weighed } from './weighed.ts';

/** Two independent faults at once, as a share of what their separate priors would give. [house] */
const PAIR_RATE = 0.5;
const LEADING = 5;

/**
 * Joint probability of two faults among the leading trim movers: their trims add, their airflow ratios multiply.
 * Returns at most five, each at least 0.02; they are not part of the causes' sum.
 */
export function weighPairs(
  weighed: readonly Weighed[],
  ev: Evidence,
): { faults: [string, string]; probability: number }[] {
  if (ev.points.every((p) => p.trims.length === 0)) return [];
  const leaders = [...weighed]
    .filter((w) => w.row.severity !== null && w.row.variants.some((v) => v.shape.kind !== 'none'))
    .sort((a, b) => b.probability - a.probability)
    .slice(0, LEADING)
    .map((w) => ({ ...w, sizes: sizesOf(w, ev) }));
  const zSingle = logSumExp(weighed.map((w) => w.logPrior + w.logLikelihood));
  const priorSum = logSumExp(weighed.map((w) => w.logPrior));
  const out: { faults: [string, string]; log: number }[] = [];
  for (let i = 0; i < leaders.length; i++) {
    for (let j = i + 1; j < leaders.length; j++) {
      const a = leaders[i]!;
      const b = leaders[j]!;
      const logs: number[] = [];
      for (const x of a.sizes) {
        for (const y of b.sizes) {
          const effects = ev.points.map((_, k) => ({
            trimPct: [
              x.effects[k]!.trimPct[0] + y.effects[k]!.trimPct[0],
              x.effects[k]!.trimPct[1] + y.effects[k]!.trimPct[1],
            ] as [number, number],
            airflowLog: x.effects[k]!.airflowLog + y.effects[k]!.airflowLog,
          }));
          logs.push(trimLogLikelihood(ev, effects) + airflowLogLikelihood(ev, effects));
        }
      }
      const joint = logSumExp(logs) - Math.log(logs.length) + testsOfBoth(a, b, ev) + Math.max(a.restLog, b.restLog);
      out.push({
        faults: [a.row.id, b.row.id],
        log: joint + a.logPrior + b.logPrior - priorSum + Math.log(PAIR_RATE),
      });
    }
  }
  const z = logSumExp([zSingle, ...out.map((o) => o.log)]);
  return out
    .map((o) => ({ faults: o.faults, probability: Math.exp(o.log - z) }))
    .filter((o) => o.probability >= 0.02)
    .sort((a, b) => b.probability - a.probability)
    .slice(0, 5);
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

/** Every second size of the likeliest variant: what fits alone need not fit beside another. */
function sizesOf(w: Weighed, ev: Evidence) {
  const shape = w.grid.reduce((a, b) => (b.probability > a.probability ? b : a)).shape;
  return severityGrid(w.row, ev)
    .filter((_, i) => i % 2 === 0)
    .map(({ severity }) => ({ effects: ev.points.map((p) => predict(shape, severity, w.bank ?? 1, p, ev)) }));
}
