import { CONDITION_NAMES, type DriveProcedure, type DriveReview } from '../readiness/index.ts';
import { idInWords, joined, midSentence, said } from '../units/index.ts';
import type { PracticeScore } from './score.ts';

/** What is right to do after a drive that came back open. */
export const DRIVE_NEXT = {
  rest: 'Drive what is left, straight to it',
  change: 'Put right what stood wrong before the start, then drive again',
  again: 'Begin again from the first step',
} as const;
/** What to do after a drive that did not finish. */
export type DriveNext = keyof typeof DRIVE_NEXT;

/** What a learner says of such a drive. `what`: `before:` and a condition, or `step:` and a step. */
export interface DriveAnswer {
  what: string;
  /** From the start of the drive, s; null where nothing broke while it was driven. */
  second: number | null;
  next: DriveNext;
  atMs: number;
}

/** What can be named of a procedure, in the order in which it is driven. */
export function driveChoices(p: DriveProcedure): { id: string; label: string }[] {
  return [
    ...p.before.map((c) => ({
      id: `before:${c.id}`,
      label: `Before the start: ${midSentence(CONDITION_NAMES[c.id])}`,
    })),
    ...p.steps.map((s) => ({ id: `step:${s.id}`, label: `Step: ${idInWords(s.id)}` })),
  ];
}

export interface DriveTruth {
  /** Any of these is right: a condition that was not met, else the steps that were left. */
  what: string[];
  /** Seconds at which the first of them broke. */
  seconds: number[];
  next: DriveNext;
}

/** What kept a drive from finishing, as its review says; null where nothing did. */
export function driveTruth(p: DriveProcedure, review: DriveReview): DriveTruth | null {
  if (review.result === 'complete') return null;
  const left = review.steps.filter((s) => s.state !== 'done');
  const conditions = review.conditions.filter((c, i) => {
    const { steps: of } = p.before[i]!;
    return c.state === 'not-met' && (!of || left.some((r) => of.includes(r.id)));
  });
  if (conditions.length > 0) return { what: conditions.map((c) => `before:${c.id}`), seconds: [], next: 'change' };
  const seconds = left[0]?.broken.map((b) => b.atS) ?? [];
  return { what: left.map((s) => `step:${s.id}`), seconds, next: review.result === 'failed' ? 'again' : 'rest' };
}

/** [house] */
const POINTS = { broke: 60, second: 15, next: 25 } as const;
/** A second is right within so many. [house] */
const SECONDS = 20;

/** 0 to 100: what broke, when, and what is right to do. */
export function scoreDrive(p: DriveProcedure, review: DriveReview, answer: DriveAnswer): PracticeScore {
  const truth = driveTruth(p, review) ?? { what: [], seconds: [], next: 'rest' as const };
  const label = (id: string) => driveChoices(p).find((c) => c.id === id)?.label ?? id;
  const right = truth.what.includes(answer.what);
  const of = (c: DriveReview['conditions'][number]) => truth.what.includes(`before:${c.id}`);
  const why = joined(
    [
      ...review.conditions.filter(of).map((c) => c.why),
      ...(truth.what[0]?.startsWith('step:') ? review.remains.slice(0, 1) : []),
    ],
    ' ',
  );
  const close = (s: number) => answer.second !== null && Math.abs(s - answer.second) <= SECONDS;
  const atSecond = truth.seconds.length === 0 ? answer.second === null : truth.seconds.some(close);
  const parts: PracticeScore['parts'] = [
    {
      id: 'broke',
      points: right ? POINTS.broke : 0,
      of: POINTS.broke,
      why: said`${right ? 'Right' : `It was: ${truth.what.map(label).join(', or ')}`}. ${why}`,
    },
    {
      id: 'second',
      points: atSecond ? POINTS.second : 0,
      of: POINTS.second,
      why:
        truth.seconds.length === 0
          ? 'Nothing broke while it was driven: there is no second to name.'
          : `At second ${truth.seconds.join(', ')}; ${SECONDS} s either way count.`,
    },
    {
      id: 'next',
      points: answer.next === truth.next ? POINTS.next : 0,
      of: POINTS.next,
      why: said`Right: ${DRIVE_NEXT[truth.next].toLowerCase()}. ${review.nextAttempt}`,
    },
  ];
  return { total: parts.reduce((sum, x) => sum + x.points, 0), parts, minutes: 0, bestMinutes: null };
}
