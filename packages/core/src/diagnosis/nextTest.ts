import { type Evidence, HEALTHY_SD, pointLabel } from './evidence.ts';
import { type Effect, predict } from './forward.ts';
import { outcomeProbability, outcomesOf, TESTS, type TestRow } from './tests.ts';
import type { Case, NextTest, Settings } from './types.ts';
import { fullLoadRatio, type Weighed } from './weigh.ts';

/** Below this no test is worth its minutes. Bits per minute. [house] */
export const STOP_BITS_PER_MINUTE = 0.02;

/** Bin edges for a reading still to be taken, % trim. */
const EDGES = [-15, -8, -4, 4, 8, 12, 16, 22];

function entropy(p: readonly number[]): number {
  let h = 0;
  for (const x of p) if (x > 0) h -= x * Math.log2(x);
  return h;
}

/** Expected information of a test over the fault probabilities, bits. `likelihood[o][f]` = P(outcome o | fault f). */
export function informationBits(prior: readonly number[], likelihood: readonly (readonly number[])[]): number {
  let after = 0;
  for (const row of likelihood) {
    let z = 0;
    for (let f = 0; f < prior.length; f++) z += prior[f]! * row[f]!;
    if (z <= 0) continue;
    after += z * entropy(prior.map((p, f) => (p * row[f]!) / z));
  }
  return Math.max(0, entropy(prior) - after);
}

/** Rank the tests still to be done, best first by information per minute; tests without an outcome come last. */
export function rankTests(c: Case, ev: Evidence, weighed: readonly Weighed[], settings: Settings = {}): NextTest[] {
  const prior = weighed.map((w) => w.probability);
  const done = new Set(ev.tests.map((t) => t.row.id));
  const blocked = new Set<string>();
  for (const t of c.tests ?? []) {
    const outcomes = [t.outcome].flat();
    if (outcomes.includes('inconclusive') || outcomes.includes('not-accessible')) blocked.add(t.id);
    else done.add(t.id);
  }
  const at = new Set((c.readings ?? []).map((r) => r.at));
  const ranked: (NextTest & { blocked: boolean })[] = [];
  for (const row of TESTS) {
    if (done.has(row.id) || !possible(row, ev, settings)) continue;
    if (row.reading && at.has(row.reading)) continue;
    if (row.id === 'full-load-airflow' && at.has('full-load')) continue;
    if (row.id === 'koeo-baro' && at.has('koeo')) continue;
    const likelihood = row.reading ? readingLikelihood(row, ev, weighed) : outcomeLikelihood(row, ev, weighed);
    const bits = informationBits(prior, likelihood);
    ranked.push({
      test: row.id,
      minutes: settings.minutes?.[row.id] ?? row.minutes,
      informationBits: Math.round(bits * 1000) / 1000,
      why: why(row, likelihood, weighed),
      blocked: blocked.has(row.id),
    });
  }
  ranked.sort(
    (a, b) => Number(a.blocked) - Number(b.blocked) || b.informationBits / b.minutes - a.informationBits / a.minutes,
  );
  return ranked.map(({ blocked: _, ...t }) => t);
}

function possible(row: TestRow, ev: Evidence, settings: Settings): boolean {
  if (row.tool && settings.tools && !settings.tools.includes(row.tool)) return false;
  return (row.needs ?? []).every((need) => {
    if (need === 'maf') return ev.vehicle.metering !== 'speed-density';
    if (need === 'map') return ev.vehicle.metering !== 'maf';
    if (need === 'turbo') return ev.vehicle.induction === 'turbo';
    return ev.vehicle.fuel === 'petrol';
  });
}

