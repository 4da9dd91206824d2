import {
  type Ambient,
  type CodeReading,
  type OwnValue,
  partOf,
  type Reading,
  type RecentWork,
  type TestResult,
  type VehicleSpec,
} from '../case/index.ts';
import { FAULT_BY_ID } from '../catalogue/index.ts';
import { type Diagnosis, diagnose, type Settings } from '../diagnosis/index.ts';
import { caseOfJob } from '../job/index.ts';
import type { MonitorStatus } from '../obd/index.ts';
import {
  type CleanablePart,
  cleanablePart,
  cleanedInVain,
  dirtSource,
  disputeSaid,
  openAtEnd,
  orderIsOpen,
  type Procedure,
  type RepairWork,
  type RunEvent,
  runState,
  tightened,
} from '../procedures/index.ts';
import { judgeProof, newestOfEach, type ProofJudgement, storyOf, weakened } from '../proof/index.ts';
import { msOf } from '../time/index.ts';
import { DEFAULT_LIMITS } from '../trims/index.ts';
import { midSentence, type Said, said } from '../units/index.ts';

type Phase = 'before' | 'after';

/** What a job holds, as far as its hand-over tells it. Times are ISO 8601. */
export interface HandOverJob {
  id: string;
  status: string;
  openedAt: string;
  openedBy: string;
  /** Read in from an archive: names up to then are its words. */
  imported?: { by: string; at: string } | null;
  vehicle: VehicleSpec & {
    label: string;
    note?: string;
    year?: number;
    vin?: string;
    odometerKm?: number;
    plate?: string;
  };
  ambient: Ambient;
  complaint: {
    story?: string;
    noticedBy?: string;
    otherLamps?: string;
    symptoms: string[];
    recentWork?: RecentWork[];
  };
  records: {
    phase: Phase;
    at: string;
    codes: (CodeReading & { text?: string | null })[];
    lampOn: boolean;
    monitors: MonitorStatus | null;
    freezeFrame: { name: string; value: number | string; unit: string }[];
    warmupsSinceClear: number | null;
  }[];
  readings: { phase: Phase; at: string; source: string; doubtful: string | null; reading: Reading }[];
  tests: { id?: string; undone: boolean; phase: Phase; at: string; by: string; test: TestResult }[];
  repairs: {
    at: string;
    by: string;
    undone: boolean;
    text: string;
    fault: string | null;
    part: string | null;
    work?: RepairWork | null;
    run?: string | null;
    /** The cause was put there by an earlier version, from what was likeliest then: nobody said it. */
    guessed?: boolean;
  }[];
  runs: { id?: string; at: string; by: string; procedure: Procedure; events: readonly RunEvent[] }[];
  entries: readonly { id?: string; kind: string; undone: boolean; at: string; by: string; data: unknown }[];
  photos: {
    id: string;
    label: string;
    undone: boolean;
    at: string;
    by: string;
    /** The run and the step it was taken in; `test:ID` of a result. */
    run?: string | null;
    step?: string | null;
  }[];
  diagnoses: { at: string; output: Diagnosis }[];
  cautions: { caution: string; step: string; at: string; by: string }[];
  known?: Settings['known'];
}

/** What stands of the entries of one kind, oldest first. */
export function standing<T>(job: Pick<HandOverJob, 'entries'>, kind: string): (T & { at: string; by: string })[] {
  return job.entries.filter((e) => e.kind === kind && !e.undone).map((e) => ({ ...(e.data as T), at: e.at, by: e.by }));
}

/** Parts that were cleaned on this job, and it did not help, in a person's words. */
export function cleanedForNothing(job: Pick<HandOverJob, 'runs' | 'repairs' | 'entries' | 'readings'>): string[] {
  const decisions = standing<{ part: CleanablePart; chosen: 'clean' | 'replace' }>(job, 'decision');
  const outcomes = standing<{ part: CleanablePart; held: boolean }>(job, 'outcome');
  const readMs = job.readings.filter((r) => r.phase === 'after').map((r) => msOf(r.at));
  return cleanedInVain(job, decisions, outcomes, readMs).map((p) => midSentence(cleanablePart(p).label));
}

