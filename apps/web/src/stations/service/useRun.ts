import type { JobView, RunView } from '@just-balance/contract';
import { type RunState, runState } from '@just-balance/core/procedures';
import { useEffect, useLayoutEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react';
import { newId } from '../../data/api.ts';
import { shopNow } from '../../data/shopClock.ts';
import { queueAll } from '../../data/writes.ts';
import { type RunNow, RunSession } from '../../sessions/RunSession.ts';
import { troubleOf } from '../../ui/useAction.ts';

/** The shop's clock once a second, while somebody looks at it. */
export function useNow(running: boolean): number {
  const [now, setNow] = useState(shopNow);
  useEffect(() => {
    if (!running) return;
    setNow(shopNow());
    const timer = setInterval(() => setNow(shopNow()), 1000);
    return () => clearInterval(timer);
  }, [running]);
  return now;
}

/** A run for the pieces that draw it. */
export interface RunHandle extends RunNow {
  session: RunSession;
  /** See `RunSession.say`. */
  say: RunSession['say'];
}

/** A run and the one way to change it. */
export function useRun(jobId: string, run: RunView): RunHandle {
  const first = useRef(run);
  const session = useMemo(() => {
    return new RunSession(first.current, { jobId, queue: queueAll, newId, nowMs: shopNow, troubleOf });
  }, [jobId]);
  // Before it is drawn: no screen shows the run as it was.
  useLayoutEffect(() => session.take(run), [session, run]);
  const now = useSyncExternalStore(session.subscribe, session.now);
  return { ...now, session, say: session.say };
}

/** The newest run that is not over, and all that are. */
export function runsOf(job: JobView): { open: RunView | null; over: { run: RunView; state: RunState }[] } {
  const all = job.runs.map((run) => ({ run, state: runState(run.procedure, run.events) }));
  const over = all.filter((x) => x.state.status === 'ended' || x.state.status === 'given-up');
  const open = all.filter((x) => !over.includes(x)).at(-1);
  return { open: open?.run ?? null, over };
}
