import type { OperatingPoint } from '../case/index.ts';
import { FAULTS, RESULTS } from '../catalogue/index.ts';
import type { Settings } from '../diagnosis/index.ts';
import type { KnownFigure } from '../expected/index.ts';
import { CLEANABLE } from '../procedures/index.ts';
import { findingsOf } from './findings.ts';
import { betaShare, median, robustBand, spreadOf } from './intervals.ts';
import type {
  Learned,
  LearnedCause,
  LearnedChance,
  LearnedFigure,
  LearnedTest,
  LearningChoice,
  OutcomeOfJob,
} from './learned.ts';

/** Our starting weights count as so many jobs of the shop's own. [house] */
export const PRIOR_STRENGTH = 60;
/** Our chances of a test count as so many of its results. [house] */
export const TEST_STRENGTH = 20;
/** From this chance on a test should find the fault, for counting its hits. [house] */
const SHOULD_FIND = 0.4;
/** An outcome that the fault brings with this chance or more is explained by it. [house] */
const EXPLAINS = 0.1;
/** However many results say so, no chance of ours is moved by more than this factor. [house] */
const MOST_FACTOR = 3;

/** What the shop's jobs teach. A job that came back proves nothing; its outcome counts for minutes, not for causes. */
export function learn(all: readonly OutcomeOfJob[]): Learned {
  const back = new Set(all.flatMap((x) => x.outcome.cameBackOf ?? []));
  const proven = all.filter((x) => x.outcome.proven.length > 0 && !back.has(x.job));
  const closed = all.filter((x) => x.outcome.closed && (x.outcome.proven.length > 0 || back.has(x.job)));
  const came = closed.filter((x) => back.has(x.job));
  const learned: Learned = {
    jobs: all.length,
    proven: proven.length,
    figures: figures(proven),
    causes: causes(proven),
    tests: tests(proven),
    cleanings: cleanings(all),
    minutesToCause: withJobs(
      all.filter((x) => x.outcome.minutesToCause !== null),
      (x) => [x.outcome.minutesToCause!],
    ),
    procedures: procedures(all),
    firstTime:
      closed.length === 0
        ? null
        : {
            ...betaShare(closed.length - came.length + 1, came.length + 1),
            mean: (closed.length - came.length) / closed.length,
            fixed: closed.length - came.length,
            back: came.length,
            jobs: came.map((x) => x.job),
          },
    breaks: breaks(all),
    drives: all.reduce((n, x) => n + x.outcome.drives, 0),
    findings: [],
  };
  return { ...learned, findings: findingsOf(learned, all) };
}

function withJobs(list: readonly OutcomeOfJob[], values: (x: OutcomeOfJob) => number[]) {
  const s = spreadOf(list.flatMap(values));
  return s && { ...s, jobs: list.map((x) => x.job) };
}

/** By a key, in order of first appearance. */
function grouped<T>(items: readonly T[], key: (t: T) => string): T[][] {
  const by = new Map<string, T[]>();
  for (const t of items) {
    const list = by.get(key(t)) ?? [];
    list.push(t);
    by.set(key(t), list);
  }
  return [...by.values()];
}

function figures(proven: readonly OutcomeOfJob[]): LearnedFigure[] {
  const seen = proven.flatMap(({ job, outcome }) =>
    outcome.good.flatMap((g) =>
      (['airflow', 'manifold'] as const).flatMap((quantity) =>
        g[quantity] === undefined
          ? []
          : [{ job, family: outcome.family, at: g.at, quantity, value: g[quantity], baroKPa: outcome.baroKPa }],
      ),
    ),
  );
  return grouped(seen, (s) => `${s.family}|${s.at}|${s.quantity}`).flatMap((list) => {
    const band = robustBand(list.map((s) => s.value));
    if (!band) return [];
    const { family, at, quantity } = list[0]!;
    const baro = list.flatMap((s) => s.baroKPa ?? []);
    return [
      {
        ...band,
        family,
        at,
        quantity,
        baroKPa: baro.length > 0 ? median(baro) : null,
        values: list.map((s) => s.value),
        jobs: list.map((s) => s.job),
      },
    ];
  });
}

/** Dirichlet counts: ours, worth `PRIOR_STRENGTH` jobs, and what was proven here on top of them. */
function causes(proven: readonly OutcomeOfJob[]): LearnedCause[] {
  const weight = FAULTS.reduce((sum, f) => sum + f.weight, 0);
  const jobs = new Map<string, string[]>();
  let total = PRIOR_STRENGTH;
  for (const { job, outcome } of proven)
    for (const fault of outcome.proven) {
      if (!FAULTS.some((f) => f.id === fault)) continue;
      jobs.set(fault, [...(jobs.get(fault) ?? []), job]);
      total++;
    }
  return FAULTS.map((f) => {
    const mine = jobs.get(f.id) ?? [];
    const ours = f.weight / weight;
    const a = PRIOR_STRENGTH * ours + mine.length;
    return { fault: f.id, count: mine.length, ours, jobs: mine, ...betaShare(a, total - a) };
  }).sort((x, y) => y.count - x.count || y.mean - x.mean || (x.fault < y.fault ? -1 : 1));
}

interface Counted {
  yes: string[];
  no: string[];
  /** What ours says of each case. */
  ours: number[];
}

const chance = (c: Counted): LearnedChance => {
  const ours = c.ours.length > 0 ? c.ours.reduce((a, b) => a + b, 0) / c.ours.length : 0;
  const share = betaShare(TEST_STRENGTH * ours + c.yes.length, TEST_STRENGTH * (1 - ours) + c.no.length);
  return { yes: c.yes.length, no: c.no.length, ours, jobs: [...c.no, ...c.yes], ...share };
};