/** Faults that standing repairs were for, as somebody said; a guess of an earlier version is none. */
export function repairedFaults(job: Pick<HandOverJob, 'repairs'>): string[] {
  return [
    ...new Set(job.repairs.filter((r) => !r.undone && !r.guessed).flatMap((r) => (r.fault === null ? [] : [r.fault]))),
  ];
}

/** Parts condemned by the judgement before, and not replaced since, by a run or by hand. */
export function stillCondemned(job: Pick<HandOverJob, 'diagnoses' | 'runs' | 'repairs'>): string[] {
  const condemned = job.diagnoses.at(-1)?.output.condemned ?? [];
  if (condemned.length === 0) return [];
  const replaced = job.runs
    .filter((r) => r.procedure.kind === 'replace' && runState(r.procedure, r.events).status === 'ended')
    .flatMap((r) => r.procedure.for?.faults ?? []);
  const byHand = job.repairs.filter((r) => !r.undone && r.work === 'replaced').flatMap((r) => r.fault ?? []);
  return condemned.filter((f) => !replaced.includes(f) && !byHand.includes(f));
}

/** The job as it stands after its last repair, as if it had just come in: readings, tests and codes from then on. */
export function afterJob<J extends Pick<HandOverJob, 'records' | 'readings' | 'tests' | 'repairs'>>(job: J): J {
  const story = storyOf(job);
  const before = { phase: 'before' as const };
  return {
    ...job,
    readings: story.after.map((r) => ({ ...r, ...before })),
    tests: story.testsAfter.map((t) => ({ ...t, ...before })),
    records: job.records.filter((r) => r.phase === 'after').map((r) => ({ ...r, ...before })),
  };
}

/** The verdict from what is given; `weighed`: what the readings after the repair say, with the repaired causes weakened. */
export function proofOfJob(job: HandOverJob, weighed: Diagnosis | null, bandPct: number): ProofJudgement {
  const story = storyOf(job);
  return judgeProof({
    before: newestOfEach(story.before).map((r) => r.reading),
    after: newestOfEach(story.after).map((r) => r.reading),
    bandPct,
    weighed,
    repaired: repairedFaults(job),
    condemned: stillCondemned(job),
    limits: caseOfJob(evidenceOf(job)).vehicle.limits,
  });
}

/** The same, weighed here: some milliseconds of work. Null where nothing was read after a repair. */
export function provenHere(job: HandOverJob, settings: Settings): ProofJudgement | null {
  if (storyOf(job).after.length === 0) return null;
  const input = caseOfJob(evidenceOf(afterJob(job)));
  const repaired = repairedFaults(job);
  const weighed =
    (input.readings?.length ?? 0) + (input.tests?.length ?? 0) === 0
      ? null
      : diagnose(input, {
          ...settings,
          ...(job.known ? { known: job.known } : {}),
          priors: weakened(settings.priors, (f) => FAULT_BY_ID.get(f)?.weight ?? 1, repaired),
        });
  return proofOfJob(job, weighed, settings.limits?.watchPct ?? DEFAULT_LIMITS.watchPct);
}

function evidenceOf(job: HandOverJob) {
  return { ...job, values: standing<OwnValue>(job, 'value') };
}

/** Monitors that were open when the car was read last. */
export function openMonitors(job: Pick<HandOverJob, 'records'>) {
  return job.records.at(-1)?.monitors?.monitors.filter((m) => m.state === 'incomplete') ?? [];
}

/** What is open at the end of a work, before the words for what it is. */
const LEFT = { off: 'off the car:', missing: 'missing:', 'in there': 'still in the engine:' } as const;

