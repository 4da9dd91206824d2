import type { CaptureCommand, CaptureStatus, JobView, Phase } from '@just-balance/contract';
import { CAPTURE_POINTS, type CapturePoint, pointsFor, WARM_FROM_C } from '@just-balance/core/capture';
import { pointLabel } from '@just-balance/core/case';
import { figure, firstPart, midSentence, type Said, said } from '@just-balance/core/units';
import { Check, Circle } from 'lucide-react';
import { type ReactNode, useEffect, useMemo, useRef, useState } from 'react';
import type { JobLive } from '../data/live.tsx';
import { Cautions } from '../job/Cautions.tsx';
import { keyFigure, newestReadings } from '../job/figures.ts';
import { useAdapter } from '../link/captures.ts';
import { later } from '../ui/later.tsx';
import { NextStep } from '../ui/NextStep.tsx';
import { Problem } from '../ui/Problem.tsx';
import { usePreferences, useSay } from '../ui/preferences.tsx';
import { playTone } from '../ui/tone.ts';
import { useAction } from '../ui/useAction.ts';
import { useSingleKeys } from '../ui/useSingleKeys.ts';
import { HandEntry } from './HandEntry.tsx';
import { KeptReading } from './KeptReading.tsx';

const Strips = later(async () => (await import('./Strips.tsx')).Strips, <p className="text-soft">Drawing…</p>);
const BayControls = later(async () => (await import('../practice/BayControls.tsx')).BayControls);

interface Props {
  job: JobView;
  live: JobLive;
  phase: Phase;
  /** Where it goes on once everything asked for is kept. */
  next: ReactNode;
  /** What the card says once every point is kept. */
  summary?: { title: string; why: Said };
  /** What stands under the capture: before and after, for Prove. */
  children?: React.ReactNode;
  /** What stands below everything, told how to start a free recording; not while one runs. */
  below?: (free: { start: (only: string | undefined) => void; disabled: boolean }) => React.ReactNode;
}

