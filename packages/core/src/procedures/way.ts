import type { ProcedureStep } from './format.ts';
import type { OffItem, RunState, StepResult } from './runState.ts';

/** What the way through a procedure follows from. */
interface Done {
  steps: readonly ProcedureStep[];
  /** Place of each step, by its id. */
  index: ReadonlyMap<string, number>;
  /** Of every step that has one, on the way or not. */
  results: ReadonlyMap<string, StepResult>;
  off: readonly OffItem[];
  /** A rule has ended the work as it was planned. */
  stopped: boolean;
  /** The run is not over. */
  open: boolean;
}

/** The way from the first step on, as its answers lead: what is through, what is open, what lies ahead. Pure. */
export function wayOf(d: Done): Pick<RunState, 'way' | 'current' | 'ahead' | 'early' | 'results'> {
  const { steps, results } = d;
  const without = fallenAway(d);
  const way: string[] = [];
  const seen = new Set<number>();
  let i = 0;
  let current: ProcedureStep | null = null;
  while (i < steps.length && !seen.has(i)) {
    seen.add(i);
    const step = steps[i]!;
    const r = results.get(step.id);
    if (!r && without.has(step.id)) {
      i++;
      continue;
    }
    if (!r) {
      current = step;
      break;
    }
    way.push(step.id);
    i = after(d, i, r);
  }
  if (d.stopped && current !== null) {
    // The work as planned is over: what is off goes back on, nothing else of it is done.
    for (const s of steps.slice(i)) if (s.kind === 'refit' && results.has(s.id)) way.push(s.id);
    current = nextRefit(d, i);
  }
  const now = d.open ? current : null;
  return {
    way,
    current: now,
    results: new Map([...results].filter(([id]) => way.includes(id))),
    early: now ? earlyOf(d, now, way) : new Map(),
    ahead: now ? aheadOf(d, now, without) : [],
  };
}

/** Steps that fall away by an answer that stands. */
function fallenAway({ steps, results }: Done): ReadonlySet<string> {
  return new Set(
    steps.flatMap((s) => {
      const answer = results.get(s.id)?.answer;
      return s.answers?.find((a) => a.text === answer)?.without ?? [];
    }),
  );
}

function after({ steps, index }: Done, i: number, r: StepResult): number {
  const answer = steps[i]!.answers?.find((a) => a.text === r.answer);
  return answer?.goTo === undefined ? i + 1 : index.get(answer.goTo)!;
}

function nextRefit({ steps, results, off }: Done, from: number): ProcedureStep | null {
  const left = off.filter((o) => !o.back);
  return (
    steps
      .slice(from)
      .find(
        (s) => s.kind === 'refit' && !results.has(s.id) && left.some((o) => o.id === s.item || o.item === s.item),
      ) ?? null
  );
}

function earlyOf({ index, results }: Done, current: ProcedureStep, way: readonly string[]): Map<string, StepResult> {
  const from = index.get(current.id)!;
  return new Map([...results].filter(([id]) => index.get(id)! > from && !way.includes(id)));
}

function aheadOf(d: Done, current: ProcedureStep, without: ReadonlySet<string>): string[] {
  return d.steps
    .slice(d.index.get(current.id)! + 1)
    .filter((s) => !d.results.has(s.id) && !without.has(s.id) && (!d.stopped || s.kind === 'refit'))
    .map((s) => s.id);
}
