import type { JobView } from '@just-balance/contract';
import { useEffect, useState, useSyncExternalStore } from 'react';
import type { JobLive } from '../data/live.tsx';
import { useSpools } from '../data/spools.ts';
import { ahead } from '../ui/later.tsx';
import type { OwnLink } from './OwnLink.ts';
import { knownPort } from './serial.ts';

let link: OwnLink | null = null;
const listeners = new Set<() => void>();
const told = () => {
  for (const f of listeners) f();
};

/** The link of this device, to whichever job it belongs; null while none is connected. */
export const ownLink = () => link;

/** The port, its state machine and what guides a capture. */
export const connecting = ahead(() => import('./connect.ts'));

const subscribe = (f: () => void) => {
  listeners.add(f);
  return () => listeners.delete(f);
};

/** A reload opens the same port for the same job again. */
const REMEMBERED = 'jb-own-link';

/** From now on this is the link of the device; one before it lets go. */
export function isOwn(next: OwnLink): void {
  sessionStorage.setItem(REMEMBERED, next.jobId);
  void link?.close();
  link = next;
  told();
}

export async function disconnectOwn(): Promise<void> {
  sessionStorage.removeItem(REMEMBERED);
  const closing = link;
  link = null;
  await closing?.close();
  told();
}

/** This device's link where it belongs to this job. */
export function useOwn(jobId: string): OwnLink | null {
  const own = useSyncExternalStore(subscribe, ownLink);
  return own?.jobId === jobId ? own : null;
}

/** What stands for the shop's adapter where this device has its own. */
export const OWN = 'own';

/** After a reload: a recording of this job that was under way goes on by itself, where the port is known. */
export function useResumed(job: JobView, ready: boolean): void {
  const spools = useSpools();
  const open = spools.find((s) => s.jobId === job.id && s.ended === null && s.refused === null);
  const own = useOwn(job.id);
  const id = open?.id;
  useEffect(() => {
    if (own || !(id || sessionStorage.getItem(REMEMBERED) === job.id)) return;
    let over = false;
    void (async () => {
      const port = await knownPort();
      const { connectOwn } = await connecting();
      if (port && !over && !ownLink()) connectOwn(job.id, port);
    })().catch(() => {});
    return () => {
      over = true;
    };
  }, [id, own, job.id]);
  useEffect(() => {
    // Not before the port is ours and the vehicle answers: another tab may have it.
    if (!open || !own || !ready || own.state.spool) return;
    void (async () => {
      const { setupOf } = await connecting();
      const { setup, plan } = setupOf(job, open.at);
      await own.resume(open, setup, plan);
    })();
  }, [open, own, job, ready]);
}

const never = () => () => {};
/** How often a screen looks at what comes in, ms: as often as the shop’s link tells it; the coach hears every sample. */
const LOOK_MS = 400;

/** The job's live figures, those of this device's link where it has one. */
export function useOwnLive(jobId: string, live: JobLive): JobLive {
  const own = useOwn(jobId);
  const state = useSyncExternalStore(own?.subscribe ?? never, () => own?.state ?? null);
  const [, look] = useState(0);
  useEffect(() => {
    if (!own) return;
    const timer = setInterval(() => look((n) => n + 1), LOOK_MS);
    return () => clearInterval(timer);
  }, [own]);
  if (!own || !state) return live;
  return {
    ...live,
    values: own.values,
    traces: own.traces,
    link: state.status,
    capture: state.capture ?? (state.spool ? live.capture : null),
    own: true,
    listen: own.listen,
  };
}
