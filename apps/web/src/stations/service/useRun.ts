import type { JobView, RunView } from '@just-balance/contract';
import { type Happened, type RunState, runState } from '@just-balance/core/procedures';
import { useEffect, useMemo, useState } from 'react';
import { newId } from '../../data/api.ts';
import { ofJob } from '../../data/ofJob.ts';
import { useAction } from '../../ui/useAction.ts';

/** The wall clock once a second, while somebody looks at it. */
export function useNow(running: boolean): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    if (!running) return;
    setNow(Date.now());
    const timer = setInterval(() => setNow(Date.now()), 1000);
    return () => clearInterval(timer);
  }, [running]);
  return now;
}

export interface RunHandle {
  run: RunView;
  state: RunState;
  busy: boolean;
  trouble: ReturnType<typeof useAction>['trouble'];
  /** Write down what happened; several things of one moment in their order. */
  say: (...what: Happened[]) => Promise<void>;
}

/** A run and the one way to change it: one more event, kept on this device first. */
export function useRun(job: JobView, run: RunView): RunHandle {
  const state = useMemo(() => runState(run.procedure, run.events), [run]);
  const { busy, trouble, run: act } = useAction();
  const say = (...what: Happened[]) =>
    act(async () => {
      const now = Date.now();
      const events = what.map((w) => ({ id: newId(), atMs: now, what: w }));
      await ofJob(job.id).queue(wordsOf(what[0]!), `/runs/${run.id}/events`, { events });
    });
  return { run, state, busy, trouble, say };
}

function wordsOf(w: Happened): string {
  switch (w.kind) {
    case 'done':
      return `Step done: ${w.step}`;
    case 'skipped':
      return `Step skipped: ${w.step}`;
    case 'parked':
      return 'Service parked';
    case 'ended':
      return 'Service ended';
    default:
      return `Service: ${w.kind}`;
  }
}

/** The newest run that is not over, and all that are. */
export function runsOf(job: JobView): { open: RunView | null; over: { run: RunView; state: RunState }[] } {
  const all = job.runs.map((run) => ({ run, state: runState(run.procedure, run.events) }));
  const over = all.filter((x) => x.state.status === 'ended' || x.state.status === 'given-up');
  const open = all.filter((x) => !over.includes(x)).at(-1);
  return { open: open?.run ?? null, over };
}
