import { figure, type Said, said } from '../units/index.ts';
import type { Procedure } from './format.ts';
import type { Happened, RunEvent } from './runEvents.ts';
import type { Dispute, Noted, StepResult, StepWord } from './runState.ts';

/** An answer to a step, or that it was left out. */
export type StepEvent = Extract<Happened, { kind: 'done' | 'skipped' }>;

export function wordOf(e: Pick<RunEvent, 'by' | 'atMs'>, w: StepEvent): StepWord {
  const done = w.kind === 'done' ? w : null;
  return {
    kind: w.kind,
    by: e.by,
    atMs: e.atMs,
    answer: done?.answer ?? null,
    value: done?.value ?? null,
    reason: w.kind === 'skipped' ? w.reason : null,
  };
}

export function wordOfResult(r: StepResult): StepWord {
  const { kind, by, atMs, answer, value } = r;
  return { kind, by, atMs, answer, value, reason: kind === 'skipped' ? r.reason : null };
}

/** Whether two say the same of a step; why it was skipped may be said in other words. */
export function sameWord(a: StepWord, b: StepWord): boolean {
  return a.kind === b.kind && a.answer === b.answer && a.value === b.value;
}

/** One of them in words: “bright”, 4.2 Ω, skipped (no light). */
export function wordSaid(procedure: Procedure, step: string, w: StepWord): Said {
  if (w.kind === 'skipped') return `left out (${w.reason ?? ''})`;
  if (w.answer !== null) return `“${w.answer}”`;
  const { unit = '', role } = procedure.steps.find((s) => s.id === step) ?? {};
  return w.value === null ? 'done' : said`${figure(w.value, unit, undefined, role ? { role } : {})}`;
}

/** A dispute in one sentence: who said what, and what holds meanwhile. */
export function disputeSaid(procedure: Procedure, d: Dispute): Said {
  const text = procedure.steps.find((s) => s.id === d.step)?.text ?? d.step;
  const other = said`${d.other.by} ${wordSaid(procedure, d.step, d.other)}`;
  if (!d.stands) return said`${text} ${other}, before it was opened again`;
  return said`${text} ${d.stands.by} ${wordSaid(procedure, d.step, d.stands)}, ${other}${d.stops ? '; the stop holds' : ''}`;
}

/** What was noted, in words. */
export function notedSaid(procedure: Procedure, n: Noted): Said {
  const { what: w } = n;
  if (n.why === 'another stop' && w.kind === 'stop') return `${n.by} found as well: ${w.rule}`;
  if (n.why === 'not over yet') return `${n.by} said that it is over, while something was still open`;
  if (w.kind === 'done' || w.kind === 'skipped') {
    const text = procedure.steps.find((s) => s.id === w.step)?.text ?? w.step;
    return said`after its end, ${n.by}: ${wordSaid(procedure, w.step, wordOf(n, w))}, at the step “${text}”`;
  }
  return `after its end, ${n.by}: ${AFTER_END[w.kind] ?? w.kind}`;
}

const AFTER_END: Readonly<Partial<Record<Happened['kind'], string>>> = {
  'took-off': 'something was taken off',
  mishap: 'something broke or fell',
  stop: 'a reason to stop was found',
  parked: 'it was parked',
  ended: 'it was said to be over',
  'given-up': 'it was given up',
  timer: 'a wait was begun',
  reopened: 'a step was opened again',
};