/** Guided capture of the points a job asks for; used for the first readings and again for the proof. */
export function CaptureRunner({ job, live, phase, next, summary, children, below }: Props) {
  const readings = newestReadings(job, phase);
  const have = (at: string) => readings.find((r) => r.reading.at === at);
  const asked = pointsFor(job.vehicle, job.complaint.symptoms);
  // For the proof: the points that were taken before the repair.
  const before = newestReadings(job, 'before');
  const wanted = phase === 'after' ? asked.filter((at) => before.some((r) => r.reading.at === at)) : asked;
  const firstOpen = CAPTURE_POINTS.find((p) => wanted.includes(p.at) && !have(p.at)) ?? null;
  const [chosen, setChosen] = useState<string | null>(null);
  const [hand, setHand] = useState(false);
  const { busy, trouble, run } = useAction();
  const adapter = useAdapter(job, live);
  const status: CaptureStatus | null =
    live.capture &&
    live.capture.phase === phase &&
    live.capture.state !== 'done' &&
    !(live.capture.state === 'refused' && !live.capture.reason)
      ? live.capture
      : null;
  // With all points kept, the strips stay with the one taken last: its expected values, not those of idle.
  const at = status?.at ?? chosen ?? firstOpen?.at ?? readings.at(-1)?.reading.at ?? 'idle';
  const point = CAPTURE_POINTS.find((p) => p.at === at) ?? CAPTURE_POINTS.find((p) => p.at === 'idle')!;
  const kept = chosen === null ? undefined : have(chosen);
  const [more, setMore] = useState(false);
  const offered = CAPTURE_POINTS.filter(
    (p) => more || wanted.includes(p.at) || have(p.at) || p.at === chosen || p.at === status?.at,
  ).filter((p) => p.at !== 'boost' || job.vehicle.induction === 'turbo');

  const { tones } = usePreferences();
  const say = useSay();
  const heard = useRef<string | undefined>(undefined);
  const state = live.capture?.state;
  useEffect(() => {
    const before = heard.current;
    heard.current = state;
    if (!tones || before === undefined || before === state) return;
    if (state === 'capturing') playTone('opened');
    else if (state === 'done') playTone('kept');
    else if (state === 'refused' || state === 'lost') playTone('trouble');
  }, [state, tones]);

  const finished = live.capture?.state === 'done' ? live.capture.captureId : null;
  useEffect(() => {
    if (finished) setChosen(null);
  }, [finished]);

  const start = (p: CapturePoint) =>
    run(async () => {
      setChosen(p.at);
      await adapter.start(p.at, phase);
    });
  const startFree = (only: string | undefined) =>
    run(async () => {
      await adapter.start('free', phase, { only });
    });
  const command = (c: CaptureCommand['command']) =>
    run(async () => {
      await adapter.command(status!.captureId, c);
    });
  const keys = useMemo(() => ({ h: () => setHand(true) }), []);
  useSingleKeys(keys);

  return (
    <>
      <Step
        job={job}
        point={point}
        status={status}
        complete={
          !firstOpen && !chosen
            ? (summary ?? {
                title: wanted.length === 2 ? 'Both points are kept' : `All ${wanted.length} points are kept`,
                why: 'What this complaint asks for is in; more points can be taken or entered by hand.',
              })
            : null
        }
        busy={busy}
        next={next}
        start={() => start(point)}
        again={() => command('again')}
        keep={() => command('keep-doubtful')}
        stop={() => command('stop')}
        pause={() => command(status?.state === 'paused' ? 'resume' : 'pause')}
        hand={() => setHand(true)}
        again2={() => setChosen('idle')}
      />
      <Problem trouble={trouble} />
      <Cautions job={job} step={`${phase === 'before' ? 'read' : 'prove'}:${point.at}`} />
      <div
        className="grid grid-cols-2 gap-3 lg:grid-cols-[repeat(auto-fit,minmax(180px,1fr))]"
        role="group"
        aria-label="Operating points"
      >
        {offered.map((p) => {
          const r = have(p.at);
          const on = p.at === point.at && (status !== null || firstOpen !== null || chosen !== null);
          return (
            <button
              key={p.at}
              type="button"
              aria-pressed={on}
              disabled={status !== null}
              className={`card min-h-[62px] cursor-pointer px-4 py-2 text-left text-ink disabled:cursor-default ${on ? 'border-2 border-act' : ''}`}
              onClick={() => setChosen(p.at)}
            >
              <span className="flex items-center gap-2 font-[650]">
                {r && <Check size={17} aria-label="kept" />} {p.label}
              </span>
              <span className="figure text-[0.9rem] text-soft">
                {status?.at === p.at
                  ? status.state
                  : r
                    ? `${say(keyFigure(r.reading))}${r.doubtful ? ' · doubtful' : ''}`
                    : 'not taken'}
              </span>
            </button>
          );
        })}
        {readings
          .filter((r) => !offered.some((p) => p.at === r.reading.at))
          .map((r) => (
            <button
              key={r.id}
              type="button"
              aria-pressed={chosen === r.reading.at}
              className={`card min-h-[62px] cursor-pointer px-4 py-2 text-left text-ink ${chosen === r.reading.at ? 'border-2 border-act' : ''}`}
              onClick={() => setChosen(r.reading.at)}
            >
              <span className="flex items-center gap-2 font-[650]">
                <Check size={17} aria-label="kept" /> {pointLabel(r.reading.at)}
              </span>
              <span className="figure text-[0.9rem] text-soft">{say(keyFigure(r.reading))} · by hand</span>
            </button>
          ))}
        {!more && (
          <button
            type="button"
            className="card min-h-[62px] cursor-pointer px-4 py-2 text-left text-soft"
            disabled={status !== null}
            onClick={() => setMore(true)}
          >
            More points
          </button>
        )}
      </div>
      {!status && kept && <KeptReading key={kept.id} job={job} kept={kept} />}
      {hand && <HandEntry job={job} phase={phase} at={point.at} close={() => setHand(false)} />}
      {(status || !children) && (
        <div className="grid grid-cols-[minmax(0,1fr)] items-start gap-3 lg:grid-cols-[minmax(0,1fr)_230px]">
          <section className="card p-4" aria-label="Live strips">
            <Strips live={live} job={job} point={point} status={status} />
          </section>
          <Conditions status={status} point={point} job={job} />
        </div>
      )}
      {children}
      {below?.({ start: startFree, disabled: busy || !job.adapter || status !== null })}
      {job.adapter?.startsWith('sim:') && <BayControls bay={Number(job.adapter.slice(4))} compact />}
    </>
  );
}