function outcomeLikelihood(row: TestRow, ev: Evidence, weighed: readonly Weighed[]): number[][] {
  return outcomesOf(row).map((o) =>
    weighed.map((w) => {
      const p = outcomeProbability(row, o, w.row.id);
      // The size decides whether a numeric test sees it: a small share hides inside "normal".
      if (row.measure === 'full-load' && w.row.fullLoad) {
        const visible = w.grid.reduce(
          (s, g) => s + (Math.abs(fullLoadRatio(w.row, g.severity) - 1) > 0.08 ? g.probability : 0),
          0,
        );
        return visible * p + (1 - visible) * outcomeProbability(row, o, 'balanced');
      }
      // An outcome that names a bank belongs to the bank weighed.
      const named = o.endsWith('bank1') ? 1 : o.endsWith('bank2') ? 2 : null;
      if (named && w.bank && named !== w.bank && row.speaks[o]?.includes(w.row.id)) return 0.02;
      return ev.banks === 1 && named === 2 ? 0 : p;
    }),
  );
}

function readingLikelihood(row: TestRow, ev: Evidence, weighed: readonly Weighed[]): number[][] {
  const idle = ev.points.find((p) => p.at === 'idle');
  const hold = ev.points.find((p) => p.at === 'hold-2500');
  const point =
    row.reading === 'road-load'
      ? { airflowGps: ev.roadFlowGps, mapKPa: 0.55 * ev.baroKPa }
      : { airflowGps: hold?.airflowGps ?? 3 * ev.idleFlowGps, mapKPa: idle?.mapKPa ?? 0.33 * ev.baroKPa };
  const likelihood = Array.from({ length: EDGES.length + 1 }, () => weighed.map(() => 0));
  weighed.forEach((w, f) => {
    const cells = w.grid.length;
    const perVariant = cells / w.row.variants.length;
    w.grid.forEach((g, k) => {
      const shape = w.row.variants[Math.floor(k / perVariant)]!.shape;
      const e: Effect = predict(shape, g.severity, w.bank ?? 1, point, ev);
      const mean = Math.abs(e.trimPct[0]) >= Math.abs(e.trimPct[1]) ? e.trimPct[0] : e.trimPct[1];
      const sd = Math.hypot(HEALTHY_SD, 0.1 * mean, 1);
      let below = 0;
      for (let b = 0; b <= EDGES.length; b++) {
        const up = b < EDGES.length ? normalCdf((EDGES[b]! - mean) / sd) : 1;
        likelihood[b]![f]! += g.probability * (up - below);
        below = up;
      }
    });
  });
  return likelihood;
}

/** Φ(x), Abramowitz & Stegun 26.2.17 (from memory), |error| < 7.5e-8. */
function normalCdf(x: number): number {
  const t = 1 / (1 + 0.2316419 * Math.abs(x));
  const d = 0.3989422804 * Math.exp((-x * x) / 2);
  const p = d * t * (0.31938153 + t * (-0.356563782 + t * (1.781477937 + t * (-1.821255978 + t * 1.330274429))));
  return x > 0 ? 1 - p : p;
}

/** Which leading causes the test separates, in one sentence. */
function why(row: TestRow, likelihood: readonly (readonly number[])[], weighed: readonly Weighed[]): string {
  const order = weighed.map((w, i) => ({ w, i })).sort((a, b) => b.w.probability - a.w.probability);
  const first = order[0];
  if (!first) return row.how;
  const differs = order.slice(1, 6).filter(({ w, i }) => {
    if (w.probability < 0.01) return false;
    let distance = 0;
    for (const o of likelihood) distance += Math.abs(o[i]! - o[first.i]!);
    return distance > 0.5;
  });
  if (differs.length === 0) return `Tells little between the leading causes. ${row.how}`;
  const names = differs.slice(0, 2).map(({ w }) => w.row.label.toLowerCase());
  return `Separates ${first.w.row.label.toLowerCase()} from ${names.join(' and ')}. ${row.how}`;
}

/** For a screen: which reading a test adds, or null. */
export function readingOf(testId: string): string | null {
  const row = TESTS.find((t) => t.id === testId);
  return row?.reading ? pointLabel(row.reading) : null;
}
