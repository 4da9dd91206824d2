import type { TestResult } from '../case/index.ts';
import { type EngineKind, outcomeFits, standTogether, TEST_BY_ID } from '../catalogue/index.ts';
import type { Answer, Finds, Procedure, ProcedureStep } from './format.ts';
import { leadsOf } from './limits.ts';
import { runState } from './run.ts';
import type { RunEvent } from './runEvents.ts';
import type { RunState, StepResult } from './runState.ts';

/** What a run has found that is evidence: a test with its outcome, who saw it, when, and where in which work. */
export interface Found {
  run: string;
  /** Title of the work. */
  work: string;
  /** Null: said by a person without a question about it. */
  step: string | null;
  atMs: number;
  by: string;
  photo: string | null;
  test: TestResult;
}

/**
 * What was found in a run, oldest first: answers and figures of the steps that are through, and the rule that stopped it.
 * A step that is opened again takes its find with it.
 */
export function foundIn(run: { id: string; procedure: Procedure; events: readonly RunEvent[] }): Found[] {
  const state = runState(run.procedure, run.events);
  const found = (finds: Finds, at: Pick<Found, 'step' | 'atMs' | 'by' | 'photo'>): Found => ({
    run: run.id,
    work: run.procedure.title,
    ...at,
    test: { id: finds.test, outcome: finds.outcome },
  });
  const out = run.procedure.steps.flatMap((step) => {
    const r = state.results.get(step.id);
    const finds = r?.kind === 'done' && r.from === null ? findsOf(run.procedure, step, r) : undefined;
    return r && finds ? [found(finds, { step: step.id, atMs: r.atMs, by: r.by, photo: r.photo })] : [];
  });
  const { stopped, stoppedBy } = state;
  if (stopped?.finds && stoppedBy?.step === null)
    out.push(found(stopped.finds, { step: null, atMs: stoppedBy.atMs, by: stoppedBy.by, photo: null }));
  return joined(out.sort((a, b) => a.atMs - b.atMs));
}

/** Outcomes of one test that can stand together are one result of it, of the moment of the newest. */
function joined(all: readonly Found[]): Found[] {
  const out: Found[] = [];
  for (const f of all) {
    const at = out.findIndex((x) => x.test.id === f.test.id);
    const both = at < 0 ? [] : [out[at]!.test.outcome ?? [], f.test.outcome ?? []].flat();
    if (at >= 0 && standTogether(f.test.id, both))
      out.splice(at, 1, { ...f, test: { ...f.test, outcome: oneOrMore([...new Set(both)]) } });
    else out.push(f);
  }
  return out;
}

function findsOf(p: Procedure, step: Procedure['steps'][number], r: StepResult): Finds | undefined {
  const leads =
    r.value === null ? step.answers?.find((a) => a.text === r.answer) : leadsOf(step, r.value, r.limits ?? undefined);
  return leads?.finds ?? p.stopRules.find((s) => s.if === leads?.stopRule)?.finds;
}

const oneOrMore = (outcomes: string[]): string | string[] => (outcomes.length === 1 ? outcomes[0]! : outcomes);

/** Whether somebody found that nothing is to be done to the part: it is not said to have been cleaned or renewed. */
export function foundGood(p: Procedure, state: RunState): boolean {
  return p.steps.some((s) => {
    const r = state.results.get(s.id);
    return r?.kind === 'done' && s.answers?.some((a) => a.text === r.answer && a.nothing);
  });
}

/** A test of the job, for what is known of a step before it is asked. */
export interface KnownTest {
  id: string;
  at: string;
  by: string;
  undone: boolean;
  test: TestResult;
}

/**
 * The answer that a test of the job has given already: the newest result of the test that this question is about, where it
 * amounts to one of its answers. Null where an earlier question of the work is about the same test: what was done since
 * may have changed it. `tests`: oldest first, of the car as it is.
 */
export function knownAnswer<T extends KnownTest>(
  p: Procedure,
  step: ProcedureStep,
  tests: readonly T[],
): { answer: Answer; test: T } | null {
  const about = (s: ProcedureStep) => (s.answers ?? []).flatMap((a) => a.finds?.test ?? []);
  const before = p.steps.slice(0, p.steps.indexOf(step)).flatMap(about);
  const test = tests.findLast((t) => !t.undone && about(step).includes(t.test.id));
  if (!test || before.includes(test.test.id)) return null;
  const outcomes = [test.test.outcome ?? []].flat();
  const answers = step.answers!.filter((a) => a.finds?.test === test.test.id && outcomes.includes(a.finds.outcome));
  return answers.length === 1 && outcomes.length === 1 ? { answer: answers[0]!, test } : null;
}

/** Answers of a question that this engine can give: a second bank, a charge pipe, only where there is one. */
export function answersFor(step: ProcedureStep, v: EngineKind, banks: 1 | 2): Answer[] {
  return (step.answers ?? []).filter(({ finds }) => {
    const row = finds && TEST_BY_ID.get(finds.test);
    return !row || outcomeFits(row, finds.outcome, v, banks);
  });
}
