import { ROUTES, WRITES } from '@just-balance/contract';
import { unpackSecond } from '@just-balance/core/link';
import { type MonitorId } from '@just-balance/core/obd';
import { phaseNow } from '@just-balance/core/proof';
import { attemptOf, type DriveProcedure, startCheck } from '@just-balance/core/readiness';
import { useEffect, useMemo, useRef, useState, useSyncExternalStore } from 'react';
import { Link } from 'react-router';
import { api, newId } from '../../data/api.ts';
import { offlineStore } from '../../data/offlineRecordings.ts';
import { useRead } from '../../data/reads.ts';
import { queueWrite } from '../../data/writes.ts';
import type { StationProps } from '../../job/frame/station.ts';
import { Cautions } from '../../job/work/Cautions.tsx';
import { carNow, driveNumber, planOf } from '../../job/work/car.ts';
import { openMonitors, useDriveChoice } from '../../job/work/drives.tsx';
import { useDeviceLink } from '../../link/atDevice.ts';
import { useAdapter } from '../../link/captures.ts';
import { DeviceAdapter } from '../../link/DeviceAdapter.tsx';
import { CoachSession } from '../../sessions/CoachSession.ts';
import { Fold } from '../../ui/Fold.tsx';
import { later } from '../../ui/later.tsx';
import { May, Press } from '../../ui/May.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say, usePreferences } from '../../ui/preferences.tsx';
import { speaks } from '../../ui/speech.ts';
import { useAction } from '../../ui/useAction.ts';
import { Driving } from './CoachDriving.tsx';
import { Gained } from './CoachGained.tsx';
import { GoNoGo } from './GoNoGo.tsx';

const BayControls = later(async () => (await import('../../practice/BayControls.tsx')).BayControls);

/** The coach, over an adapter at this device, or over the shop's link on a dynamometer and in a simulated bay. */
export function Coach({ job, live }: StationProps) {
  const { procedure, choice, choose } = useDriveChoice('Procedure', 'max-w-md');
  const open = useMemo(() => openMonitors(job.records.at(-1)), [job.records]);
  const [voice, setVoice] = useState(false);
  const { theme, setTheme } = usePreferences();
  const { drive, busy, trouble, begin, end } = useCoach({ job, live }, procedure, choose, open);
  const connecting = useAction();
  const simulated = job.adapter?.startsWith('sim:') ? Number(job.adapter.slice(4)) : null;
  const practice = simulated !== null && <BayControls bay={simulated} compact drives />;
  const number = driveNumber(job, drive?.state.procedure ?? procedure, drive?.fromUs ?? null);
  const back = (
    <Link className="btn btn-lg" to={`/jobs/${job.id}/readiness`}>
      Back to Readiness
    </Link>
  );
  if (drive && !drive.ended)
    return (
      <Driving
        drive={drive}
        number={number}
        open={open}
        voice={voice}
        silent={live.link?.state !== 'ready'}
        end={() => void end()}
      >
        <Problem trouble={trouble} />
        {practice && <Fold title="The simulated bay">{practice}</Fold>}
      </Driving>
    );
  const ready = live.link?.state === 'ready';
  const check = startCheck(procedure, carNow(job, live, procedure, null), open);
  const connect = () => connecting.run(() => api.send(WRITES.openLink(job.id), {}));
  return (
    <>
      {drive ? (
        <Gained drive={drive} number={number}>
          {back}
        </Gained>
      ) : (
        <NextStep
          title="Coach the drive"
          why="Two people, or a dynamometer, which is best. The driver looks at the road only: the passenger reads this screen."
        >
          {back}
          <Press
            className={check.verdict === 'no-go' ? 'btn btn-outline btn-lg' : 'btn btn-primary btn-lg'}
            disabled={!ready || busy}
            onClick={begin}
          >
            {check.verdict === 'no-go' ? 'Start all the same' : 'Start'}
          </Press>
        </NextStep>
      )}
      <Problem trouble={trouble} />
      <Cautions job={job} step="readiness-drive" />
      {!drive && <GoNoGo check={check} heard={ready} />}
      {!drive && (
        <section className="card grid gap-4 p-4">
          {choice}
          <ol className="m-0 list-decimal pl-6">
            {procedure.steps.map((s) => (
              <li key={s.id}>
                <Say text={s.says} />
              </li>
            ))}
          </ol>
          <p className="m-0">Traffic law first. Long idles outdoors. Nothing has to be touched while driving.</p>
          <div className="flex flex-wrap gap-6">
            <label className="flex min-h-12 items-center gap-3">
              <input
                type="checkbox"
                className="toggle"
                checked={voice}
                disabled={!speaks()}
                onChange={(e) => setVoice(e.target.checked)}
              />
              Say each instruction aloud
            </label>
            <label className="flex min-h-12 items-center gap-3">
              <input
                type="checkbox"
                className="toggle"
                checked={theme === 'night'}
                onChange={(e) => setTheme(e.target.checked ? 'night' : 'bench')}
              />
              Night colours
            </label>
          </div>
          <May>
            <DeviceAdapter jobId={job.id} detail={live.atDevice ? live.link?.detail : undefined} />
          </May>
          {!ready && !live.atDevice && job.adapter && (
            <div className="flex flex-wrap items-center gap-3">
              <span className="min-w-40 flex-1">On a dynamometer or in a simulated bay: the shop’s own adapter.</span>
              <Press className="btn" disabled={connecting.busy} onClick={connect}>
                Connect the shop’s adapter
              </Press>
            </div>
          )}
          <Problem trouble={connecting.trouble} />
        </section>
      )}
      {practice}
    </>
  );
}

