import type { Case } from '../case/index.ts';
import { CONDEMNS, FAULTS, HINTS, movesNoTrim, outcomesOf, speaksFor } from '../catalogue/index.ts';
import { classifyMixture, DEFAULT_LIMITS } from '../trims/index.ts';
import type { Evidence } from './evidence/types.ts';
import { hintApplies, hintWeight } from './model/hintWeight.ts';
import { weighPairs } from './model/pairs.ts';
import { resultProbability } from './model/resultProbability.ts';
import { severityOf } from './model/severity.ts';
import { weigh } from './model/weigh.ts';
import type { Weighed } from './model/weighed.ts';
import { candidates, mindChanges, rankTests } from './next/rankTests.ts';
import type { Cause, Diagnosis, Settings, Severity } from './types.ts';
import { contradictions } from './words/contradictions.ts';
import { explainAll } from './words/explain.ts';
import { honesty } from './words/honesty.ts';
import { paragraphOf, shapesOf } from './words/paragraph.ts';

/** Bumped when the same case may give another answer; stored with every diagnosis. */
export const CORE_VERSION = '0.6.0';

/** Probabilities this close, as a share of their sum, are the same. */
const TIE = 1e-6;
/** Likelihoods within this factor cannot be told apart (CONTRACT). */
const APART = 3;
const round = (v: number, digits: number) => Math.round(v * 10 ** digits) / 10 ** digits;

export interface Diagnosed {
  /** Likeliest first, two at once weighed in. */
  ranked: readonly Weighed[];
  diagnosis: Omit<Diagnosis, 'standing'>;
}

/** The diagnosis of gathered evidence. */
export function diagnosed(c: Case, ev: Evidence, settings: Settings): Diagnosed {
  const limits = {
    watchPct: settings.limits?.watchPct ?? DEFAULT_LIMITS.watchPct,
    actPct: settings.limits?.actPct ?? DEFAULT_LIMITS.actPct,
  };
  const mixture =
    c.vehicle.fuel === 'diesel'
      ? { mixture: 'not-applicable' as const, banks: [] }
      : classifyMixture(
          ev.points.map((p) => ({ at: p.at, airflowGps: p.airflowGps, totals: p.trims })),
          limits,
        );
  const single = weigh(ev, settings);
  const pairs = weighPairs(single, ev);
  const weighed = withPairs(single, pairs);
  const order = new Map(FAULTS.map((f, i) => [f.id, i]));
  const ranked = [...weighed].sort(
    (a, b) => millionth(b.probability) - millionth(a.probability) || order.get(a.row.id)! - order.get(b.row.id)!,
  );
  const found = candidates(c, ev, weighed, settings);
  const nextTests = rankTests(found);
  const apart = cannotTellApart(ranked);
  const named = causes(ranked, ev, found);
  const shape = shapesOf(ev, mixture.banks);
  const diagnosis: Diagnosed['diagnosis'] = {
    format: 'just-balance/diagnosis',
    version: 1,
    id: c.id,
    mixture: mixture.mixture,
    banks: mixture.banks,
    causes: named,
    pairs: pairs.map((p) => ({ faults: p.faults, probability: round(p.probability, 4) })),
    alsoPresent: alsoPresent(ranked[0]!, weighed, ev),
    nextTests,
    condemned: [
      ...new Set(
        CONDEMNS.filter((k) => ev.tests.some((t) => t.row.id === k.test && t.outcome === k.outcome)).map(
          (k) => k.fault,
        ),
      ),
    ],
    cannotTellApart: apart,
    warnings: [...ev.warnings, ...contradictions(ranked[0]!, ev), ...honesty(ranked, nextTests, apart, found)],
    shape,
    paragraph: paragraphOf(ev.banks, mixture, shape, named, pairs, nextTests, apart),
  };
  return { ranked, diagnosis };
}

/** Two at once are the main cause of the member that explains more by itself: the pair's mass goes to it. */
function withPairs(weighed: readonly Weighed[], pairs: ReturnType<typeof weighPairs>): Weighed[] {
  const alone = new Map(weighed.map((w) => [w.row.id, w.probability]));
  const gained = new Map<string, number>();
  let mass = 0;
  for (const { faults, probability } of pairs) {
    const [a, b] = faults.map((f) => alone.get(f)!) as [number, number];
    // Two that explain as much share it: a pair must not decide between them.
    const share = Math.abs(a - b) < TIE * (a + b) ? 0.5 : Number(a > b);
    gained.set(faults[0], (gained.get(faults[0]) ?? 0) + share * probability);
    gained.set(faults[1], (gained.get(faults[1]) ?? 0) + (1 - share) * probability);
    mass += probability;
  }
  return weighed.map((w) => ({
    ...w,
    probability: w.probability * Math.max(1 - mass, 0) + (gained.get(w.row.id) ?? 0),
  }));
}

