import type { CaptureCommand, CaptureStatus, JobView } from '@just-balance/contract';
import type { CapturePoint } from '@just-balance/core/capture';
import { firstPart, midSentence, type Said } from '@just-balance/core/units';
import type { ReactNode } from 'react';
import { Press } from '../ui/May.tsx';
import { NextStep } from '../ui/NextStep.tsx';
import { useSay } from '../ui/preferences.tsx';

interface HeadProps {
  job: JobView;
  point: CapturePoint;
  status: CaptureStatus | null;
  complete: { title: string; why: Said } | null;
  busy: boolean;
  next: ReactNode;
  start: () => void;
  /** Asked of the capture that runs. */
  command: (c: CaptureCommand['command']) => void;
  hand: () => void;
  /** The first point once more. */
  again: () => void;
}

/** The next step card in every state of a capture. */
export function CaptureHead({ job, point, status, complete, busy, next, start, command, hand, again }: HeadProps) {
  const say = useSay();
  const stop = () => command('stop');
  const keep = () => command('keep-doubtful');
  const pause = () => command(status?.state === 'paused' ? 'resume' : 'pause');
  const byHand = (
    <Press className="btn btn-lg" onClick={hand}>
      Enter by hand
    </Press>
  );
  const stopButton = (
    <Press className="btn btn-lg" disabled={busy} onClick={stop}>
      Stop
    </Press>
  );
  const pauseButton = (
    <Press className="btn btn-lg" disabled={busy} onClick={pause}>
      Pause
    </Press>
  );
  if (status?.state === 'paused') {
    return (
      <NextStep
        tone="wait"
        title={`${point.label}: paused. ${status.keptSeconds} s up to then are kept`}
        why="Nothing is recorded meanwhile; the gap will be marked. The window starts anew."
      >
        {stopButton}
        <Press className="btn btn-primary btn-lg" disabled={busy} onClick={pause}>
          Go on
        </Press>
      </NextStep>
    );
  }
  if (status?.state === 'lost') {
    return (
      <NextStep
        tone="trouble"
        title={`${status.silent ? 'The vehicle does not answer.' : 'Adapter lost.'} ${status.keptSeconds} s up to then are kept`}
        why={
          status.silent
            ? 'Key off, or cranking: it takes up again by itself.'
            : `${capital(status.reason ?? 'No word from it')}. Cranking often does this; it connects again by itself.`
        }
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
        <Press className="btn btn-primary btn-lg" disabled={busy} onClick={stop}>
          Stop
        </Press>
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
        <Press className="btn btn-ghost underline" disabled={busy} onClick={keep}>
          Keep, marked doubtful
        </Press>
        <Press className="btn btn-primary btn-lg" disabled={busy} onClick={() => command('again')}>
          Try again
        </Press>
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
          <Press className="btn btn-lg" disabled={busy} onClick={keep}>
            Keep it now, marked doubtful
          </Press>
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
        <Press className="btn btn-lg" onClick={again}>
          Take again
        </Press>
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
      <Press className="btn btn-primary btn-lg" disabled={busy || !job.adapter} onClick={start}>
        Start
      </Press>
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

const capital = (text: string) => text.charAt(0).toUpperCase() + text.slice(1).replace(/\.$/, '');