/**
 * What a test showed, held against what was proven in the end: found where it should find it, silent where it should not
 * speak. Only the outcomes before the repair count.
 */
function tests(proven: readonly OutcomeOfJob[]): LearnedTest[] {
  const hits = new Map<string, Counted>();
  const alarms = new Map<string, Counted>();
  const of = (map: Map<string, Counted>, test: string) => {
    const c = map.get(test) ?? { yes: [], no: [], ours: [] };
    map.set(test, c);
    return c;
  };
  for (const { job, outcome } of proven)
    for (const t of outcome.tests) {
      const row = RESULTS[t.id];
      const shown = row && t.outcomes.filter((o) => o === row.normal || row.shows[o]);
      if (!row || !shown || shown.length === 0) continue;
      const would = (fault: string) => Object.values(row.shows).reduce((sum, s) => sum + (s[fault] ?? 0), 0);
      const best = Math.max(...outcome.proven.map(would));
      const explained = shown.some((o) => outcome.proven.some((f) => (row.shows[o]?.[f] ?? 0) >= EXPLAINS));
      if (best >= SHOULD_FIND) {
        const c = of(hits, t.id);
        (explained ? c.yes : c.no).push(job);
        c.ours.push(Math.min(0.99, best));
      }
      const spoke = shown.some((o) => o !== row.normal);
      if (!explained) {
        const c = of(alarms, t.id);
        (spoke ? c.yes : c.no).push(job);
        c.ours.push(
          Math.min(
            0.9,
            Object.values(row.anyway).reduce((a, b) => a + b, 0),
          ),
        );
      }
    }
  const none: Counted = { yes: [], no: [], ours: [] };
  return [...new Set([...hits.keys(), ...alarms.keys()])].sort().map((test) => ({
    test,
    hits: chance(hits.get(test) ?? none),
    alarms: chance(alarms.get(test) ?? none),
  }));
}

function cleanings(all: readonly OutcomeOfJob[]): Learned['cleanings'] {
  const said = all.flatMap(({ job, outcome }) => outcome.cleanings.map((c) => ({ job, ...c })));
  return grouped(said, (c) => `${c.part}|${c.source ?? ''}`)
    .map((list) => {
      const { part, source } = list[0]!;
      const start = CLEANABLE.find((c) => c.id === part)?.start ?? { held: 1, failed: 1 };
      const held = list.filter((c) => c.held).length;
      const failed = list.length - held;
      return {
        part,
        source,
        held,
        failed,
        failedJobs: list.filter((c) => !c.held).map((c) => c.job),
        jobs: list.map((c) => c.job),
        ...betaShare(start.held + held, start.failed + failed),
      };
    })
    .sort((a, b) => b.held + b.failed - a.held - a.failed);
}

function procedures(all: readonly OutcomeOfJob[]): Learned['procedures'] {
  const done = all.flatMap(({ job, outcome }) => outcome.procedures.map((p) => ({ job, ...p })));
  return grouped(done, (p) => p.id)
    .map((list) => {
      const { id, title, advised } = list.at(-1)!;
      return {
        ...spreadOf(list.map((p) => p.minutes))!,
        id,
        title,
        advised,
        each: list.map((p) => p.minutes),
        jobs: list.map((p) => p.job),
      };
    })
    .sort((a, b) => b.n - a.n);
}

function breaks(all: readonly OutcomeOfJob[]): Learned['breaks'] {
  const said = all.flatMap(({ job, outcome }) => outcome.broke.map((what) => ({ job, what })));
  return grouped(said, (b) => b.what)
    .map((list) => ({ what: list[0]!.what, count: list.length, jobs: list.map((b) => b.job) }))
    .sort((a, b) => b.count - a.count || (a.what < b.what ? -1 : 1));
}

/** What was learned as settings that `diagnose` and `jb diagnose --settings` take; only what is chosen. */
export function learnedSettings(l: Learned, choice: LearningChoice): Pick<Settings, 'priors' | 'reliability'> {
  const weight = FAULTS.reduce((sum, f) => sum + f.weight, 0);
  const factor = (c: LearnedChance) =>
    c.yes + c.no === 0 || c.ours === 0 ? 1 : Math.min(MOST_FACTOR, Math.max(1 / MOST_FACTOR, c.mean / c.ours));
  const round = (v: number) => Number(v.toPrecision(6));
  return {
    ...(choice.priors && l.proven > 0
      ? { priors: Object.fromEntries(l.causes.map((c) => [c.fault, round(c.mean * weight)])) }
      : {}),
    ...(choice.tests && l.tests.length > 0
      ? {
          reliability: Object.fromEntries(
            l.tests.map((t) => [t.test, { hits: round(factor(t.hits)), alarms: round(factor(t.alarms)) }]),
          ),
        }
      : {}),
  };
}

/** Known-good figures of one engine family, for the third layer of expected values. */
export function learnedFigures(l: Pick<Learned, 'figures'>, family: string): KnownFigure[] {
  return l.figures
    .filter((f) => f.family === family)
    .map((f) => ({
      layer: 'shop',
      at: f.at as OperatingPoint,
      quantity: f.quantity,
      low: Number(Math.max(0, f.low).toPrecision(4)),
      high: Number(f.high.toPrecision(4)),
      source: `learned from ${f.n} proven jobs of this family`,
      ...(f.baroKPa === null ? {} : { baroKPa: f.baroKPa }),
    }));
}