function causes(ranked: readonly Weighed[], ev: Evidence, found: ReturnType<typeof candidates>): Cause[] {
  const probabilities = millionths(ranked.map((w) => w.probability));
  const said = explainAll(ranked, ev);
  return ranked.map((w, i) => {
    const s = severityOf(w) ?? measuredSize(w, ev);
    const digits = s?.unit === 'g/s' ? 3 : s?.unit === 'ratio' ? 2 : 1;
    return {
      fault: w.row.id,
      bank: w.bank,
      probability: probabilities[i]!,
      severity: s && {
        value: round(s.value, digits),
        low: round(s.low, digits),
        high: round(s.high, digits),
        unit: s.unit,
      },
      ...said[i]!,
      ...(i < 3 ? { wouldChange: mindChanges(w, found) } : {}),
    };
  });
}

/** The size of a fault that the forward model gives none: as read off a reading or a test; the newest counts. */
function measuredSize(w: Weighed, ev: Evidence): Severity | null {
  return (
    ev.sizes.findLast((s) => s.fault === w.row.id && (s.bank === null || w.bank === null || s.bank === w.bank)) ?? null
  );
}

/** Whole millionths, rounded down: ties are broken, and the order kept, in what is shown. */
function millionth(p: number): number {
  return Math.floor(p * 1e6 + 1e-6);
}

/** Probabilities rounded to millionths that still sum to 1 and keep their order: what rounding down leaves goes to the first. */
function millionths(descending: readonly number[]): number[] {
  const units = descending.map(millionth);
  units[0]! += 1_000_000 - units.reduce((s, u) => s + u, 0);
  return units.map((u) => u / 1e6);
}

/** Groups among the first five whose likelihoods, without priors, lie within 3:1 of each other. */
function cannotTellApart(ranked: readonly Weighed[]): string[][] {
  const five = ranked.slice(0, 5).filter((w) => w.probability >= 0.02);
  const used = new Set<string>();
  const groups: string[][] = [];
  for (const w of five) {
    if (used.has(w.row.id)) continue;
    const group = five.filter(
      (o) => !used.has(o.row.id) && Math.abs(o.logLikelihood - w.logLikelihood) <= Math.log(APART),
    );
    if (group.length < 2) continue;
    for (const g of group) used.add(g.row.id);
    groups.push(group.map((g) => g.row.id));
  }
  return groups;
}

/** Faults that move no trim and that something speaks for, beside a main cause that moves it. */
function alsoPresent(
  first: Weighed,
  weighed: readonly Weighed[],
  ev: Evidence,
): { fault: string; probability: number }[] {
  if (movesNoTrim(first.row)) return [];
  const total = weighed.reduce((s, w) => s + w.row.weight, 0);
  const out: { fault: string; probability: number }[] = [];
  for (const w of weighed) {
    if (!movesNoTrim(w.row)) continue;
    let odds = w.row.weight / total / 2;
    let spoken = false;
    for (const t of ev.tests) {
      if (!outcomesOf(t.row).some((o) => speaksFor(t.row, o).includes(w.row.id))) continue;
      const hit = speaksFor(t.row, t.outcome).includes(w.row.id);
      odds *= resultProbability(t, w.row.id, w.bank, ev.banks) / resultProbability(t, 'balanced', null, ev.banks);
      spoken ||= hit;
    }
    for (const h of HINTS) {
      if (!(h.code ?? h.sign) || !h.faults.includes(w.row.id) || !hintApplies(h, ev)) continue;
      const log = hintWeight(h, w.bank, ev);
      odds *= Math.exp(log) * (h.code ? 2 : 1);
      spoken ||= log > 0;
    }
    const p = odds / (1 + odds);
    if (spoken && p >= 0.05) out.push({ fault: w.row.id, probability: round(p, 3) });
  }
  return out.sort((a, b) => b.probability - a.probability);
}
