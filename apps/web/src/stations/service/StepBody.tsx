import type { JobView } from '@just-balance/contract';
import {
  CAUTIONS,
  goesBackOn,
  liveTicks,
  type OffItem,
  type ProcedureStep,
  timerLeftS,
} from '@just-balance/core/procedures';
import { numberText, wordsOf } from '@just-balance/core/units';
import { Check, TriangleAlert } from 'lucide-react';
import { useState } from 'react';
import { clock } from '../../job/TimerBar.tsx';
import { JobPhoto } from '../../photos/JobPhoto.tsx';
import { PhotoButton } from '../../photos/PhotoButton.tsx';
import { Field } from '../../ui/Field.tsx';
import { Quantity, Say, useSay, useShown } from '../../ui/preferences.tsx';
import { typed } from '../../ui/typed.ts';
import { Reading } from './Reading.tsx';
import { ReasonBox } from './ReasonBox.tsx';
import { StepPictures } from './StepPictures.tsx';
import type { StepProps } from './stepProps.ts';
import { Torque } from './Torque.tsx';
import { useNow } from './useRun.ts';

/** What a step needs beside its words: its caution, and the piece that its kind has. */
export function StepBody(props: StepProps) {
  const { step, handle } = props;
  const caution = step.caution && CAUTIONS.find((c) => c.id === step.caution);
  const said = caution && handle.state.cautions.has(caution.id);
  const Kind = KINDS[step.kind];
  return (
    <div className="grid gap-3">
      {caution && (
        <section
          aria-label="Caution"
          className="alert alert-warning flex flex-wrap items-center gap-x-6 gap-y-3 px-4 py-3"
        >
          <p className="m-0 flex min-w-[240px] flex-1 items-start gap-2 font-[650]">
            <TriangleAlert aria-hidden size={20} className="mt-[1px] shrink-0" />
            {caution.text}
          </p>
          {said ? (
            <span className="font-[650]">acknowledged</span>
          ) : (
            <button
              type="button"
              className="btn"
              onClick={() => handle.say({ kind: 'caution', caution: caution.id, step: step.id })}
            >
              Understood
            </button>
          )}
        </section>
      )}
      <Ticks {...props} />
      {Kind && (!caution || said) && <Kind {...props} />}
      {(!caution || said) && <StepPictures {...props} />}
    </div>
  );
}

/** Conditions that the link can see, ticking by themselves. */
function Ticks({ handle, step, live }: StepProps) {
  const ticks = liveTicks(handle.run.procedure.id, step.id, live.values);
  const show = useShown();
  if (ticks.length === 0) return null;
  const limit = (t: (typeof ticks)[number]) => {
    const text = (v: number) => numberText(show(v, t.unit, 0).value, 0);
    if (t.low !== undefined && t.high !== undefined) return `${text(t.low)} to ${text(t.high)}`;
    return t.low !== undefined ? `at least ${text(t.low)}` : `at most ${text(t.high!)}`;
  };
  return (
    <ul className="m-0 grid list-none gap-2 p-0" aria-label="Conditions from the link">
      {ticks.map((t) => (
        <li key={t.label} className="flex flex-wrap items-center gap-3 text-[1.1rem]">
          <span
            aria-hidden
            className={`grid size-8 place-items-center rounded-full ${t.state === 'holds' ? 'bg-ink text-sheet' : 'border-2 border-rule'}`}
          >
            {t.state === 'holds' && <Check size={18} />}
          </span>
          <span className="font-[650]">{t.label}</span>
          {t.value !== null && <Quantity value={t.value} unit={t.unit} digits={0} />}
          <span className="text-soft">
            {limit(t)}
            {t.state === 'not seen'
              ? ', not seen: connect the adapter, or read it off'
              : t.state === 'holds'
                ? ', holds'
                : ', not yet'}
          </span>
        </li>
      ))}
    </ul>
  );
}

function Answers({ step, done }: StepProps) {
  return (
    <fieldset className="m-0 grid gap-2 border-0 p-0">
      <legend className="sr-only">
        <Say text={step.text} />
      </legend>
      {step.answers?.map((a) => (
        <button
          key={a.text}
          type="button"
          className="btn btn-lg justify-start text-left font-[650]"
          onClick={() => done({ answer: a.text })}
        >
          {a.text}
          {a.stopRule && <span className="badge badge-warning ml-auto">ends the work as planned</span>}
        </button>
      ))}
    </fieldset>
  );
}

