import type { BayView } from '@just-balance/contract';
import { type Sample, unpackSecond } from '@just-balance/core/link';
import { MONITORS, type MonitorId } from '@just-balance/core/obd';
import {
  attemptOf,
  CONDITION_NAMES,
  type CoachNow,
  type CoachState,
  coachNow,
  coachSample,
  coachStart,
  type DriveProcedure,
  heardSamples,
  neededSteps,
  reviewOf,
} from '@just-balance/core/readiness';
import { midSentence, type Said } from '@just-balance/core/units';
import { useEffect, useMemo, useRef, useState } from 'react';
import { Link } from 'react-router';
import useSWR from 'swr';
import { api, newId } from '../../data/api.ts';
import { ofJob } from '../../data/ofJob.ts';
import { spoolStore } from '../../data/spools.ts';
import type { Spool } from '../../data/spoolTypes.ts';
import { Cautions } from '../../job/Cautions.tsx';
import { openMonitors, useDriveChoice } from '../../job/drives.tsx';
import type { StationProps } from '../../job/station.ts';
import { useAdapter } from '../../link/captures.ts';
import { OwnAdapter } from '../../link/OwnAdapter.tsx';
import { useOwn } from '../../link/own.ts';
import { BayControls } from '../../practice/BayControls.tsx';
import { clock } from '../../ui/figures.ts';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say, usePreferences, useSay, useShown } from '../../ui/preferences.tsx';
import { speak, speaks } from '../../ui/speech.ts';
import { playTone } from '../../ui/tone.ts';
import { useAction } from '../../ui/useAction.ts';

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
  const back = (
    <Link className="btn btn-lg" to={`/jobs/${job.id}/readiness`}>
      Back to Readiness
    </Link>
  );
  if (drive && !drive.ended)
    return (
      <>
        <Problem trouble={trouble} />
        <Driving state={drive.state} open={open} voice={voice} silent={live.link?.state !== 'ready'} end={end} />
        {practice}
      </>
    );
  const ready = live.link?.state === 'ready';
  const connect = () => connecting.run(() => api.post(`/jobs/${job.id}/link`));
  return (
    <>
      {drive ? (
        <Gained state={drive.state} open={open}>
          {back}
        </Gained>
      ) : (
        <NextStep
          title="Coach the drive"
          why="Two people, or a dynamometer, which is best. The driver looks at the road only: the passenger reads this screen."
        >
          {back}
          <button type="button" className="btn btn-primary btn-lg" disabled={!ready || busy} onClick={begin}>
            Start
          </button>
        </NextStep>
      )}
      <Problem trouble={trouble} />
      <Cautions job={job} step="readiness-drive" />
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
          <OwnAdapter jobId={job.id} detail={live.own ? live.link?.detail : undefined} />
          {!ready && !live.own && job.adapter && (
            <div className="flex flex-wrap items-center gap-3">
              <span className="min-w-40 flex-1">On a dynamometer or in a simulated bay: the shop’s own adapter.</span>
              <button type="button" className="btn" disabled={connecting.busy} onClick={connect}>
                Connect the shop’s adapter
              </button>
            </div>
          )}
          <Problem trouble={connecting.trouble} />
        </section>
      )}
      {practice}
    </>
  );
}

interface Drive {
  state: CoachState;
  /** Second 0 of the drive, µs of the wall clock. */
  fromUs: number;
  km: number;
  ended: boolean;
}

