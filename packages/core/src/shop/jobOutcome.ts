import type { TestResult } from '../case/index.ts';
import { TEST_BY_ID } from '../catalogue/index.ts';
import { familyOf } from '../expected/index.ts';
import { type HandOverJob, repairedFaults, standing } from '../handOver/index.ts';
import { runState } from '../procedures/index.ts';
import { newestOfEach, type ProofJudgement, storyOf } from '../proof/index.ts';
import { unixOf } from '../time/index.ts';

/** What one job teaches the shop; kept with the job, counted with the others. Metric. */
export interface JobOutcome {
  family: string;
  /** Causes that were repaired and proven to have been it; empty where nothing is proven. */
  proven: string[];
  /** What the readings and tests said before the repair. */
  leading: { fault: string; probability: number } | null;
  /** Results before the repair, the newest of each test. */
  tests: { id: string; outcomes: string[] }[];
  /** Readings after a proven repair: an engine in order. */
  good: { at: string; airflow?: number; manifold?: number }[];
  baroKPa: number | null;
  /** Runs that were ended: hands-on minutes as they took, waiting left out, and as advised. */
  procedures: { id: string; title: string; minutes: number; advised: number }[];
  cleanings: { part: string; source: string | null; held: boolean }[];
  /** From the first reading to the first repair. */
  minutesToCause: number | null;
  /** What broke drives, by condition or step. */
  broke: string[];
  drives: number;
  /** The job that this one came back from. */
  cameBackOf: string | null;
  closed: boolean;
}

/** A diagnosis that took longer was left lying, minutes. [house] */
const LONGEST_DIAGNOSIS = 12 * 60;

const secondsOf = (iso: string) => unixOf(iso) ?? 0;

/** What a job leaves behind for the shop: proven causes, results, readings, minutes. */
export function jobOutcome(job: HandOverJob, proof: ProofJudgement | null): JobOutcome {
  const story = storyOf(job);
  const isProven = proof?.verdict === 'proven' || proof?.verdict === 'balanced, a part condemned';
  const proven = isProven ? repairedFaults(job).filter((f) => f !== 'balanced') : [];
  const first = job.diagnoses.at(-1)?.output.causes[0];
  const drives = standing<{ broke: { what: string }[] }>(job, 'drive');
  const back = standing<{ job: string }>(job, 'cameBack').at(-1);
  return {
    family: familyOf(job.vehicle),
    proven,
    leading: first ? { fault: first.fault, probability: first.probability } : null,
    tests: newestTests(job),
    good: isProven
      ? newestOfEach(story.after).map(({ reading: r }) => ({
          at: r.at,
          ...(r.mafGps === undefined ? {} : { airflow: r.mafGps }),
          ...(r.mapKPa === undefined ? {} : { manifold: r.mapKPa }),
        }))
      : [],
    baroKPa: job.ambient.baroKPa ?? null,
    procedures: job.runs.flatMap((r) => procedureMinutes(r)),
    cleanings: cleaningsOf(job),
    minutesToCause: minutesToCause(job),
    broke: [...new Set(drives.flatMap((d) => d.broke.map((b) => b.what)))],
    drives: drives.length,
    cameBackOf: back?.job ?? null,
    closed: job.status === 'closed',
  };
}

function newestTests(job: HandOverJob): JobOutcome['tests'] {
  const newest = new Map<string, TestResult>();
  for (const t of job.tests) if (!t.undone && t.phase === 'before') newest.set(t.test.id, t.test);
  return [...newest.values()]
    .filter((t) => TEST_BY_ID.has(t.id) && t.outcome !== undefined)
    .map((t) => ({ id: t.id, outcomes: [t.outcome ?? []].flat() }));
}

/** Minutes between what happened in a run; a pause longer than this is waiting, not work, s. [house] */
const PAUSE_S = 20 * 60;

function procedureMinutes(run: HandOverJob['runs'][number]): JobOutcome['procedures'] {
  const s = runState(run.procedure, run.events);
  if (s.status !== 'ended') return [];
  const times = run.events.map((e) => e.atMs / 1000).sort((a, b) => a - b);
  let seconds = 0;
  for (let i = 1; i < times.length; i++) seconds += Math.min(PAUSE_S, times[i]! - times[i - 1]!);
  const { id, title, minutes } = run.procedure;
  return [{ id, title, minutes: Math.max(1, Math.round(seconds / 60)), advised: minutes }];
}

/** How cleanings turned out: what was said of them, with the source of the dirt that the run found. */
function cleaningsOf(job: HandOverJob): JobOutcome['cleanings'] {
  return standing<{ part: string; held: boolean }>(job, 'outcome').map(({ part, held }) => {
    const run = job.runs.find((r) => r.procedure.id.startsWith(part));
    const source = run ? runState(run.procedure, run.events).source : null;
    return { part, source: source?.source ?? null, held };
  });
}

function minutesToCause(job: HandOverJob): number | null {
  const from = job.readings[0]?.at;
  const to = job.repairs.find((r) => !r.undone)?.at;
  if (!from || !to) return null;
  const minutes = (secondsOf(to) - secondsOf(from)) / 60;
  return minutes > 0 && minutes <= LONGEST_DIAGNOSIS ? Math.round(minutes) : null;
}