function Measure({ handle, step, live, done }: StepProps) {
  const [text, setText] = useState('');
  const seen = liveTicks(handle.run.procedure.id, step.id, live.values).find((t) => t.value !== null);
  const value = text.trim() === '' ? Number.NaN : Number(typed(text));
  const low = step.low ?? Number.NEGATIVE_INFINITY;
  const high = step.high ?? Number.POSITIVE_INFINITY;
  const limits =
    step.low !== undefined && step.high !== undefined
      ? `${step.low} to ${step.high}`
      : step.low !== undefined
        ? `at least ${step.low}`
        : `at most ${step.high}`;
  const inside = value >= low && value <= high;
  return (
    <form
      className="flex flex-wrap items-end gap-4"
      onSubmit={(e) => {
        e.preventDefault();
        if (Number.isFinite(value)) done({ value });
      }}
    >
      <Field label={`${step.quantity}, ${step.unit} (${limits})`} className="w-72">
        {(aria) => (
          <input
            className="input figure text-[1.3rem]"
            inputMode="decimal"
            value={text}
            onChange={(e) => setText(e.target.value)}
            {...aria}
          />
        )}
      </Field>
      <output className="min-h-12 content-center font-[650]">
        {Number.isFinite(value) && (
          <span className={`badge badge-lg ${inside ? 'badge-success' : 'badge-warning'}`}>
            {inside ? 'within its limits' : value < low ? 'below its limit' : 'above its limit'}
          </span>
        )}
      </output>
      {seen && (
        <button type="button" className="btn" onClick={() => setText(String(Math.round(seen.value! * 10) / 10))}>
          Read it from the adapter
        </button>
      )}
      <button type="submit" className="btn btn-primary btn-lg" disabled={!Number.isFinite(value)}>
        Keep it
      </button>
    </form>
  );
}

function Picture({ job, handle, step, done }: StepProps) {
  return (
    <PhotoButton
      jobId={job.id}
      run={handle.run.id}
      step={step.id}
      label={wordsOf(step.text, 'own')}
      primary
      taken={(photo) => done({ photo })}
    >
      Take the picture
    </PhotoButton>
  );
}

