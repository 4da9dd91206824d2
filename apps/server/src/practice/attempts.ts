import type { AttemptView, PracticeDrive } from '@just-balance/contract';
import { PRACTICE_POINTS } from '@just-balance/contract';
import { pointLabel } from '@just-balance/core/case';
import { TEST_BY_ID } from '@just-balance/core/catalogue';
import { ForbiddenException } from '@nestjs/common';
import { conflict, notHere } from '../common/errors.ts';
import type { Actor } from '../common/request.ts';
import { type AttemptData, PracticeAttempt } from '../rows/practice.ts';
import { READING_MINUTES } from './examiner.ts';

/** Of an exam from before they were drawn. */
const LISTED = 3;

/** How many an exam has that this one belongs to. */
const lengthOf = (a: PracticeAttempt) => a.data.drawn?.of ?? LISTED;

/** Which of its exam it is, from 1. */
const placeOf = (a: PracticeAttempt) => Number(a.place?.split(' ')[1] ?? 1);

/** The cause, or what broke the drive, is named; or it was given up. */
export const answered = ({ data }: PracticeAttempt) =>
  data.answer !== null || (data.driveAnswer ?? null) !== null || data.gaveUp === true;

/** Whether a try is the first of its person at its car: after it the person knows what is wrong with it. */
export function firstOf(rows: readonly PracticeAttempt[]): (a: PracticeAttempt) => boolean {
  const first = new Map<string, PracticeAttempt>();
  const key = (a: PracticeAttempt) => `${a.accountId} ${a.data.exam ?? ''} ${a.data.scenario.id}`;
  for (const a of [...rows].sort((x, y) => x.createdAt.getTime() - y.createdAt.getTime()))
    if (!first.has(key(a))) first.set(key(a), a);
  return (a) => first.get(key(a)) === a;
}

export function ofExam(shopId: string, exam: string): Promise<PracticeAttempt[]> {
  return PracticeAttempt.findAll({ where: { shopId }, order: [['createdAt', 'ASC']] }).then((all) =>
    all.filter((a) => a.data.exam === exam),
  );
}

/** Whether what is wrong may be told: a try once answered, one of an exam once all of it is. */
export async function overOf(
  shopId: string,
  rows: readonly PracticeAttempt[],
): Promise<(a: PracticeAttempt) => boolean> {
  const exams = new Set(rows.flatMap((a) => a.data.exam ?? []));
  const over = new Set<string>();
  for (const exam of exams) {
    const all = await ofExam(shopId, exam);
    if (all[0] && all.filter(answered).length >= lengthOf(all[0])) over.add(exam);
  }
  return (a) => answered(a) && (a.data.exam === null || over.has(a.data.exam));
}

/** A try of the shop: one's own, or anybody's for a lead. `own`: to go on with it. */
export async function attemptOf(who: Actor, id: string, own: boolean): Promise<PracticeAttempt> {
  const a = await PracticeAttempt.findOne({ where: { id, shopId: who.shopId } });
  if (!a || (a.accountId !== who.accountId && who.role !== 'lead')) throw notHere('try');
  if (own && a.accountId !== who.accountId)
    throw new ForbiddenException({ statusCode: 403, message: `this is ${a.by}’s try` });
  return a;
}

/** Nothing is written where somebody was quicker. */
export async function save(a: PracticeAttempt, data: AttemptData): Promise<void> {
  const [n] = await PracticeAttempt.update({ data, rev: a.rev + 1 }, { where: { id: a.id, rev: a.rev } });
  if (n === 0) throw conflict('this try', null);
}

/** A try as its person may see it. `tests`: what the car can be asked. */
export function attemptView(
  a: PracticeAttempt,
  over: boolean,
  drive: PracticeDrive | null,
  askable: readonly string[],
): AttemptView {
  const { scenario, hints, exam, moves, answer, score, signed: s } = a.data;
  const done = new Set(moves.map((m) => m.what));
  const tests = askable.map((t) => TEST_BY_ID.get(t)).filter((t) => t !== undefined && !t.reading);
  return {
    id: a.id,
    job: a.jobId,
    by: a.by,
    at: a.createdAt.toISOString(),
    // The name of a car says much of it: one of an exam has none before the exam is over.
    title: exam && !over ? `${scenario.drive ? 'Drive' : 'Car'} ${placeOf(a)} of the exam` : scenario.title,
    level: scenario.level,
    scenario: exam && !over ? '' : scenario.id,
    hints,
    exam: exam ? { id: exam, place: placeOf(a), of: lengthOf(a), over } : null,
    minutes: moves.reduce((sum, m) => sum + m.minutes, 0),
    asks: scenario.drive
      ? []
      : [
          ...PRACTICE_POINTS.map((p) => ({
            kind: 'reading' as const,
            what: p,
            label: pointLabel(p),
            minutes: READING_MINUTES[p]!,
            perBank: false,
            done: done.has(p),
          })),
          ...tests.map((t) => ({
            kind: 'test' as const,
            what: t!.id,
            label: t!.label,
            minutes: t!.minutes,
            perBank: t!.perBank === true,
            done: done.has(t!.id),
          })),
        ],
    moves: over ? moves : moves.map(({ kind, what, bank, minutes, showed }) => ({ kind, what, bank, minutes, showed })),
    answer,
    score: over ? score : null,
    faults: over ? scenario.faults : null,
    bestPath: over ? (a.data.bestPath ?? null) : null,
    drive,
    driveAnswer: a.data.driveAnswer ?? null,
    answered: answered(a),
    gaveUp: a.data.gaveUp === true,
    signed: s,
  };
}
