import type { Case } from '../../case/index.ts';
import {
  ACCESS,
  type AccessId,
  fitsEngine,
  hasTool,
  outcomesOf,
  SIGN_TEST,
  SWAP_PARTS,
  speaksFor,
  TESTS,
  type TestRow,
} from '../../catalogue/index.ts';
import { midSentence, type Said, said } from '../../units/index.ts';
import { COMMON_SHARE, HEALTHY_SD } from '../evidence/points.ts';
import { FULL_LOAD_SEEN } from '../evidence/testValues.ts';
import type { Evidence } from '../evidence/types.ts';
import { predict } from '../model/forward.ts';
import { asLearned, outcomeRow, swapProbability } from '../model/resultProbability.ts';
import { fullLoadRatio } from '../model/weigh.ts';
import type { Weighed } from '../model/weighed.ts';
import type { Cause, MindChange, NextTest, Settings } from '../types.ts';

/** Below this no test is worth its minutes. Bits per minute. [house] */
const STOP_BITS_PER_MINUTE = 0.02;
/** Minutes that every test costs beside its own: walking, waiting, writing down. Played cases end right more often with it. [house] */
const MINUTES_AROUND = 1.5;
/** Bits below which a test is not worth naming beside another. [house] */
const TOGETHER_BITS = 0.05;
/** One channel asked alone comes this many times as often as among the channels of a reading. [house] */
const ALONE_FACTOR = 4;
/** Bin edges for a reading still to be taken, % trim. */
const EDGES = [-15, -8, -4, 4, 8, 12, 16, 22];
/** Causes less likely than this move no decision. */
const NEGLIGIBLE = 1e-5;
/** A result rarer than this is not waited for. [house] */
const RARE = 0.02;

/** P(outcome | cause) of one test: a row an outcome, a column a cause. */
type Likelihood = readonly (readonly number[])[];

/** Expected information of a test over the fault probabilities, bits. `likelihood[o][f]` = P(outcome o | fault f). */
export function informationBits(prior: readonly number[], likelihood: Likelihood): number {
  // I = Σ_f p(f) Σ_o p(o|f) log2 (p(o|f) / p(o)). Shannon 1948.
  let bits = 0;
  for (const row of likelihood) {
    let z = 0;
    for (let f = 0; f < prior.length; f++) z += prior[f]! * row[f]!;
    if (z <= 0) continue;
    for (let f = 0; f < prior.length; f++) {
      const joint = prior[f]! * row[f]!;
      if (joint > 0) bits += joint * Math.log2(row[f]! / z);
    }
  }
  return Math.max(0, bits);
}

/** Whether a test is worth its minutes: the stop rule. */
export function worthDoing(t: NextTest | undefined): t is NextTest {
  return t !== undefined && t.informationBits / t.minutes >= STOP_BITS_PER_MINUTE;
}

interface Candidate {
  row: TestRow;
  minutes: number;
  bits: number;
  blocked: boolean;
  likelihood: Likelihood;
  part?: string;
  /** The bank to do it on, where it is done on one at a time. */
  bank?: 1 | 2;
}

const worthOf = (t: Candidate) => t.bits / (t.minutes + MINUTES_AROUND);

