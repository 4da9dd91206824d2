import type { JobView } from '@just-balance/contract';
import { useEffect, useState, useSyncExternalStore } from 'react';
import type { JobLive } from '../data/live.tsx';
import { useOfflineRecordings } from '../data/offlineRecordings.ts';
import { ahead } from '../ui/later.tsx';
import { deviceLink, remembered, useDeviceLink } from './atDevice.ts';
import { knownPort } from './serial.ts';

/** The port, its state machine and what guides a capture. */
export const connecting = ahead(() => import('./connect.ts'));

/** What stands for the shop's adapter where this device has its own. */
export const AT_DEVICE = 'own';

/** After a reload: a recording of this job that was under way goes on by itself, where the port is known. */
export function useResumed(job: JobView, ready: boolean): void {
  const recordings = useOfflineRecordings();
  const open = recordings.find((s) => s.jobId === job.id && s.ended === null && s.refused === null);
  const own = useDeviceLink(job.id);
  const id = open?.id;
  useEffect(() => {
    if (own || !(id || remembered() === job.id)) return;
    let over = false;
    void (async () => {
      const port = await knownPort();
      const { connectDevice } = await connecting();
      if (port && !over && !deviceLink()) connectDevice(job.id, port);
    })().catch(() => {});
    return () => {
      over = true;
    };
  }, [id, own, job.id]);
  useEffect(() => {
    // Not before the port is ours and the vehicle answers: another tab may have it.
    if (!open || !own || !ready || own.state.recording) return;
    void (async () => {
      const { beginRun, planOf } = await connecting();
      await own.resume(open, beginRun(open.at, job), planOf(open.at));
    })();
  }, [open, own, job, ready]);
}

const never = () => () => {};
/** How often a screen looks at what comes in, ms: as often as the shop’s link tells it; the coach hears every sample. */
const LOOK_MS = 400;

/** The job's live figures, those of this device's link where it has one. */
export function useDeviceLive(jobId: string, live: JobLive): JobLive {
  const own = useDeviceLink(jobId);
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
    capture: state.capture ?? (state.recording ? live.capture : null),
    atDevice: true,
    listen: own.listen,
  };
}
