import { partOf } from '../case/index.ts';
import { msOf } from '../time/index.ts';
import { type CleanablePart, cleanablePart } from './cleanOrReplace.ts';
import { foundGood } from './finds.ts';
import type { Procedure, ProcedureKind } from './format.ts';
import { runState } from './run.ts';
import type { RunEvent } from './runEvents.ts';

/** What may be done to a part, in the past tense in which it is told. */
export const REPAIR_WORKS = ['cleaned', 'replaced', 'repaired', 'adjusted', 'maintenance'] as const;
/** One of them. */
export type RepairWork = (typeof REPAIR_WORKS)[number];

/** What a work by a procedure of a kind was; none of one that only looks or teaches. */
export const WORK_OF_KIND: Readonly<Partial<Record<ProcedureKind, RepairWork>>> = {
  clean: 'cleaned',
  replace: 'replaced',
  repair: 'repaired',
};

/** What was done as it is told: the part and the work, and what a person typed beside them. */
export function workText(work: RepairWork, part: string, more: string): string {
  const [what, beside] = [part.trim(), more.trim()];
  if (work === 'maintenance')
    return ['Maintenance', [what, beside].filter(Boolean).join(', ')].filter(Boolean).join(': ');
  // Without a part the person's own words say it all.
  if (!what) return beside;
  return `${what[0]!.toUpperCase()}${what.slice(1)} ${work}${beside ? `: ${beside}` : ''}`;
}

/** A repair as far as it says what was done to which part; `run`: the guided work it came of. */
interface DoneToPart {
  at: string;
  undone: boolean;
  part: string | null;
  work?: RepairWork | null;
  run?: string | null;
}

/** Works and repairs of a job. */
interface Worked {
  runs: readonly { id?: string; procedure: Procedure; events: readonly RunEvent[] }[];
  repairs: readonly DoneToPart[];
}

const sameSort = (a: string, b: string) => (partOf(a)?.id ?? a.toLowerCase()) === (partOf(b)?.id ?? b.toLowerCase());

/**
 * When a part was cleaned on this job, ms since 1970, oldest first: by its procedure, taken to its end with something
 * cleaned, or by hand.
 */
export function cleaningsOf(job: Worked, part: CleanablePart): number[] {
  const row = cleanablePart(part);
  const runs = job.runs.flatMap((r) => {
    if (r.procedure.id !== row.clean) return [];
    const state = runState(r.procedure, r.events);
    return state.ended && !state.stopped && !foundGood(r.procedure, state) ? [state.ended.atMs] : [];
  });
  const byHand = job.repairs.filter(
    (r) => !r.undone && !r.run && r.work === 'cleaned' && r.part !== null && sameSort(r.part, row.label),
  );
  return [...runs, ...byHand.map((r) => msOf(r.at))].sort((a, b) => a - b);
}

/** What was decided for a part by its sum. */
export interface PartDecision {
  part: CleanablePart;
  chosen: 'clean' | 'replace';
  at: string;
}

/**
 * Parts whose cleaning did not help: somebody said that it did not hold, or they were read again after it, and then it was
 * decided to replace them. `readMs`: when something was read after the work, ms since 1970.
 */
export function cleanedInVain(
  job: Worked,
  decisions: readonly PartDecision[],
  outcomes: readonly { part: CleanablePart; held: boolean; at: string }[],
  readMs: readonly number[],
): CleanablePart[] {
  const before = (part: CleanablePart, at: string) => cleaningsOf(job, part).filter((ms) => ms <= msOf(at));
  const failed = [
    ...outcomes.filter((o) => !o.held && before(o.part, o.at).length > 0),
    ...decisions.filter(
      (d) =>
        d.chosen === 'replace' &&
        before(d.part, d.at).some((ms) => readMs.some((read) => read >= ms && read <= msOf(d.at))),
    ),
  ];
  return [...new Set(failed.map((f) => f.part))];
}
