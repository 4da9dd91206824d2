import { FAULTS, faultLabel, RESULTS, TEST_BY_ID } from '../catalogue/index.ts';
import { CLEANABLE, dirtSource } from '../procedures/index.ts';
import { counted, figure, midSentence, said } from '../units/index.ts';
import { luckOfOne, luckOfTwo } from './chance.ts';
import { robustBand } from './intervals.ts';
import type { Finding, Learned, LearnedChance, OutcomeOfJob } from './learned.ts';

interface Candidate extends Omit<Finding, 'doubt' | 'sure'> {
  /** Minutes that it saves in such a year, by which they are put in order. */
  worthMin: number;
  /** By luck alone, over all jobs. */
  luck: number;
  /** By luck alone, over the jobs before it could be seen, and over those after; null where there are none. */
  early: number;
  late: number | null;
}

/** Fewer jobs say nothing. [house] */
const LEAST_JOBS = 10;
/** By luck no more often than this. */
const LUCK = 0.05;
/** The older part of the jobs finds, the newer part says the same or does not. [house] */
const FINDS = 0.6;
const MOST = 3;
/** A test is much quicker than another from this factor on. [house] */
const QUICKER = 3;
/** What a cleaning that does not hold costs: the car is back. */
const MINUTES_OF_A_COMEBACK = 60;
/** What knowing where to look first saves at a car, and knowing what is normal there. [house] */
const MINUTES_AT_A_CAUSE = 6;
const MINUTES_AT_A_FIGURE = 2;
/** A test should find a fault that it shows this often. [house] */
const SHOULD_FIND = 0.4;

/** The sentences worth saying, the most useful first: at most three, one of each kind. */
export function findingsOf(l: Learned, all: readonly OutcomeOfJob[]): Finding[] {
  const place = new Map(all.map(({ job }, i) => [job, i]));
  const early = (job: string) => (place.get(job) ?? 0) < FINDS * all.length;
  return [
    causeFinding(l, all, early),
    quickTest(l, early),
    healthy(l),
    procedureFinding(l, early),
    cleaningFinding(l, early),
  ]
    .flatMap((c) => (c && c.luck <= LUCK && c.jobs.length >= LEAST_JOBS ? [c] : []))
    .sort((a, b) => b.worthMin - a.worthMin)
    .slice(0, MOST)
    .map(({ worthMin: _w, luck, early: before, late, ...f }) => {
      const sure = before <= LUCK && late !== null && late <= LUCK;
      return { ...f, sure, doubt: sure ? SURE : doubtOf(luck, f.jobs.length) };
    });
}

const SURE = 'Picked from many comparisons; the jobs since then say the same.';

function doubtOf(luck: number, jobs: number): string {
  const once = luck < 1e-4 ? 'less than 1 time in 10,000' : `1 time in ${Math.floor(1 / luck + 1e-6)}`;
  return `Luck alone would do this ${once}; picked from many comparisons, so look again at ${2 * jobs} jobs.`;
}

/** Luck that something comes more often than `share`; where it does not, it is no find at all. */
const luckOfMore = (k: number, n: number, share: number) => (k > share * n ? luckOfOne(k, n, share) : 1);

/** A cause that comes much more often here than it was assumed. */
function causeFinding(l: Learned, all: readonly OutcomeOfJob[], early: (job: string) => boolean): Candidate | null {
  const total = l.causes.reduce((n, c) => n + c.count, 0);
  const [most] = l.causes
    .filter((c) => c.ours > 0 && c.count / Math.max(1, total) > 1.5 * c.ours)
    .map((c) => ({ c, extra: c.count - c.ours * total }))
    .sort((a, b) => b.extra - a.extra);
  if (!most) return null;
  const { c, extra } = most;
  const known = new Set(FAULTS.map((f) => f.id));
  const proven = (when: boolean) =>
    all
      .filter((x) => early(x.job) === when)
      .reduce((n, x) => n + x.outcome.proven.filter((f) => known.has(f)).length, 0);
  const of = (when: boolean) => c.jobs.filter((j) => early(j) === when).length;
  const times = c.count / total / c.ours;
  const luckOf = (when: boolean) => luckOfMore(of(when), Math.max(of(when), proven(when)), c.ours);
  return {
    id: `cause-${c.fault}`,
    sentence: `${faultLabel(c.fault)} comes ${times >= 2.5 ? `${Math.round(times)} times as` : 'about twice as'} often here as was assumed.`,
    behind: `${c.count} of ${total} proven causes.`,
    uses: 'priors',
    jobs: c.jobs,
    picture: {
      kind: 'shares',
      rows: [
        { label: 'here', yes: c.count, of: total },
        { label: 'assumed', yes: Math.round(c.ours * total), of: total },
      ],
    },
    worthMin: MINUTES_AT_A_CAUSE * extra,
    luck: luckOfMore(c.count, total, c.ours),
    early: luckOf(true),
    late: proven(false) > 0 ? luckOf(false) : null,
  };
}

