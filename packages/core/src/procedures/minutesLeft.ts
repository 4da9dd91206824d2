import type { Procedure, ProcedureStep } from './format.ts';
import { timerLeftS } from './run.ts';
import type { RunState } from './runState.ts';

/** The steps from one on where nothing unusual is found: the first answer of each question leads the way. */
function firstWay(p: Procedure, from: number): ProcedureStep[] {
  const index = new Map(p.steps.map((s, i) => [s.id, i]));
  const been = new Set<number>();
  for (let i = from; i >= 0 && i < p.steps.length && !been.has(i); ) {
    been.add(i);
    const to = p.steps[i]!.answers?.[0]?.goTo;
    i = to === undefined ? i + 1 : index.get(to)!;
  }
  return [...been].map((i) => p.steps[i]!);
}

/** Minutes that a procedure waits by itself, where nothing unusual is found: those of its timers on the first way. */
export function waitingMinutes(p: Procedure): number {
  return Math.round(firstWay(p, 0).reduce((sum, s) => sum + (s.seconds ?? 0), 0) / 60);
}

/**
 * About how long a run still takes where nothing unusual is found, min: the procedure's own hands-on minutes shared evenly
 * by the steps of its way that are not waits, and what its waits have still to run. 0 where no step is open.
 */
export function minutesLeft(p: Procedure, state: RunState, nowMs: number): number {
  const open = state.current?.id;
  if (!open) return 0;
  const left = firstWay(
    p,
    p.steps.findIndex((s) => s.id === open),
  ).filter((s) => !state.early.has(s.id));
  const hands = left.filter((s) => s.kind !== 'timer').length;
  const behind = [...state.way, ...state.early.keys()].filter((id) =>
    p.steps.some((s) => s.id === id && s.kind !== 'timer'),
  );
  const waits = left.reduce((sum, s) => {
    const running = state.timers.find((t) => t.step === s.id);
    return sum + (running ? timerLeftS(running, nowMs) : (s.seconds ?? 0));
  }, 0);
  return (hands === 0 ? 0 : (p.minutes * hands) / (behind.length + hands)) + waits / 60;
}