interface StepProps {
  job: JobView;
  point: CapturePoint;
  status: CaptureStatus | null;
  complete: { title: string; why: Said } | null;
  busy: boolean;
  next: ReactNode;
  start: () => void;
  again: () => void;
  keep: () => void;
  stop: () => void;
  pause: () => void;
  hand: () => void;
  again2: () => void;
}

/** The next step card in every state of a capture. */
function Step({ job, point, status, complete, busy, next, start, again, keep, stop, pause, hand, again2 }: StepProps) {
  const say = useSay();
  const byHand = (
    <button type="button" className="btn btn-lg" onClick={hand}>
      Enter by hand
    </button>
  );
  const stopButton = (
    <button type="button" className="btn btn-lg" disabled={busy} onClick={stop}>
      Stop
    </button>
  );
  const pauseButton = (
    <button type="button" className="btn btn-lg" disabled={busy} onClick={pause}>
      Pause
    </button>
  );
  if (status?.state === 'paused') {
    return (
      <NextStep
        tone="wait"
        title={`${point.label}: paused. ${status.keptSeconds} s up to then are kept`}
        why="Nothing is recorded meanwhile; the gap will be marked. The window starts anew."
      >
        {stopButton}
        <button type="button" className="btn btn-primary btn-lg" disabled={busy} onClick={pause}>
          Go on
        </button>
      </NextStep>
    );
  }
  if (status?.state === 'lost') {
    return (
      <NextStep
        tone="trouble"
        title={`${keyOff(status.reason) ? 'The vehicle does not answer.' : 'Adapter lost.'} ${status.keptSeconds} s up to then are kept`}
        why={`${keyOff(status.reason) ? '' : `${capital(status.reason ?? 'No word from it')}. `}${
          keyOff(status.reason)
            ? 'Key off, or cranking: it takes up again by itself.'
            : 'Cranking often does this; it connects again by itself.'
        }`}
      >
        {byHand}
        {stopButton}
      </NextStep>
    );
  }
  if (status?.at === 'free') {
    return (
      <NextStep
        title={`Recording freely: ${status.keptSeconds} s kept`}
        spoken="Recording freely"
        why="Every second is committed as it comes. Stop when you have seen enough; it stands under Recordings."
      >
        {pauseButton}
        <button type="button" className="btn btn-primary btn-lg" disabled={busy} onClick={stop}>
          Stop
        </button>
      </NextStep>
    );
  }
  if (status?.state === 'refused') {
    return (
      <NextStep
        tone="trouble"
        title={`Not good enough to keep: ${status.reason ?? 'it wandered'}`}
        why={`Steady means within ${Math.round(point.airflowSteadyShare * 100)} % for ${point.windowS} s. Likely the fan or the air conditioning cycling; switch both off.`}
      >
        <button type="button" className="btn btn-ghost underline" disabled={busy} onClick={keep}>
          Keep, marked doubtful
        </button>
        <button type="button" className="btn btn-primary btn-lg" disabled={busy} onClick={again}>
          Try again
        </button>
      </NextStep>
    );
  }
  if (status?.state === 'capturing') {
    const left = Math.max(0, status.wantedS - status.goodS);
    return (
      <NextStep
        title={`${point.label}: capturing, ${Math.ceil(left)} s to go`}
        spoken={`${point.label}: capturing`}
        why={
          point.kind === 'peak'
            ? 'It catches the moment by itself.'
            : `The window closes by itself when ${status.wantedS} good seconds are in.`
        }
        aside={<Ring share={status.goodS / status.wantedS} text={`${Math.ceil(left)} s`} />}
      >
        {pauseButton}
        {stopButton}
      </NextStep>
    );
  }
  if (status) {
    const sentence = say(status.sentence ?? 'Waiting for the first seconds.');
    return (
      <NextStep
        tone="wait"
        title={sentence}
        // Spoken once, not with every degree.
        spoken={firstPart(sentence)}
        why={`${point.instruction} It starts by itself; put the tablet down.`}
      >
        {status.keepable && (
          <button type="button" className="btn btn-lg" disabled={busy} onClick={keep}>
            Keep it now, marked doubtful
          </button>
        )}
        {pauseButton}
        {stopButton}
      </NextStep>
    );
  }
  if (complete) {
    return (
      <NextStep title={complete.title} why={complete.why}>
        {byHand}
        <button type="button" className="btn btn-lg" onClick={again2}>
          Take again
        </button>
        {next}
      </NextStep>
    );
  }
  return (
    <NextStep
      title={`Take ${midSentence(point.label)}`}
      why={
        job.adapter
          ? `${point.instruction} ${point.kind === 'steady' ? `It waits until all that must be true is, then averages ${point.windowS} s by itself.` : 'It catches the moment by itself.'}`
          : 'No adapter on this job: enter what your tool shows.'
      }
    >
      {byHand}
      <button type="button" className="btn btn-primary btn-lg" disabled={busy || !job.adapter} onClick={start}>
        Start
      </button>
    </NextStep>
  );
}