/** What the next owner of the trouble must know: dirt whose source stays, what was left off, steps left out. */
export function leftOpen(job: Pick<HandOverJob, 'runs'>): Said[] {
  return job.runs.flatMap((run) => {
    const s = runState(run.procedure, run.events);
    const { title } = run.procedure;
    const dirt = s.source && !s.source.repaired ? dirtSource(s.source.source) : undefined;
    // A picture that was not taken leaves nothing open on the car.
    const pictures = new Set(run.procedure.steps.flatMap((x) => (x.kind === 'photo' ? [x.id] : [])));
    const skipped = [...s.results].filter(([id, r]) => r.kind === 'skipped' && !pictures.has(id));
    return [
      ...(dirt && dirt.left < 1
        ? [
            `${title}: where the dirt came from is not repaired (${midSentence(dirt.label)}). It may be back. To do: ${dirt.mend}`,
          ]
        : []),
      ...(s.ended?.left ?? []).flatMap((l) => {
        const open = openAtEnd(s).find((o) => o.id === l.item);
        return open ? [`${title}: ${LEFT[open.what]} ${open.text}: ${l.reason}.`] : [];
      }),
      // Nobody has said yet what becomes of it: the work is not over, was given up, or went on after its end.
      ...openAtEnd(s)
        .filter((o) => !s.ended?.left.some((l) => l.item === o.id))
        .map((o) => `${title}: ${LEFT[o.what]} ${o.text}.`),
      ...s.disputes.map(
        (d) =>
          said`${title}: two answers to one step, and nobody has said which is right. ${disputeSaid(run.procedure, d)}.`,
      ),
      ...(s.status === 'running' || s.status === 'parked' ? [`${title} is not finished.`] : []),
      ...s.orders
        .filter(orderIsOpen)
        .map((o) => `${title}: ${o.is === 'ordered' ? 'ordered, not here yet' : 'still to be ordered'}: ${o.part}.`),
      ...(skipped.length > 0
        ? [
            `${title}: ${skipped.length} ${skipped.length === 1 ? 'step' : 'steps'} left out (${[...new Set(skipped.map(([, r]) => r.reason))].join('; ')}).`,
          ]
        : []),
    ];
  });
}

/** What was tightened in the works of the job, to how much, N·m, and whose figure that is. */
export function torquesOf(
  job: Pick<HandOverJob, 'runs'>,
): { work: string; part: string; nm: number; source: string }[] {
  return job.runs.flatMap((r) => {
    const { results } = runState(r.procedure, r.events);
    return r.events.flatMap(({ what: w }) => {
      const step = r.procedure.steps.find((s) => w.kind === 'done' && s.id === w.step);
      if (w.kind !== 'done' || step?.kind !== 'torque' || results.get(step.id)?.kind !== 'done') return [];
      const nm = w.torqueNm ?? step.torqueNm;
      const source = w.torqueSource ?? (w.torqueNm === undefined ? 'generic, not of this vehicle' : '');
      return nm === undefined
        ? []
        : [{ work: r.procedure.title, part: tightened(r.procedure, step) ?? '', nm, source }];
    });
  });
}

/** What a job did to the car, as what was touched lately of the next: parts by their row, whole days ago, whose make. */
export function recentWorkFrom(job: Pick<HandOverJob, 'repairs' | 'runs' | 'entries'>, nowMs: number): RecentWork[] {
  const parts = standing<{ name: string; make: NonNullable<RecentWork['make']> }>(job, 'part');
  const touched = [
    ...job.repairs.filter((r) => !r.undone && r.part).map((r) => ({ part: r.part!, atMs: msOf(r.at) })),
    ...job.runs.flatMap((r) => {
      const { ended } = runState(r.procedure, r.events);
      return ended ? (r.procedure.for?.parts ?? []).slice(0, 1).map((part) => ({ part, atMs: ended.atMs })) : [];
    }),
    ...parts.map((p) => ({ part: p.name, atMs: msOf(p.at) })),
  ];
  const out = new Map<string, RecentWork>();
  for (const { part, atMs } of touched) {
    const id = partOf(part)?.id ?? part;
    const make = parts.findLast((p) => (partOf(p.name)?.id ?? p.name) === id)?.make;
    const days = Math.max(0, Math.floor((nowMs - atMs) / DAY_MS));
    const before = out.get(id);
    if (!before || days <= (before.days ?? 0)) out.set(id, { part: id, days, ...(make ? { make } : {}) });
  }
  return [...out.values()];
}

const DAY_MS = 86_400_000;