function TimerStep({ handle, step, done }: StepProps) {
  const timer = handle.state.timers.find((t) => t.step === step.id);
  const now = useNow(timer !== undefined);
  const [cut, setCut] = useState(false);
  const say = useSay();
  const round = handle.state.rounds.get(step.id) ?? 0;
  const whole = step.seconds ?? 0;
  if (!timer)
    return (
      <div className="flex flex-wrap items-center gap-4">
        <button
          type="button"
          className="btn btn-primary btn-lg"
          onClick={() => handle.say({ kind: 'timer', step: step.id, round })}
        >
          Start {minutes(whole)}
        </button>
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
        style={{ '--value': 100 * (1 - left / Math.max(1, whole)), '--size': '9rem', '--thickness': '0.7rem' } as never}
        role="progressbar"
        aria-label={say(step.text)}
        aria-valuemin={0}
        aria-valuemax={whole}
        aria-valuenow={whole - left}
      >
        <span className="figure text-[1.9rem] font-bold text-ink">{clock(left)}</span>
      </div>
      {left === 0 ? (
        <p role="status" className="m-0 text-[1.2rem] font-[650]">
          Time is up.
        </p>
      ) : (
        <div className="grid gap-2">
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

function TakeOff({ job, handle, step, done }: StepProps) {
  const [count, setCount] = useState(step.count === undefined ? '' : String(step.count));
  const [detail, setDetail] = useState(step.detail ?? '');
  const [hidden, setHidden] = useState(false);
  const [photo, setPhoto] = useState<string | null>(null);
  const n = Number(typed(count));
  const taken = {
    ...(count.trim() !== '' && Number.isInteger(n) && n > 0 ? { count: n } : {}),
    ...(detail.trim() ? { detail: detail.trim().slice(0, 300) } : {}),
    ...(hidden ? { hidden } : {}),
  };
  return (
    <div className="grid gap-3">
      <p className="m-0 text-[1.1rem]">
        Comes off: <strong className="font-[650]">{step.item}</strong>
      </p>
      <div className="flex flex-wrap items-start gap-4">
        <Field label="Screws, bolts, clips" className="w-40">
          {(aria) => (
            <input
              className="input figure"
              inputMode="numeric"
              value={count}
              onChange={(e) => setCount(e.target.value)}
              {...aria}
            />
          )}
        </Field>
        <Field label="Long and short, where they are kept" className="min-w-64 flex-1">
          {(aria) => <input className="input" value={detail} onChange={(e) => setDetail(e.target.value)} {...aria} />}
        </Field>
        <label className="mt-7 flex min-h-12 items-center gap-2">
          <input type="checkbox" className="checkbox" checked={hidden} onChange={(e) => setHidden(e.target.checked)} />
          one is hidden
        </label>
      </div>
      <div className="flex flex-wrap items-center gap-4">
        <PhotoButton jobId={job.id} run={handle.run.id} step={step.id} label={`Off: ${step.item}`} taken={setPhoto}>
          {photo ? 'Another picture' : 'Picture of how it sat'}
        </PhotoButton>
        {photo && (
          <JobPhoto
            jobId={job.id}
            photo={{ id: photo, label: `Off: ${step.item}` }}
            small
            className="h-24 rounded-box"
          />
        )}
        <button
          type="button"
          className="btn btn-primary btn-lg"
          onClick={() => done({ taken, ...(photo ? { photo } : {}) })}
        >
          It is off
        </button>
      </div>
    </div>
  );
}

/** What goes on with this step, as it came off. */
export function OffList({ job, items }: { job: JobView; items: readonly OffItem[] }) {
  return (
    <ul className="m-0 grid list-none gap-2 p-0">
      {items.map((o) => (
        <li key={o.id} className="flex items-center gap-3">
          {o.photo && (
            <JobPhoto jobId={job.id} photo={{ id: o.photo, label: o.item }} small className="h-16 rounded-field" />
          )}
          <span>
            <span className="font-[650]">{o.item}</span>
            <span className="block text-soft">
              {[o.count && `${o.count} fasteners`, o.detail, o.hidden && 'one hidden'].filter(Boolean).join(' · ')}
            </span>
          </span>
        </li>
      ))}
    </ul>
  );
}

function Refit({ job, handle, step }: StepProps) {
  const items = goesBackOn(handle.state).filter((o) => o.id === step.item || o.item === step.item);
  const sat = job.photos.filter((p) => p.run === handle.run.id && p.step === 'sits' && !p.undone);
  if (items.length === 0) return <p className="m-0 text-soft">Nothing of it was taken off in this run.</p>;
  return (
    <div className="flex flex-wrap items-start gap-4">
      <div className="min-w-64 flex-1">
        <OffList job={job} items={items} />
      </div>
      {sat.map((p) => (
        <figure key={p.id} className="m-0 block">
          <JobPhoto jobId={job.id} photo={p} className="max-h-56 rounded-box" />
          <figcaption className="text-[0.9rem] text-soft">how it sat</figcaption>
        </figure>
      ))}
    </div>
  );
}

function Read({ job, live, handle, step, done }: StepProps) {
  return (
    <Reading
      job={job}
      live={live}
      runStartedMs={Date.parse(handle.run.at)}
      handle={handle}
      at={step.at!}
      done={() => done()}
    />
  );
}

const KINDS: Partial<Record<ProcedureStep['kind'], (p: StepProps) => React.ReactNode>> = {
  look: Answers,
  decide: Answers,
  measure: Measure,
  photo: Picture,
  timer: TimerStep,
  'take-off': TakeOff,
  refit: Refit,
  torque: Torque,
  read: Read,
};

/** Kinds whose own piece says that the step is through. */
export const SAYS_DONE: ReadonlySet<ProcedureStep['kind']> = new Set([
  'look',
  'decide',
  'measure',
  'photo',
  'take-off',
  'torque',
  'read',
]);

export function minutes(s: number): string {
  return s < 60 ? `${s} s` : `${Math.round(s / 60)} min`;
}