/** How much of the window is good; the seconds to go in its middle. */
function Ring({ share, text }: { share: number; text: string }) {
  return (
    <div
      role="img"
      aria-label={`${text} left`}
      className="radial-progress figure text-[1.3rem] font-bold text-act"
      style={{ '--value': Math.round(100 * share), '--size': '76px', '--thickness': '9px' } as React.CSSProperties}
    >
      <span className="text-ink">{text}</span>
    </div>
  );
}

/** Whether the vehicle is silent rather than the adapter gone. */
const keyOff = (reason: string | null) => /no engine control unit|vehicle does not answer/i.test(reason ?? '');
const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1).replace(/\.$/, '');

function Conditions({ status, point, job }: { status: CaptureStatus | null; point: CapturePoint; job: JobView }) {
  const say = useSay();
  return (
    <section className="card p-4">
      <h2 className="card-title">What must be true</h2>
      <ul className="m-0 mt-2 list-none p-0">
        {(status?.conditions ?? []).map((c) => (
          <li key={c.id} className="border-t border-rule py-2">
            <div className="flex items-center justify-between gap-2">
              <span className="font-[650]">{c.label}</span>
              {c.met ? (
                <span className="badge badge-success">
                  <Check size={14} aria-hidden /> yes
                </span>
              ) : (
                <span className="badge badge-warning">
                  <Circle size={12} aria-hidden /> not yet
                </span>
              )}
            </div>
            <div className="figure text-[0.9rem] text-soft">{say(c.detail)}</div>
          </li>
        ))}
        {!status && (
          <li className="border-t border-rule py-2 text-soft">
            {[
              point.needsWarm && say(said`warm from ${figure(WARM_FROM_C, '°C')}`),
              point.coldBelowC !== undefined && say(said`coolant at most ${figure(point.coldBelowC, '°C')}`),
              point.needsClosedLoop && job.vehicle.fuel === 'petrol' && 'closed loop',
              point.rpmHigh === 0
                ? 'engine off'
                : `${point.rpmLow.toLocaleString('en-US')}–${point.rpmHigh.toLocaleString('en-US')} rpm`,
              point.speedLowKmh !== undefined && say(said`at least ${figure(point.speedLowKmh, 'km/h')}`),
              point.kind === 'steady' && `steady for ${point.windowS} s`,
            ]
              .filter(Boolean)
              .join(', ')}
            . Checked by itself once started.
          </li>
        )}
      </ul>
      <p className="m-0 mt-2 text-[0.9rem] text-soft">
        Hands free once started. <kbd className="kbd kbd-sm">H</kbd> hand entry.
      </p>
    </section>
  );
}
