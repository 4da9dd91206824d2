import { asks, CAUTIONS, type ProcedureStep, plainDone, shortLines } from '@just-balance/core/procedures';
import { figure, said } from '@just-balance/core/units';
import { Check, TriangleAlert } from 'lucide-react';
import { useState } from 'react';
import type { StationProps } from '../../job/frame/station.ts';
import { Say } from '../../ui/preferences.tsx';
import { Answers } from './Answers.tsx';
import { Measure } from './Measure.tsx';
import { ownTorque } from './ownTorque.ts';
import { Reading } from './Reading.tsx';
import { ReasonBox } from './ReasonBox.tsx';
import type { StepProps } from './stepProps.ts';
import { TimerStep } from './TimerStep.tsx';
import type { RunHandle } from './useRun.ts';

const ASKED: Partial<Record<ProcedureStep['kind'], (p: StepProps) => React.ReactNode>> = {
  look: Answers,
  decide: Answers,
  measure: Measure,
  timer: TimerStep,
  read: Reading,
};

type Line = StationProps & { handle: RunHandle };

/** A run in five lines for somebody who knows the work: all of them open at once, pictures left to them. */
export function ShortRun(props: Line) {
  const { run, state } = props.handle;
  const lines = shortLines(run.procedure, state);
  return (
    <ol className="m-0 grid list-none gap-3 p-0" aria-label="The work in short">
      {lines.map((steps, i) => (
        <OneLine key={steps[0]!.id} {...props} steps={steps} number={i + 1} of={lines.length} />
      ))}
    </ol>
  );
}

function OneLine({ steps, number, of, ...props }: Line & { steps: ProcedureStep[]; number: number; of: number }) {
  const { job, handle } = props;
  const { run, state, busy, say } = handle;
  const [leaving, setLeaving] = useState(false);
  const through = (s: ProcedureStep) => state.results.has(s.id) || state.early.has(s.id);
  const open = steps.filter((s) => !through(s));
  const plain = open.filter((s) => !asks(s));
  const round = (s: ProcedureStep) => state.rounds.get(s.id) ?? 0;
  const cautions = [...new Set(open.flatMap((s) => s.caution ?? []))].filter((c) => !state.cautions.has(c));
  const understood = () =>
    say(
      ...cautions.map((caution) => ({
        ...({ kind: 'caution', caution } as const),
        step: open.find((s) => s.caution === caution)!.id,
      })),
    );
  const torques = plain.filter((s) => s.kind === 'torque');
  return (
    <li className="card grid gap-3 p-4">
      <p className="m-0 flex flex-wrap items-baseline gap-3">
        <span className="figure text-soft">
          {number} of {of}
        </span>
        <span className={`min-w-64 flex-1 ${open.length === 0 ? 'text-soft' : 'font-[650]'}`}>
          {steps.map((s, i) => (
            <span key={s.id} className={through(s) ? 'text-soft line-through' : ''}>
              {i > 0 && ' '}
              <Say text={s.text} />
            </span>
          ))}
        </span>
        {open.length === 0 && (
          <span className="flex items-center gap-2 text-soft">
            <Check size={18} aria-hidden /> through
          </span>
        )}
      </p>
      {torques.length > 0 && (
        <p className="m-0 text-soft">
          {torques.map((s) => {
            const { entered } = ownTorque(job, run.procedure, s);
            return (
              <span key={s.id} className="mr-4">
                <Say
                  text={said`${figure(entered?.value ?? s.torqueNm!, 'N·m', 1)} (${entered?.source ?? 'generic'})`}
                />
              </span>
            );
          })}
        </p>
      )}
      {cautions.length > 0 ? (
        <section
          aria-label={`Cautions of line ${number}`}
          className="alert alert-warning flex flex-col items-start gap-3 px-4 py-3"
        >
          {cautions.map((c) => (
            <p key={c} className="m-0 flex items-start gap-2 font-[650]">
              <TriangleAlert aria-hidden size={20} className="mt-[1px] shrink-0" />
              {CAUTIONS.find((x) => x.id === c)?.text}
            </p>
          ))}
          <button type="button" className="btn justify-self-start" disabled={busy} onClick={understood}>
            Understood
          </button>
        </section>
      ) : (
        open.filter(asks).map((s) => <Asked key={`${s.id} ${round(s)}`} {...props} step={s} />)
      )}
      {open.length > 0 && (
        <div className="flex flex-wrap items-start gap-3">
          {plain.length > 0 && (
            <button
              type="button"
              className="btn btn-primary btn-lg"
              disabled={busy || cautions.length > 0}
              onClick={() => say(...plain.map((s) => plainDone(s, round(s), ownTorque(job, run.procedure, s).entered)))}
            >
              {plain.length === open.length ? 'Done' : 'The rest of it is done'}
            </button>
          )}
          <button type="button" className="btn btn-lg" disabled={busy} onClick={() => setLeaving(!leaving)}>
            Leave out
          </button>
          {leaving && (
            <ReasonBox
              label="Why all that is open of this line is left out"
              button="Leave it out"
              keep={(reason) => {
                setLeaving(false);
                void say(...open.map((s) => ({ kind: 'skipped', step: s.id, round: round(s), reason }) as const));
              }}
            />
          )}
        </div>
      )}
    </li>
  );
}

/** A question of a line, under its own words. */
function Asked({ job, live, handle, step }: Line & { step: ProcedureStep }) {
  const Kind = ASKED[step.kind]!;
  const round = handle.state.rounds.get(step.id) ?? 0;
  return (
    <section className="grid gap-2 border-t border-rule pt-3">
      <h2 className="m-0 text-[1rem] font-[650]">
        <Say text={step.text} />
      </h2>
      <Kind
        job={job}
        live={live}
        handle={handle}
        step={step}
        done={(more) => void handle.say({ kind: 'done', step: step.id, round, ...more })}
      />
    </section>
  );
}