/** The tests still to be done, best first, with what each would tell. */
export function candidates(
  c: Case,
  ev: Evidence,
  weighed: readonly Weighed[],
  settings: Settings = {},
): { tests: Candidate[]; leading: readonly Weighed[] } {
  const leading = weighed.filter((w) => w.probability > NEGLIGIBLE);
  const prior = leading.map((w) => w.probability);
  const done = new Set(ev.tests.map((t) => t.row.id));
  const blocked = new Set<string>();
  /** Tests of one bank at a time, and the banks they were done on. */
  const banksDone = new Map<string, Set<number>>();
  for (const t of c.tests ?? []) {
    const outcomes = [t.outcome].flat();
    if (outcomes.includes('inconclusive') || outcomes.includes('not-accessible')) blocked.add(t.id);
    else done.add(t.id);
    if (t.bank !== undefined) banksDone.set(t.id, (banksDone.get(t.id) ?? new Set()).add(t.bank));
  }
  const open = new Set(TESTS.flatMap((t) => (done.has(t.id) && t.access ? [t.access] : [])));
  const at = new Set((c.readings ?? []).map((r) => r.at));
  const rates = (c.readings ?? []).flatMap((r) => r.sampleHz ?? []);
  const toolHz = settings.toolHz ?? (rates.length > 0 ? ALONE_FACTOR * Math.max(...rates) : undefined);
  if (at.has('road-load')) open.add('road');
  const tests: Candidate[] = [];
  for (const listed of TESTS) {
    const row = asLearned(listed, settings.reliability);
    const bank = bankToTest(row, ev, leading, banksDone.get(row.id));
    // A result that names no bank stands for both.
    const otherBank = bank !== null && banksDone.has(row.id);
    if ((done.has(row.id) && !otherBank) || !possible(row, ev, settings, toolHz)) continue;
    if (row.reading && at.has(row.reading)) continue;
    // A figure that is there already is not asked for again.
    if (row.measure === 'full-load' && ev.fullLoad && !Number.isNaN(ev.fullLoad.ratio)) continue;
    if (row.measure === 'koeo' && ev.koeoDifferenceKPa !== null) continue;
    if (ev.signs.some((s) => SIGN_TEST[s.id] === row.id)) continue;
    const part = row.swaps ? partToSwap(leading) : undefined;
    const likelihood = row.reading
      ? readingLikelihood(row, ev, leading)
      : part
        ? outcomesOf(row).map((o) => leading.map((w) => swapProbability(o, w.row.id, part)))
        : outcomeLikelihood(row, ev, leading, bank);
    tests.push({
      row,
      minutes: minutesOf(row, open, settings),
      bits: informationBits(prior, likelihood),
      blocked: blocked.has(row.id),
      likelihood,
      ...(part ? { part } : {}),
      ...(bank === null ? {} : { bank }),
    });
  }
  tests.sort((a, b) => Number(a.blocked) - Number(b.blocked) || worthOf(b) - worthOf(a));
  return { tests, leading };
}

/** Bench minutes with what is open already; a shop's own figure counts in full or by the same share. */
function minutesOf(row: TestRow, open: ReadonlySet<AccessId>, settings: Settings): number {
  const full = Math.max(settings.minutes?.[row.id] ?? row.minutes, 0.1);
  if (!row.access || !open.has(row.access) || row.minutesOpen === undefined) return full;
  return Math.max(1, Math.round((full * row.minutesOpen) / row.minutes));
}

/** The tests still worth their minutes, best first by information per additional minute; tests without an outcome come last. */
export function rankTests(found: ReturnType<typeof candidates>): NextTest[] {
  const { leading } = found;
  const tests = found.tests.filter((t) => t.bits / t.minutes >= STOP_BITS_PER_MINUTE);
  return tests.map((t) => {
    const together = t.row.access
      ? found.tests.filter((o) => o !== t && !o.blocked && o.row.access === t.row.access && o.bits >= TOGETHER_BITS)
      : [];
    return {
      test: t.row.id,
      minutes: t.minutes,
      informationBits: Math.round(t.bits * 1000) / 1000,
      why: why(t.row, t.likelihood, leading),
      ...(t.row.access ? { access: ACCESS[t.row.access] } : {}),
      ...(together.length > 0 ? { together: together.map((o) => o.row.id) } : {}),
      ...(t.part ? { part: t.part } : {}),
      ...(t.bank === undefined ? {} : { bank: t.bank }),
    };
  });
}

/** Of a test done on one bank at a time: the bank on which its faults are likelier and it was not done; null: not that kind. */
function bankToTest(
  row: TestRow,
  ev: Evidence,
  leading: readonly Weighed[],
  done: ReadonlySet<number> | undefined,
): 1 | 2 | null {
  if (!row.perBank || ev.banks === 1) return null;
  const left = ([1, 2] as const).filter((b) => !done?.has(b));
  if (left.length < 2) return left[0] ?? null;
  const spoken = new Set(outcomesOf(row).flatMap((o) => speaksFor(row, o)));
  const mass = (b: 1 | 2) =>
    leading.reduce((s, w) => s + (w.bank === b && spoken.has(w.row.id) ? w.probability : 0), 0);
  return mass(2) > mass(1) ? 2 : 1;
}

