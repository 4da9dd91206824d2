import { timerLeftS } from '@just-balance/core/procedures';
import { useState } from 'react';
import { clock } from '../../job/frame/TimerBar.tsx';
import { useSay } from '../../ui/preferences.tsx';
import { ACT, InDock } from './Dock.tsx';
import { ReasonBox } from './ReasonBox.tsx';
import type { StepProps } from './stepProps.ts';
import { useNow } from './useRun.ts';

/** A wait that runs on while one does something else. */
export function TimerStep({ handle, step, done }: StepProps) {
  const timer = handle.state.timers.find((t) => t.step === step.id);
  const now = useNow(timer !== undefined);
  const [cut, setCut] = useState(false);
  const say = useSay();
  const round = handle.state.rounds.get(step.id) ?? 0;
  const whole = step.seconds ?? 0;
  if (!timer)
    return (
      <div className="flex flex-wrap items-center gap-4">
        <InDock>
          <button type="button" className={ACT} onClick={() => handle.say({ kind: 'timer', step: step.id, round })}>
            Start {minutes(whole)}
          </button>
        </InDock>
        <button type="button" className="btn" onClick={() => setCut(true)}>
          Do without
        </button>
        {cut && <ReasonBox label="Why without" keep={(reason) => done({ reason })} />}
      </div>
    );
  const left = timerLeftS(timer, now);
  const mayTell = 'Notification' in window && Notification.permission === 'default';
  return (
    <div className="flex flex-wrap items-center gap-6">
      <div
        className="radial-progress bg-bench text-act"
        style={
          { '--value': 100 * (1 - left / Math.max(1, whole)), '--size': '13rem', '--thickness': '0.8rem' } as never
        }
        role="progressbar"
        aria-label={say(step.text)}
        aria-valuemin={0}
        aria-valuemax={whole}
        aria-valuenow={whole - left}
      >
        <span className="figure text-[3rem] font-bold text-ink">{clock(left)}</span>
      </div>
      {left === 0 ? (
        <p role="status" className="m-0 text-[1.2rem] font-[650]">
          Time is up.
        </p>
      ) : (
        <div className="grid min-w-56 flex-1 gap-2">
          <p className="m-0 text-soft">It runs on while you do something else, on every screen that shows this job.</p>
          <button type="button" className="btn justify-self-start" onClick={() => setCut(!cut)}>
            Cut it short
          </button>
          {mayTell && (
            <button
              type="button"
              className="btn btn-sm justify-self-start"
              onClick={() => void Notification.requestPermission()}
            >
              Tell me when it is over
            </button>
          )}
        </div>
      )}
      {cut && left > 0 && <ReasonBox label="Why cut short" keep={(reason) => done({ reason })} />}
    </div>
  );
}

export function minutes(s: number): string {
  return s < 60 ? `${s} s` : `${Math.round(s / 60)} min`;
}
