import { ROUTES } from '@just-balance/contract';
import { PRECEDENCE, type Procedure, type ProcedureStep } from '@just-balance/core/procedures';
import { joined } from '@just-balance/core/units';
import { type ReactNode, useEffect, useRef, useState } from 'react';
import { useAt } from '../../data/live.tsx';
import { useRead } from '../../data/reads.ts';
import { useMay, useMe } from '../../data/session.tsx';
import type { StationProps } from '../../job/frame/station.ts';
import { May, MayChange } from '../../ui/May.tsx';
import { sameContent } from '../../ui/merge.ts';
import { Problem } from '../../ui/Problem.tsx';
import { useSay } from '../../ui/preferences.tsx';
import { speak } from '../../ui/speech.ts';
import { useSingleKeys } from '../../ui/useSingleKeys.ts';
import { AskedFor } from './AskedFor.tsx';
import { ACT, Docked, InDock, Inline } from './Dock.tsx';
import { DoneButton, Ways } from './DockButtons.tsx';
import { EndOfRun } from './EndOfRun.tsx';
import { InHand, inOthersHands } from './InHand.tsx';
import { MoreOfRun } from './MoreOfRun.tsx';
import { OffTheCar } from './OffTheCar.tsx';
import { Parked } from './Parked.tsx';
import { PartsOfRun } from './PartsOfRun.tsx';
import { RunHead } from './RunHead.tsx';
import { ShortRun } from './ShortRun.tsx';
import { StepBody } from './StepBody.tsx';
import { StepList } from './StepList.tsx';
import { KIND_HEADS, StepSentence } from './StepSentence.tsx';
import { Stopped } from './Stopped.tsx';
import { TwoAnswers } from './TwoAnswers.tsx';
import type { RunHandle } from './useRun.ts';

/** Whether this tablet shows works in short. */
const SHORT = 'jb-short-works';

/**
 * One step at a time, for a gloved hand: its sentence, and one large button at the foot. `beside`: ways to what a step may
 * need; `children`: what of it is open.
 */
