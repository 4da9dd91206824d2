import { MONITORS, type MonitorId } from '@just-balance/core/obd';
import {
  type CoachNow,
  type CoachState,
  channelsOf,
  coachNow,
  coachSample,
  coachStart,
  type DriveProcedure,
  neededSteps,
  reviewOf,
} from '@just-balance/core/readiness';
import { useEffect, useMemo, useRef, useState } from 'react';
import { Link } from 'react-router';
import type { JobLive } from '../../data/live.tsx';
import { Cautions } from '../../job/Cautions.tsx';
import { openMonitors, useDriveChoice } from '../../job/drives.tsx';
import type { StationProps } from '../../job/station.ts';
import { clock } from '../../ui/figures.ts';
import { NextStep } from '../../ui/NextStep.tsx';
import { usePreferences, useShown } from '../../ui/preferences.tsx';
import { playTone } from '../../ui/tone.ts';
import { heardSince } from './coachLive.ts';

const LOOK_MS = 250;

/** The coach over the link of the shop: on a dynamometer, or a simulated bay. */
export function Coach({ job, live }: StationProps) {
  const { procedure, choice } = useDriveChoice('Procedure', 'max-w-md');
  const open = useMemo(() => openMonitors(job.records.at(-1)), [job.records]);
  const { state, begin, end, ended } = useCoach(procedure, live);
  const back = (
    <Link className="btn btn-lg" to={`/jobs/${job.id}/readiness`}>
      Back to Readiness
    </Link>
  );
  if (state && !ended) return <Driving state={state} open={open} end={end} />;
  return (
    <>
      {state && ended ? (
        <Gained state={state} open={open}>
          {back}
        </Gained>
      ) : (
        <NextStep
          title="Coach the drive"
          why="Two people, or a dynamometer, which is best. The driver looks at the road only: the passenger reads this screen."
        >
          {back}
          <button
            type="button"
            className="btn btn-primary btn-lg"
            disabled={live.link?.state !== 'ready'}
            onClick={begin}
          >
            Start
          </button>
        </NextStep>
      )}
      <Cautions job={job} step="readiness-drive" />
      {!state && (
        <section className="card grid gap-3 p-4">
          {choice}
          <ol className="m-0 list-decimal pl-6">
            {procedure.steps.map((s) => (
              <li key={s.id}>{s.says}</li>
            ))}
          </ol>
          <p className="m-0 text-soft">
            Long idles outdoors. {live.link?.state === 'ready' ? '' : 'Connect the adapter on Readings first. '}
            The network of the shop does not reach the road: there, record the drive, and look at it afterwards under
            its recording.
          </p>
        </section>
      )}
    </>
  );
}

/** The coach's memory, fed with what the link hears; a moment is heard once. */
function useCoach(procedure: DriveProcedure, live: JobLive) {
  const [state, setState] = useState<CoachState | null>(null);
  const [ended, setEnded] = useState(false);
  const at = useRef({ from: 0, heard: 0 });
  const memory = useRef<CoachState | null>(null);
  const running = state !== null && !ended;
  const { traces } = live;
  useEffect(() => {
    if (!running) return;
    const look = () => {
      const samples = heardSince(procedure, traces, at.current.heard, at.current.from);
      if (samples.length === 0 || !memory.current) return;
      for (const s of samples) memory.current = coachSample(memory.current, s);
      at.current.heard = samples.at(-1)!.t + at.current.from;
      setState(memory.current);
    };
    const timer = setInterval(look, LOOK_MS);
    return () => clearInterval(timer);
  }, [running, procedure, traces]);
  useWakeLock(running);
  return {
    state,
    ended,
    begin: () => {
      const wanted = [...channelsOf(procedure)].filter((c) => traces.has(c));
      const newest = Math.max(0, ...wanted.map((c) => traces.get(c)!.at(-1)!.t));
      at.current = { from: newest, heard: newest };
      memory.current = coachStart(procedure, new Set(wanted));
      setEnded(false);
      setState(memory.current);
    },
    end: () => setEnded(true),
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

/** One instruction, as a passenger reads it at a glance. */
export function instruction(now: CoachNow): string {
  if (now.channel === null) return now.step?.says ?? '';
  const speed = now.channel === 'vss';
  if (now.side === 'unknown') return 'Nothing heard';
  if (now.side === 'inside') return now.high === 0.5 && now.low === null ? 'Stand still' : 'Hold it';
  if (now.side === 'over') return now.high === 0.5 ? 'Stop and stand' : speed ? 'A little slower' : 'A little less';
  if (speed && (now.value ?? 0) < 0.7 * (now.low ?? 0)) return 'Up to speed, with the traffic';
  return speed ? 'A little faster' : 'A little more';
}

function Driving({ state, open, end }: { state: CoachState; open: readonly MonitorId[] | null; end: () => void }) {
  const now = coachNow(state, neededSteps(state.procedure, open));
  const show = useShown();
  const { tones } = usePreferences();
  const says = now.state === 'driving' ? instruction(now) : now.state === 'all-done' ? 'All done' : 'Time is over';
  const side = now.side;
  useEffect(() => {
    if (tones && (side === 'under' || side === 'over')) playTone('trouble');
  }, [tones, side]);
  const text = (v: number) => show(v, now.unit ?? '', 0).value.toFixed(0);
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
  const done = state.steps.filter((s) => s.done).length;
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
          <p className="m-0 text-[clamp(2.2rem,6vw,4rem)] leading-tight font-bold" role="status">
            {says}
          </p>
          {band && (
            <p className="m-0 text-[clamp(1.3rem,3vw,2rem)] text-soft">
              hold{' '}
              <strong className="text-ink">
                {band} {unit}
              </strong>
            </p>
          )}
          {now.step && <p className="m-0 mt-2 max-w-[60ch]">{now.step.says}</p>}
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
          <span className="block text-soft">{now.leftS === null ? 'this step' : 'left in this step'}</span>
          <span className="figure text-[clamp(2rem,5vw,3.6rem)] leading-none font-bold">
            {now.leftS === null ? '…' : clock(now.leftS)}
          </span>
        </p>
        <p className="m-0 self-end">
          {now.next && <span className="block">next: {now.next.says}</span>}
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
          <span className="text-soft">
            {(now.step?.finishes ?? []).map((m) => MONITORS[m]).join(', ')}
            {(now.step?.finishes ?? []).length > 0 ? ' in hand' : ''}
          </span>
        </p>
      </div>
    </section>
  );
}

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
  const review = reviewOf(state, open ? { incomplete: [...open] } : {});
  const done = review.steps.filter((s) => s.state === 'done');
  return (
    <NextStep
      title={review.result === 'complete' ? 'Driven as asked: read the monitors' : 'The drive is over'}
      why={
        <>
          {done.length > 0
            ? `Done: ${done.map((s) => s.id.replaceAll('-', ' ')).join(', ')}. `
            : 'No step was finished. '}
          {review.nextAttempt}
          {review.remains.map((r) => (
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