/** The drive under the coach, of this job; one that a reload interrupted goes on. */
function useCoach(
  { job, live }: StationProps,
  procedure: DriveProcedure,
  choose: (id: string) => void,
  open: readonly MonitorId[] | null,
) {
  const adapter = useAdapter(job, live);
  const own = useDeviceLink(job.id);
  const { busy, trouble, run } = useAction();
  const { data: bays } = useRead(job.adapter?.startsWith('sim:') ? ROUTES.bays : null, { refreshInterval: 2000 });
  // What the session asks for as it goes on is of this moment.
  const now = useRef({ job, live, adapter, open, run, rate: 1 });
  now.current = { job, live, adapter, open, run, rate: bays?.find((b) => `sim:${b.bay}` === job.adapter)?.rate ?? 1 };
  const [session] = useState(
    () =>
      new CoachSession({
        open: () => now.current.open,
        car: (of, heard) => carNow(now.current.job, now.current.live, of, heard),
        rate: () => now.current.rate,
        failed: (e) => void now.current.run(() => Promise.reject(e)),
        record: ({ id }) => {
          return now.current.adapter.start('free', phaseNow(now.current.job), { coach: id });
        },
        keep: async ({ review, ...log }) => {
          const capture = now.current.live.capture?.captureId;
          if (capture) await now.current.adapter.command(capture, 'stop');
          const road = planOf(now.current.job)?.data.road ?? '';
          const data = { ...attemptOf(review, log, road), ...(capture ? { capture } : {}) };
          await queueWrite('Drive', WRITES.addEntry(now.current.job.id), { id: newId(), kind: 'drive', data });
        },
      }),
  );
  const drive = useSyncExternalStore(session.subscribe, session.drive);
  const running = drive !== null && !drive.ended;
  const recording = own?.state.recording;
  const other = recording?.coach;
  useEffect(() => {
    if (other && other !== procedure.id && !session.drive()) choose(other);
  }, [other, procedure.id, choose, session]);
  const interrupted = recording?.coach === procedure.id ? recording.id : null;
  useEffect(() => {
    if (interrupted === null) return;
    void offlineStore.seconds(interrupted, 0).then((seconds) => session.resume(procedure, seconds, unpackSecond));
  }, [interrupted, procedure, session]);
  const { listen, traces } = live;
  useEffect(() => (running ? listen((samples) => session.hear(samples)) : undefined), [running, listen, session]);
  useWakeLock(running);
  return {
    drive,
    busy,
    trouble,
    begin: () =>
      run(() => {
        const newest = Math.max(0, ...[...traces.values()].map((list) => list.at(-1)?.t ?? 0));
        return session.begin(procedure, new Set(traces.keys()), Math.round(newest * 1e6));
      }),
    end: () => run(() => session.end()),
  };
}

/** The screen stays on while a passenger reads it, where the browser can. */
function useWakeLock(on: boolean) {
  useEffect(() => {
    if (!on || !('wakeLock' in navigator)) return;
    let lock: WakeLockSentinel | null = null;
    let over = false;
    navigator.wakeLock.request('screen').then(
      (l) => {
        if (over) void l.release();
        else lock = l;
      },
      () => {},
    );
    return () => {
      over = true;
      void lock?.release();
    };
  }, [on]);
}
