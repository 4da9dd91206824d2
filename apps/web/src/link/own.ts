import type { JobView, VehicleView } from '@just-balance/contract';
import { capturePoint, type GuidedSetup, guidedSetup } from '@just-balance/core/capture';
import { stationPressure } from '@just-balance/core/expected';
import { PLANS, type PollingPlan } from '@just-balance/core/link';
import { useEffect, useState, useSyncExternalStore } from 'react';
import { newId } from '../data/api.ts';
import type { JobLive } from '../data/live.tsx';
import { spoolStore, uploader, useSpools } from '../data/spools.ts';
import { OwnLink } from './OwnLink.ts';
import { nowUs, SerialLink } from './SerialLink.ts';
import { knownPort, type SerialPort } from './serial.ts';

let link: OwnLink | null = null;
const listeners = new Set<() => void>();
const told = () => {
  for (const f of listeners) f();
};

/** The link of this device, to whichever job it belongs; null while none is connected. */
export const ownLink = () => link;
const subscribe = (f: () => void) => {
  listeners.add(f);
  return () => listeners.delete(f);
};

/** A reload opens the same port for the same job again. */
const REMEMBERED = 'jb-own-link';

export function connectOwn(jobId: string, port: SerialPort): OwnLink {
  sessionStorage.setItem(REMEMBERED, jobId);
  void link?.close();
  link = new OwnLink(jobId, {
    store: spoolStore,
    shell: (handlers) => new SerialLink(port, PLANS.mixture, handlers),
    newId,
    nowUs,
    every: (f, ms) => {
      const timer = setInterval(f, ms);
      return () => clearInterval(timer);
    },
    flush: () => void uploader.flush(),
  });
  told();
  return link;
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
    void knownPort().then((port) => {
      if (port && !over && !ownLink()) connectOwn(job.id, port);
    });
    return () => {
      over = true;
    };
  }, [id, own, job.id]);
  useEffect(() => {
    // Not before the port is ours and the vehicle answers: another tab may have it.
    if (!open || !own || !ready || own.state.spool) return;
    const { setup, plan } = setupOf(job, open.at);
    void own.resume(open, setup, plan);
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

/** A guided capture of this job at a point, as the server would set it up. Null: no such point. */
export function setupOf(
  job: JobView & { vehicle: VehicleView },
  at: string,
): { setup: GuidedSetup | null; plan: PollingPlan } {
  const point = capturePoint(at);
  if (!point) return { setup: null, plan: PLANS.road };
  const { vehicle } = job;
  return {
    setup: guidedSetup(point, {
      banks: vehicle.banks ?? 1,
      metered: vehicle.metering !== 'speed-density',
      fuel: vehicle.fuel,
      baroKPa: stationPressure(job.ambient).baroKPa,
    }),
    plan: PLANS[point.plan],
  };
}