/** The coach's memory, fed with what the link hears; a drive that a reload interrupted goes on. */
function useCoach(
  { job, live }: StationProps,
  procedure: DriveProcedure,
  choose: (id: string) => void,
  open: readonly MonitorId[] | null,
) {
  const adapter = useAdapter(job, live);
  const own = useOwn(job.id);
  const { busy, trouble, run } = useAction();
  const [drive, setDrive] = useState<Drive | null>(null);
  const memory = useRef<Drive | null>(null);
  const speed = useRef<{ t: number; v: number } | null>(null);
  const running = drive !== null && !drive.ended;
  const { listen, traces } = live;
  const { data: bays } = useSWR<BayView[]>(job.adapter?.startsWith('sim:') ? '/bays' : null, { refreshInterval: 2000 });
  const rate = bays?.find((b) => `sim:${b.bay}` === job.adapter)?.rate ?? 1;
  const hurried = useRef(new Hurry());
  hurried.current.rate = rate;

  const hear = useMemo(
    () => (d: Drive, samples: Parameters<typeof heardSamples>[1]) => {
      let { state, km } = d;
      for (const s of heardSamples(state.procedure, samples, d.fromUs)) {
        state = coachSample(state, s);
        const v = s.values.vss;
        if (v === undefined) continue;
        const before = speed.current;
        if (before && s.t > before.t && s.t - before.t <= 5) km += ((v + before.v) / 2) * ((s.t - before.t) / 3600);
        speed.current = { t: s.t, v };
      }
      return { ...d, state, km };
    },
    [],
  );
  const put = (d: Drive) => {
    memory.current = d;
    setDrive(d);
  };

  // What was driven before a reload is heard again from this device: a live drive and its replay are the same.
  const interrupted = own?.state.spool?.coach === procedure.id || !own?.state.spool ? own?.state.spool : undefined;
  const other = own?.state.spool?.coach;
  useEffect(() => {
    if (other && other !== procedure.id && !memory.current) choose(other);
  }, [other, procedure.id, choose]);
  useEffect(() => {
    if (!interrupted?.coach || memory.current) return;
    let over = false;
    void replay(interrupted, procedure, hear).then((d) => {
      if (d && !over && !memory.current) {
        memory.current = d;
        setDrive(d);
      }
    });
    return () => {
      over = true;
    };
  }, [interrupted, procedure, hear]);

  useEffect(() => {
    if (!running) return;
    return listen((samples) => {
      const d = memory.current;
      if (!d || d.ended) return;
      memory.current = hear(d, hurried.current.of(samples));
      setDrive(memory.current);
    });
  }, [running, listen, hear]);
  useWakeLock(running);

  const finish = () =>
    run(async () => {
      const d = memory.current;
      if (!d || d.ended) return;
      put({ ...d, ended: true });
      const review = reviewOf(d.state, open ? { incomplete: [...open] } : {});
      const capture = live.capture?.captureId;
      if (capture) await adapter.command(capture, 'stop');
      const minutes = (d.state.nowS ?? 0) / 60;
      const plan = [...job.entries].reverse().find((e) => e.kind === 'plan' && !e.undone);
      const road = plan?.kind === 'plan' ? (plan.data.road ?? '') : '';
      await ofJob(job.id).queue('Drive', '/entries', {
        id: newId(),
        kind: 'drive',
        data: { ...attemptOf(review, { distanceKm: d.km, minutes }, road), ...(capture ? { capture } : {}) },
      });
    });
  // It ends by itself when all is done, or when it can no longer succeed.
  const state = drive && !drive.ended ? coachNow(drive.state, neededSteps(drive.state.procedure, open)).state : null;
  const finishing = useRef(finish);
  finishing.current = finish;
  useEffect(() => {
    if (state === 'all-done' || state === 'over') void finishing.current();
  }, [state]);

  return {
    drive,
    busy,
    trouble,
    begin: () =>
      run(async () => {
        await adapter.start('free', job.repairs.some((r) => !r.undone) ? 'after' : 'before', { coach: procedure.id });
        speed.current = null;
        const newest = Math.max(0, ...[...traces.values()].map((list) => list.at(-1)?.t ?? 0));
        put({
          state: coachStart(procedure, new Set(traces.keys())),
          fromUs: hurried.current.from(Math.round(newest * 1e6)),
          km: 0,
          ended: false,
        });
      }),
    end: () => void finish(),
  };
}

/** The clock of a simulated bay whose time is hurried: what comes in a second of ours is so many of the car's. */
class Hurry {
  rate = 1;
  private last = 0;
  private at = 0;

  /** From this moment on, µs; it is its own. */
  from(us: number): number {
    this.last = us;
    this.at = us;
    return us;
  }

  of(samples: readonly Sample[]): readonly Sample[] {
    if (this.last === 0) return samples;
    return samples.map((s) => {
      this.at += Math.max(0, s.atUs - this.last) * (this.rate || 1);
      this.last = Math.max(this.last, s.atUs);
      return { ...s, atUs: this.at };
    });
  }
}