/** Bits within a group from which a test tells its members apart. [house] */
const TELLS_APART_BITS = 0.12;

/** The test that tells most within a group of causes for its minutes, done on them alone; null where none does. */
export function separates(found: ReturnType<typeof candidates>, group: readonly string[]): string | null {
  const within = found.leading.map((w) => (group.includes(w.row.id) ? w.probability : 0));
  const sum = within.reduce((a, b) => a + b, 0);
  let best: { id: string; worth: number } | null = null;
  for (const t of found.tests) {
    if (t.blocked || sum === 0) continue;
    const bits = informationBits(
      within.map((p) => p / sum),
      t.likelihood,
    );
    const worth = bits / (t.minutes + MINUTES_AROUND);
    if (bits >= TELLS_APART_BITS && worth > (best?.worth ?? 0)) best = { id: t.row.id, worth };
  }
  return best?.id ?? null;
}

/** For one cause: the results, not too rare, that would leave least of it. At most two, of different tests. */
export function mindChanges(w: Weighed, found: ReturnType<typeof candidates>): MindChange[] {
  const { tests, leading } = found;
  const at = leading.indexOf(w);
  if (at < 0) return [];
  const best: (MindChange & { worth: number })[] = [];
  for (const t of tests) {
    if (t.row.reading || t.blocked) continue;
    let mine: (MindChange & { worth: number }) | null = null;
    t.likelihood.forEach((row, o) => {
      let z = 0;
      for (let f = 0; f < leading.length; f++) z += leading[f]!.probability * row[f]!;
      if (z < RARE) return;
      const left = (w.probability * row[at]!) / z;
      // Most taken away for the minutes, by a result that can be expected.
      const worth = (z * (w.probability - left)) / t.minutes;
      if (left < 0.6 * w.probability && worth > (mine?.worth ?? 0))
        mine = { test: t.row.id, outcome: outcomesOf(t.row)[o]!, left: Math.round(left * 1000) / 1000, worth };
    });
    if (mine) best.push(mine);
  }
  return best
    .sort((a, b) => b.worth - a.worth)
    .slice(0, 2)
    .map(({ worth: _, ...m }) => m);
}

/** Tests that could be done on this car in this shop and were not, whatever they would tell; readings are not among them. */
export function furtherTests(c: Case, ev: Evidence, settings: Settings): TestRow[] {
  const done = new Set((c.tests ?? []).map((t) => t.id));
  // What a reading has shown is not asked for again.
  const shown = new Set(ev.signs.flatMap((s) => SIGN_TEST[s.id] ?? []));
  return TESTS.filter(
    (t) => !t.reading && !done.has(t.id) && !shown.has(t.id) && possible(t, ev, settings, settings.toolHz),
  );
}

/** Share by which a test must show a cause more often than a sound engine to confirm it. [house] */
const CONFIRMS = 0.45;
/** Readings alone condemn nothing: before it, the cause is taken to be there or not with the same chance. [house] */
const OPEN = [0.5, 0.5];

/**
 * The test that confirms a cause for the fewest minutes, where none is left that would tell causes apart. Its
 * information is on whether the cause is there at all. Null where no test of this shop shows it for its minutes.
 */
export function confirmingTest(
  tests: readonly TestRow[],
  cause: Pick<Cause, 'fault' | 'bank'>,
  banks: 1 | 2,
  settings: Settings,
): NextTest | null {
  let best: NextTest | null = null;
  let most = 0;
  for (const row of tests) {
    const there = outcomeRow(row, cause.fault, cause.bank, banks);
    const sound = outcomeRow(row, 'balanced', null, banks);
    const shows = sound[0]! - there[0]!;
    const minutes = minutesOf(row, new Set(), settings);
    const bits = informationBits(
      OPEN,
      there.map((p, o) => [p, sound[o]!]),
    );
    const test = { test: row.id, minutes, informationBits: Math.round(bits * 1000) / 1000, why: row.how };
    const worth = shows / (minutes + MINUTES_AROUND);
    if (shows < CONFIRMS || worth <= most || !worthDoing(test)) continue;
    most = worth;
    best = test;
  }
  return best;
}