/** A quick test that found the cause as often as a long one that looks for the same. */
function quickTest(l: Learned, early: (job: string) => boolean): Candidate | null {
  const found = (c: LearnedChance) => c.yes / Math.max(1, c.yes + c.no);
  const finds = (id: string) =>
    new Set(
      FAULTS.flatMap(({ id: f }) =>
        Object.values(RESULTS[id]?.shows ?? {}).reduce((n, s) => n + (s[f] ?? 0), 0) >= SHOULD_FIND ? [f] : [],
      ),
    );
  const rows = l.tests.flatMap((t) => {
    const row = TEST_BY_ID.get(t.test);
    return row && t.hits.yes + t.hits.no >= LEAST_JOBS ? [{ row, hits: t.hits, finds: finds(t.test) }] : [];
  });
  const pairs = rows.flatMap((quick) =>
    rows
      .filter(
        (long) => long.row.minutes >= QUICKER * quick.row.minutes && [...quick.finds].some((f) => long.finds.has(f)),
      )
      .filter((long) => found(quick.hits) >= found(long.hits))
      .map((long) => ({
        quick,
        long,
        saved: (long.row.minutes - quick.row.minutes) * (quick.hits.yes + quick.hits.no),
      })),
  );
  const [best] = pairs.sort((a, b) => b.saved - a.saved);
  if (!best) return null;
  const { quick, long, saved } = best;
  const note = ({ yes, no }: LearnedChance) => `found it in ${yes} of ${yes + no}`;
  // That it finds anything like as often by luck: were it right in half of them only.
  const luckOf = (jobs: readonly string[], missed: ReadonlySet<string>) =>
    luckOfMore(jobs.filter((j) => !missed.has(j)).length, jobs.length, 0.5);
  const missed = new Set(quick.hits.jobs.slice(0, quick.hits.no));
  const part = (when: boolean) => quick.hits.jobs.filter((j) => early(j) === when);
  return {
    id: `test-${quick.row.id}-${long.row.id}`,
    sentence: `${quick.row.label} first: it is right as often as “${midSentence(long.row.label)}”.`,
    behind: `${counted(quick.hits.yes + quick.hits.no, 'job')} with something for it to find, ${quick.row.minutes} minutes each.`,
    uses: 'tests',
    jobs: quick.hits.jobs,
    picture: {
      kind: 'minutes',
      rows: [
        { label: quick.row.label, minutes: quick.row.minutes, note: note(quick.hits) },
        { label: long.row.label, minutes: long.row.minutes, note: note(long.hits) },
      ],
    },
    worthMin: saved,
    luck: luckOf(quick.hits.jobs, missed),
    early: luckOf(part(true), missed),
    late: part(false).length > 0 ? luckOf(part(false), missed) : null,
  };
}

/** What a healthy engine of the commonest family breathes at idle here. */
function healthy(l: Learned): Candidate | null {
  const [f] = l.figures
    .filter((x) => x.at === 'idle' && x.quantity === 'airflow' && x.n >= LEAST_JOBS)
    .sort((a, b) => b.n - a.n);
  if (!f) return null;
  const [fuel, cylinders] = f.family.split(', ') as [string, string];
  // The band of the older cars is held against the newer ones; a band that is none would hold them half of the time.
  const cut = Math.max(LEAST_JOBS, Math.ceil(FINDS * f.values.length));
  const band = robustBand(f.values.slice(0, cut))!;
  const newer = f.values.slice(cut);
  const late =
    newer.length > 0
      ? luckOfMore(newer.filter((v) => v >= band.low && v <= band.high).length, newer.length, 0.5)
      : null;
  return {
    id: `known-good-${f.family}`,
    sentence: said`A healthy ${fuel} with ${cylinders} idles on ${figure([f.low, f.high], 'g/s', 1, { between: ' to ' })} here.`,
    behind: `${counted(f.n, 'proven job')}, warm, loads off: each a dot.`,
    uses: 'knownGood',
    jobs: f.jobs,
    picture: { kind: 'band', low: f.low, high: f.high, unit: 'g/s', values: f.values },
    worthMin: MINUTES_AT_A_FIGURE * f.n,
    // Ten cars of one kind make a band; whether it is one the next ones say.
    luck: late ?? LUCK,
    early: 0,
    late,
  };
}