async function replay(
  spool: Spool,
  procedure: DriveProcedure,
  hear: (d: Drive, samples: ReturnType<typeof unpackSecond>) => Drive,
): Promise<Drive | null> {
  const seconds = await spoolStore.seconds(spool.id, 0);
  const first = seconds[0];
  if (!first) return null;
  const known = new Set(seconds.flatMap((s) => Object.keys(s.data)));
  let d: Drive = { state: coachStart(procedure, known), fromUs: first.atMs * 1000, km: 0, ended: false };
  for (const s of seconds) d = hear(d, unpackSecond(s));
  return d;
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

/** One instruction, as a passenger reads it at a glance. */
export function instruction(now: CoachNow): Said {
  if (now.channel === null) return now.step?.says ?? '';
  const speed = now.channel === 'vss';
  if (now.side === 'unknown') return 'Nothing heard';
  if (now.side === 'inside') return now.high === 0.5 && now.low === null ? 'Stand still' : 'Hold it';
  if (now.side === 'over')
    return now.high === 0.5 ? 'Stop where it is safe' : speed ? 'A little slower' : 'A little less';
  if (speed && (now.value ?? 0) < 0.7 * (now.low ?? 0)) return 'Up to speed, with the traffic';
  return speed ? 'A little faster' : 'A little more';
}

function Driving({
  state,
  open,
  voice,
  silent,
  end,
}: {
  state: CoachState;
  open: readonly MonitorId[] | null;
  voice: boolean;
  /** The adapter is lost, or the vehicle says nothing. */
  silent: boolean;
  end: () => void;
}) {
  const now = coachNow(state, neededSteps(state.procedure, open));
  const show = useShown();
  const { tones } = usePreferences();
  const say = useSay();
  const says = now.state === 'driving' ? say(instruction(now)) : now.state === 'all-done' ? 'All done' : 'Time is over';
  const side = now.side;
  useEffect(() => {
    if (tones && (side === 'under' || side === 'over')) playTone('trouble');
  }, [tones, side]);
  const done = state.steps.filter((s) => s.done).length;
  const counted = useRef(done);
  useEffect(() => {
    if (tones && done > counted.current) playTone('kept');
    counted.current = done;
  }, [tones, done]);
  const step = say(now.step?.says ?? '');
  useEffect(() => {
    if (voice && step) speak(step);
  }, [voice, step]);
  // Not at once: a band that is touched and left again would be all that is heard.
  useEffect(() => {
    if (!voice) return;
    const timer = setTimeout(() => speak(says), 1500);
    return () => clearTimeout(timer);
  }, [voice, says]);
  const ticked = (open ?? []).filter((m) => state.after && !state.after.includes(m));
  const text = (v: number) => show(v, now.unit ?? '', 0).value.toFixed(0);
  const text2 = (v: number, u: string) => {
    const x = show(v, u, 0);
    return `${x.value.toFixed(0)} ${x.unit}`;
  };
  const unit = now.unit ? show(0, now.unit, 0).unit : '';
  const band =
    now.high === 0.5 && now.low === null
      ? ''
      : now.low !== null && now.high !== null
        ? `${text(now.low)} – ${text(now.high)}`
        : now.low !== null
          ? `${text(now.low)} or more`
          : now.high !== null
            ? `${text(now.high)} or less`
            : '';
  return (
    <section className="grid min-h-[70vh] content-between gap-6 p-2" aria-label="Coach">
      <div className="flex flex-wrap items-center justify-between gap-4">
        <p className="m-0 font-[650] text-caution">
          For the passenger. The driver watches the road; traffic law first.
        </p>
        <button type="button" className="btn btn-lg" onClick={end}>
          End the drive
        </button>
      </div>
      <div className="flex flex-wrap items-end justify-between gap-6">
        <div>
          <h1 className="m-0 text-[clamp(2.2rem,6vw,4rem)] leading-tight font-bold" aria-live="polite">
            {says}
          </h1>
          {band && (
            <p className="m-0 text-[clamp(1.3rem,3vw,2rem)] text-soft">
              hold{' '}
              <strong className="text-ink">
                {band} {unit}
              </strong>
            </p>
          )}
          {silent && (
            <p className="m-0 font-[650] text-caution">Nothing from the vehicle: silence never counts as held.</p>
          )}
          {now.step && <p className="m-0 mt-2 max-w-[60ch]">{step}</p>}
        </div>
        <p className="m-0 text-right">
          <span className="text-[clamp(5rem,16vw,11rem)] leading-none font-bold">
            {now.value === null ? '—' : text(now.value)}
          </span>
          <span className="block text-[1.2rem] text-soft">{unit}</span>
        </p>
      </div>
      <Gauge now={now} />
      <div className="grid gap-4 border-t-2 border-rule pt-4 sm:grid-cols-3">
        <p className="m-0">
          <span className="block text-soft">
            {now.leftS !== null
              ? 'left in this step'
              : now.until
                ? `${AWAITED[now.until.channel] ?? now.until.channel} now, until ${text2(now.until.bound, now.until.unit)}`
                : 'this step'}
          </span>
          <span className="figure text-[clamp(2rem,5vw,3.6rem)] leading-none font-bold">
            {now.leftS !== null
              ? clock(now.leftS)
              : now.until?.value != null
                ? text2(now.until.value, now.until.unit)
                : '…'}
          </span>
        </p>
        <p className="m-0 self-end">
          {now.next && <span className="block">next: {say(now.next.says)}</span>}
          <span className="block text-soft">
            {now.outsideS > 0
              ? `paused ${clock(now.outsideS)} while outside; lost after ${now.graceS} s`
              : now.driveLeftS !== null
                ? `${clock(now.driveLeftS)} until the drive is over`
                : ''}
          </span>
        </p>
        <p className="m-0 self-end sm:text-right">
          <strong className="block font-[650]">
            {done} of {state.procedure.steps.length} steps done
          </strong>
          <span className="block text-soft">
            {(now.step?.finishes ?? []).map((m) => MONITORS[m]).join(', ')}
            {(now.step?.finishes ?? []).length > 0 ? ' in hand' : ''}
          </span>
          {ticked.length > 0 && (
            <span className="block font-[650]">✓ {ticked.map((m) => MONITORS[m]).join(', ')} complete</span>
          )}
        </p>
      </div>
    </section>
  );
}

/** What a step waits for, in words. */
const AWAITED: Readonly<Record<string, string>> = {
  ect: 'coolant',
  rpm: 'engine speed',
  vss: 'speed',
  iat: 'intake air',
};

/** The band and where one is, drawn. */
function Gauge({ now }: { now: CoachNow }) {
  if (now.low === null && (now.high === null || now.high === 0.5)) return null;
  const low = now.low ?? 0;
  const high = now.high ?? low * 1.5;
  const width = Math.max(1, high - low);
  const [from, to] = [Math.max(0, low - 1.5 * width), high + 1.25 * width];
  const x = (v: number) => `${(100 * Math.min(to, Math.max(from, v) - from)) / (to - from)}%`;
  return (
    <svg className="block h-16 w-full" aria-hidden>
      <rect x="0" y="20" width="100%" height="24" rx="8" fill="var(--color-rule)" />
      <rect
        x={x(low)}
        y="14"
        width={`${(100 * width) / (to - from)}%`}
        height="36"
        rx="8"
        fill="var(--color-band)"
        stroke="var(--color-band-edge)"
        strokeWidth="3"
      />
      {now.value !== null && (
        <line
          x1={x(now.value)}
          x2={x(now.value)}
          y1="4"
          y2="60"
          stroke="var(--color-ink)"
          strokeWidth="8"
          strokeLinecap="round"
        />
      )}
    </svg>
  );
}

/** What the drive brought, ended by itself or by hand. */
function Gained({
  state,
  open,
  children,
}: {
  state: CoachState;
  open: readonly MonitorId[] | null;
  children: React.ReactNode;
}) {
  const say = useSay();
  const review = reviewOf(state, open ? { incomplete: [...open] } : {});
  const done = review.steps.filter((s) => s.state === 'done');
  // What had to be so before the start and nobody held against this car: driven as asked is more than its steps.
  const unchecked = review.conditions
    .filter((c) => c.state === 'unknown')
    .map((c) => midSentence(CONDITION_NAMES[c.id]));
  return (
    <NextStep
      title={
        review.result !== 'complete'
          ? 'The drive is over'
          : unchecked.length > 0
            ? 'Every step is driven: read the monitors'
            : 'Driven as asked: read the monitors'
      }
      why={
        <>
          {done.length > 0
            ? `Done: ${done.map((s) => s.id.replaceAll('-', ' ')).join(', ')}. `
            : 'No step was finished. '}
          <Say text={review.nextAttempt} />
          {unchecked.length > 0 && (
            <span className="block">
              Not checked by the coach, and asked for before the start: {unchecked.join(', ')}.
            </span>
          )}
          {review.remains.map(say).map((r) => (
            <span key={r} className="block">
              {r}
            </span>
          ))}
        </>
      }
    >
      {children}
    </NextStep>
  );
}
