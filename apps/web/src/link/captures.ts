import type { CaptureCommand, JobView, NewCaptureRequest, Phase } from '@just-balance/contract';
import { FREE, WRITES } from '@just-balance/contract';
import { listening, readVehicleRecord } from '@just-balance/core/link';
import { api, newId } from '../data/api.ts';
import type { JobLive } from '../data/live.tsx';
import { useSession } from '../data/session.tsx';
import { queueWrite, write } from '../data/writes.ts';
import { useDeviceLink } from './atDevice.ts';
import { connecting } from './deviceLive.ts';

/** Recording and reading through whichever link the job has: this device's, or the shop's. */
export function useAdapter(job: JobView, live: JobLive) {
  const own = useDeviceLink(job.id);
  const accountId = useSession().session?.account?.id;
  return {
    /** Start a capture; `at` an operating point or `free`, `coach` the drive procedure it is held against. */
    start: async (
      at: NewCaptureRequest['at'],
      phase: Phase,
      o: { only?: string | undefined; coach?: string } = {},
    ): Promise<void> => {
      const { only, coach } = o;
      if (!own) {
        const body = { id: newId(), phase, at, ...(only === undefined ? {} : { only }) };
        live.setCapture(await api.send(WRITES.startCapture(job.id), body));
        return;
      }
      if (accountId === undefined) throw new Error('Sign in first.');
      const { beginRun, planOf } = await connecting();
      await own.start({
        accountId,
        jobId: job.id,
        at,
        phase,
        coach: coach ?? null,
        run: beginRun(at, job),
        plan: planOf(at, at === FREE ? only : undefined),
      });
    },
    command: async (captureId: string, c: CaptureCommand['command']): Promise<void> => {
      if (own) {
        await own.command(c);
        return;
      }
      const s = await write(WRITES.commandCapture(job.id, captureId), { command: c });
      live.setCapture(c === 'stop' || c === 'keep-doubtful' ? null : s);
    },
    /** Codes, monitors, freeze frame, counters. On the road they wait on this device. */
    readRecord: async (phase: Phase): Promise<void> => {
      if (!own) {
        await write(WRITES.readRecord(job.id), { id: newId(), phase });
        return;
      }
      const { ask, heard } = listening((payload, engineOnly) => own.ask(payload, engineOnly));
      if (!(await readVehicleRecord(ask)))
        throw new Error('The vehicle does not answer: key on? Nothing was recorded.');
      await queueWrite('Record of the vehicle', WRITES.heardRecord(job.id), { id: newId(), phase, heard });
    },
  };
}