export function RunScreen({
  job,
  live,
  handle,
  beside,
  children,
}: StationProps & { handle: RunHandle; beside?: ReactNode; children?: ReactNode }) {
  const words = useSay();
  const { run, state, trouble, session, looked: shown } = handle;
  const { procedure } = run;
  const [aloud, setAloud] = useState(false);
  const [listed, setListed] = useState(false);
  const step = state.current;
  const theirs = inOthersHands(handle, useMe().name);

  // Once a step and round, whatever comes in meanwhile from somebody else.
  const open = step && `${step.id} ${state.rounds.get(step.id) ?? 0}`;
  const spoken = useRef<string | null>(null);
  useEffect(() => {
    if (!aloud || !step || theirs) spoken.current = null;
    else if (spoken.current !== open) {
      spoken.current = open;
      speak(step.spoken ?? words(step.text));
    }
  }, [aloud, step, open, words, theirs]);

  useAt(step ? `Service: ${words(step.text)}` : 'Service');

  const [short, setShort] = useState(() => localStorage.getItem(SHORT) === 'on');
  const turnShort = () => {
    localStorage.setItem(SHORT, short ? 'off' : 'on');
    setShort(!short);
    window.scrollTo({ top: 0 });
  };
  // The next sentence is read from its beginning; in short they all stand open, and the page stays where it is.
  const at = useRef(open);
  useEffect(() => {
    if (at.current !== open && !short) window.scrollTo({ top: 0 });
    at.current = open;
  }, [open, short]);
  const may = useMay('work') && !theirs;
  const press = () => session.pressDone();
  const keys = { ' ': press, ArrowRight: press, ArrowLeft: () => void session.back() };
  useSingleKeys(short || !may ? {} : keys, true);

  if (state.status === 'parked')
    return (
      <>
        <MayChange>
          <Parked job={job} handle={handle} />
        </MayChange>
        <Asked handle={handle} />
      </>
    );
  if (!step)
    return (
      <>
        <MayChange>
          <EndOfRun job={job} live={live} handle={handle} />
        </MayChange>
        <Asked handle={handle} />
      </>
    );

  const one = !short && !shown;
  return (
    <Docked
      means={`${open} ${short} ${shown?.id ?? ''} ${cautioned(step, handle)}`}
      left={
        <Ways handle={handle} shown={shown !== null}>
          <MoreOfRun handle={handle} short={short} turnShort={turnShort} />
        </Ways>
      }
    >
      <RunHead
        handle={handle}
        aloud={aloud}
        setAloud={setAloud}
        listed={one || shown ? listed : null}
        setListed={setListed}
      />
      <Problem trouble={trouble} />
      <InHand handle={handle} live={live} />
      <OlderText procedure={procedure} />
      <Asked handle={handle} />
      <AskedFor handle={handle} />
      <div
        className={`grid grid-cols-[minmax(0,1fr)] items-start gap-3 ${short && !shown ? '' : 'lg:grid-cols-[minmax(0,1fr)_300px]'}`}
      >
        <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
          {short && !shown ? (
            <>
              <StepSentence text={procedure.title} why={procedure.purpose} />
              <MayChange>
                <Inline>
                  <ShortRun job={job} live={live} handle={handle} />
                </Inline>
              </MayChange>
            </>
          ) : (
            <section className="card grid gap-4 p-4 sm:p-6" aria-label={procedure.title}>
              <StepSentence
                kind={headOf(shown ?? step)}
                text={(shown ?? step).text}
                why={shown ? joined(['A step that is through.', shown.why ?? ''], ' ') : step.why}
              />
              {one && (
                <MayChange>
                  <StepBody
                    key={`${step.id} ${state.rounds.get(step.id) ?? 0}`}
                    job={job}
                    live={live}
                    handle={handle}
                    step={step}
                    done={(more) => void session.done(more)}
                  />
                </MayChange>
              )}
            </section>
          )}
        </div>
        <div className="grid grid-cols-[minmax(0,1fr)] gap-3">
          <MayChange>
            <OffTheCar job={job} handle={handle} />
            <PartsOfRun handle={handle} />
          </MayChange>
          {listed && !(short && !shown) && (
            <StepList procedure={procedure} state={state} shown={shown?.id ?? null} look={(id) => session.look(id)} />
          )}
          {beside}
        </div>
      </div>
      {children}
      <p className="m-0 text-[0.93rem] text-soft">{PRECEDENCE}</p>
      {shown ? (
        <InDock>
          <button type="button" className={ACT} onClick={() => session.look(null)}>
            To the open step
          </button>
        </InDock>
      ) : (
        !short &&
        session.hasDone &&
        cautioned(step, handle) && (
          <May>
            <InDock>
              <DoneButton fromMs={session.doneFromMs} press={press}>
                {step.kind === 'refit' ? 'It is back on' : step.kind === 'timer' ? 'Go on' : 'Done'}
              </DoneButton>
            </InDock>
          </May>
        )
      )}
    </Docked>
  );
}

/** What is done at it, and to what. */
const headOf = (s: ProcedureStep) => `${KIND_HEADS[s.kind]}${s.kind === 'take-off' ? `: ${s.item}` : ''}`;

/** Whether what guards the step was acknowledged, or nothing does. */
const cautioned = (step: ProcedureStep, { state }: RunHandle) =>
  step.caution === undefined || state.cautions.has(step.caution);

/** What is to be said before the work goes on: it was stopped, or two have answered one step. */
function Asked({ handle }: { handle: RunHandle }) {
  const { stopped, status } = handle.state;
  return (
    <MayChange>
      {stopped && status !== 'parked' && <Stopped handle={handle} />}
      <TwoAnswers handle={handle} />
    </MayChange>
  );
}

/** The text of a run is the one it was begun with: said where the shop has another by now. */
function OlderText({ procedure }: { procedure: Procedure }) {
  const { data } = useRead(ROUTES.procedures);
  const own = data?.find((p) => p.procedure.id === procedure.id && !p.undone);
  if (!own || sameContent(own.procedure, procedure)) return null;
  return (
    <p role="status" className="m-0">
      The shop’s text of this work has changed since it was begun: version {own.rev}, by {own.by}. Here it goes on as it
      was.
    </p>
  );
}
