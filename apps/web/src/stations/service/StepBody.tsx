import { CAUTIONS, liveTicks, type ProcedureStep } from '@just-balance/core/procedures';
import { numberText, wordsOf } from '@just-balance/core/units';
import { Check, TriangleAlert } from 'lucide-react';
import { PhotoButton } from '../../photos/PhotoButton.tsx';
import { Quantity, useShown } from '../../ui/preferences.tsx';
import { Answers } from './Answers.tsx';
import { ACT, InDock } from './Dock.tsx';
import { Measure } from './Measure.tsx';
import { Refit, TakeOff } from './OffAndOn.tsx';
import { Reading } from './Reading.tsx';
import { StepPictures } from './StepPictures.tsx';
import type { StepProps } from './stepProps.ts';
import { TimerStep } from './TimerStep.tsx';
import { Torque } from './Torque.tsx';

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
          <p className="m-0 flex min-w-[240px] flex-1 items-start gap-2 text-[1.15rem] font-[650]">
            <TriangleAlert aria-hidden size={20} className="mt-[1px] shrink-0" />
            {caution.text}
          </p>
          {said ? (
            <span className="font-[650]">acknowledged</span>
          ) : (
            <InDock>
              <button
                type="button"
                className={ACT}
                onClick={() => handle.say({ kind: 'caution', caution: caution.id, step: step.id })}
              >
                Understood
              </button>
            </InDock>
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

function Picture({ job, handle, step, done }: StepProps) {
  return (
    <InDock>
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
    </InDock>
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
  read: Reading,
};