function possible(row: TestRow, ev: Evidence, settings: Settings, toolHz: number | undefined): boolean {
  if (!hasTool(row, settings.tools)) return false;
  if (row.hazard && settings.hazards && !settings.hazards.includes(row.hazard)) return false;
  if (row.needsHz !== undefined && toolHz !== undefined && toolHz < row.needsHz) return false;
  return fitsEngine(row, ev.engine);
}

/** The part whose faults are likeliest together. */
function partToSwap(leading: readonly Weighed[]): string {
  let best = 'maf';
  let most = -1;
  for (const [part, faults] of Object.entries(SWAP_PARTS)) {
    const p = leading.reduce((s, w) => s + (faults.includes(w.row.id) ? w.probability : 0), 0);
    if (p > most) {
      most = p;
      best = part;
    }
  }
  return best;
}

function outcomeLikelihood(row: TestRow, ev: Evidence, leading: readonly Weighed[], bank: 1 | 2 | null): number[][] {
  const columns = leading.map((w) => {
    // Done on one bank it says nothing of what sits on the other.
    const here = bank === null || w.bank === null || w.bank === bank;
    const p = outcomeRow(row, here ? w.row.id : 'balanced', here ? w.bank : null, ev.banks);
    // The size decides whether a numeric test sees it: a small share hides inside "normal".
    if (row.measure !== 'full-load' || !w.row.fullLoad) return p;
    const visible = w.grid.reduce(
      (s, g) => s + (Math.abs(fullLoadRatio(w.row, g.shape, g.severity) - 1) > FULL_LOAD_SEEN ? g.probability : 0),
      0,
    );
    const not = outcomeRow(row, 'balanced', null, ev.banks);
    return p.map((x, o) => visible * x + (1 - visible) * not[o]!);
  });
  return outcomesOf(row).map((_, o) => columns.map((p) => p[o]!));
}

function readingLikelihood(row: TestRow, ev: Evidence, leading: readonly Weighed[]): number[][] {
  const hold = ev.points.find((p) => p.at === 'hold-2500');
  const point =
    row.reading === 'road-load'
      ? { airflowGps: ev.roadFlowGps, mapKPa: 0.55 * ev.baroKPa, iatC: ev.airC + 15 }
      : { airflowGps: hold?.airflowGps ?? 3 * ev.idleFlowGps, mapKPa: ev.idleMapKPa, iatC: ev.airC + 15 };
  // What all points share is known the better the more points there are.
  const healthy = HEALTHY_SD ** 2 * (1 - COMMON_SHARE + COMMON_SHARE / (1 + ev.trims.length)) + 0.5;
  const likelihood = Array.from({ length: EDGES.length + 1 }, () => leading.map(() => 0));
  leading.forEach((w, f) => {
    let mass = 0;
    for (const g of w.grid) {
      if (g.probability < 0.01) continue;
      mass += g.probability;
      const e = predict(g.shape, g.severity, w.bank ?? 1, point, ev);
      const mean = Math.abs(e.trimPct[0]) >= Math.abs(e.trimPct[1]) ? e.trimPct[0] : e.trimPct[1];
      const sd = Math.sqrt(healthy + (0.1 * mean) ** 2);
      let below = 0;
      for (let b = 0; b <= EDGES.length; b++) {
        const up = b < EDGES.length ? normalCdf((EDGES[b]! - mean) / sd) : 1;
        likelihood[b]![f]! += g.probability * (up - below);
        below = up;
      }
    }
    if (mass > 0) for (const bin of likelihood) bin[f]! /= mass;
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
function why(row: TestRow, likelihood: Likelihood, leading: readonly Weighed[]): Said {
  const order = leading.map((w, i) => ({ w, i })).sort((a, b) => b.w.probability - a.w.probability);
  const first = order[0];
  if (!first) return row.how;
  const differs = order.slice(1, 6).filter(({ w, i }) => {
    if (w.probability < 0.01) return false;
    let distance = 0;
    for (const o of likelihood) distance += Math.abs(o[i]! - o[first.i]!);
    return distance > 0.5;
  });
  if (differs.length === 0) return said`Tells little between the leading causes. ${row.how}`;
  const names = differs.slice(0, 2).map(({ w }) => midSentence(w.row.label));
  return said`Separates ${midSentence(first.w.row.label)} from ${names.join(' and ')}. ${row.how}`;
}
