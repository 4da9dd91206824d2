import type { Procedure, ProcedureStep, StepKind } from './format.ts';
import type { Happened } from './runEvents.ts';
import type { RunState } from './runState.ts';

/** So many lines somebody reads at a glance. */
const MOST_LINES = 5;
/** Kinds that want an answer, a figure or a wait; the others are only done. */
const ASKS: ReadonlySet<StepKind> = new Set(['look', 'decide', 'measure', 'timer', 'read']);
/** Why a picture is not there. */
export const SHORT_REASON = 'short form';

/** Whether a step wants more than that it is done. */
export const asks = (step: ProcedureStep): boolean => ASKS.has(step.kind);

/**
 * The steps of a run in at most five lines, in their order, for somebody who knows the work: those that are through or
 * open, without those that fall away. A line holds as few questions as can be.
 */
export function shortLines(procedure: Procedure, state: RunState): ProcedureStep[][] {
  const mine = new Set([
    ...state.results.keys(),
    ...state.early.keys(),
    ...(state.current ? [state.current.id] : []),
    ...state.ahead,
  ]);
  const lines: ProcedureStep[][] = [];
  for (const step of procedure.steps.filter((s) => mine.has(s.id))) {
    const last = lines.at(-1);
    if (!last || (asks(step) && last.some(asks))) lines.push([step]);
    else last.push(step);
  }
  const weight = (line: readonly ProcedureStep[]) => 3 * line.filter(asks).length + line.length;
  while (lines.length > MOST_LINES) {
    let least = 0;
    const together = (i: number) => weight(lines[i]!) + weight(lines[i + 1]!);
    for (let i = 1; i < lines.length - 1; i++) if (together(i) < together(least)) least = i;
    lines.splice(least, 2, [...lines[least]!, ...lines[least + 1]!]);
  }
  return lines;
}

/**
 * What is written down where all of a line that asks nothing was done: pictures are left out, a torque is the one that
 * stands for the part. `torque`: that one, where the vehicle has its own.
 */
export function plainDone(
  step: ProcedureStep,
  round: number,
  torque: { value: number; source: string } | null,
): Happened {
  if (step.kind === 'photo') return { kind: 'skipped', step: step.id, round, reason: SHORT_REASON };
  const done = { kind: 'done', step: step.id, round } as const;
  if (step.kind !== 'torque') return done;
  return torque
    ? { ...done, torqueNm: torque.value, torqueSource: torque.source }
    : { ...done, torqueNm: step.torqueNm!, torqueSource: 'generic' };
}