/** A procedure that takes longer or shorter here than advised, nearly every time. */
function procedureFinding(l: Learned, early: (job: string) => boolean): Candidate | null {
  const rows = l.procedures.flatMap((p) => {
    const over = p.each.filter((m) => m > p.advised).length;
    const other = p.each.filter((m) => m !== p.advised).length;
    return other >= LEAST_JOBS ? [{ p, longer: over > other / 2, worth: Math.abs(p.median - p.advised) * p.n }] : [];
  });
  const [best] = rows.sort((a, b) => b.worth - a.worth);
  if (!best) return null;
  const { p, longer } = best;
  const luckOf = (list: readonly number[]) => {
    const off = list.filter((m) => m !== p.advised);
    return luckOfMore(off.filter((m) => m > p.advised === longer).length, off.length, 0.5);
  };
  const part = (when: boolean) => p.each.filter((_, i) => early(p.jobs[i]!) === when);
  return {
    id: `procedure-${p.id}`,
    sentence: `“${p.title}” takes ${Math.round(p.median)} minutes here: plan with that, not with ${p.advised}.`,
    behind: `${counted(p.n, 'time')}, half of them ${Math.round(p.low)} to ${Math.round(p.high)} minutes.`,
    uses: null,
    jobs: p.jobs,
    picture: {
      kind: 'minutes',
      rows: [
        { label: 'here', minutes: p.median, note: `${counted(p.n, 'time')}` },
        { label: 'advised', minutes: p.advised, note: '' },
      ],
    },
    worthMin: best.worth,
    luck: luckOf(p.each),
    early: luckOf(part(true)),
    late: part(false).length > 0 ? luckOf(part(false)) : null,
  };
}

/** A part that comes back dirty from one kind of dirt more often than from the others. */
function cleaningFinding(l: Learned, early: (job: string) => boolean): Candidate | null {
  const rows = l.cleanings.flatMap((c) => {
    const others = l.cleanings.filter((x) => x.part === c.part && x !== c);
    const n = others.reduce((sum, x) => sum + x.jobs.length, 0);
    if (c.source === null || n === 0) return [];
    const back = others.reduce((sum, x) => sum + x.failed, 0);
    return [{ c, others, n, back, more: c.failed / c.jobs.length - back / n }];
  });
  const [worst] = rows.sort((a, b) => b.more - a.more);
  if (!worst || worst.more <= 0) return null;
  const { c, others, n, back, more } = worst;
  const part = (list: readonly string[], when: boolean) => list.filter((j) => early(j) === when);
  const luckOf = (when: boolean) => {
    const [mine, theirs] = [
      part(c.jobs, when),
      part(
        others.flatMap((x) => x.jobs),
        when,
      ),
    ];
    const [failed, theirFailed] = [
      part(c.failedJobs, when),
      part(
        others.flatMap((x) => x.failedJobs),
        when,
      ),
    ];
    if (mine.length === 0 || theirs.length === 0) return null;
    return failed.length / mine.length > theirFailed.length / theirs.length
      ? luckOfTwo(failed.length, mine.length, theirFailed.length, theirs.length)
      : 1;
  };
  const label = CLEANABLE.find((x) => x.id === c.part)?.label ?? c.part;
  const dirt = midSentence(dirtSource(c.source!)?.label ?? c.source!);
  return {
    id: `cleaning-${c.part}-${c.source}`,
    sentence: `Cleaned after ${dirt}, the ${midSentence(label)} comes back more often.`,
    behind: `${counted(c.jobs.length + n, 'cleaning')}.`,
    uses: null,
    jobs: [...c.jobs, ...others.flatMap((x) => x.jobs)],
    picture: {
      kind: 'shares',
      rows: [
        { label: dirt, yes: c.failed, of: c.jobs.length },
        { label: 'other dirt', yes: back, of: n },
      ],
    },
    worthMin: MINUTES_OF_A_COMEBACK * more * c.jobs.length,
    luck: luckOfTwo(c.failed, c.jobs.length, back, n),
    early: luckOf(true) ?? 1,
    late: luckOf(false),
  };
}
