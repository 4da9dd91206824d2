import { ROUTES } from '@just-balance/contract';
import { PRECEDENCE, type Procedure } from '@just-balance/core/procedures';
import { Volume2, VolumeX } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { useAt } from '../../data/live.tsx';
import { useRead } from '../../data/reads.ts';
import { useMay, useMe } from '../../data/session.tsx';
import { shopNow } from '../../data/shopClock.ts';
import type { StationProps } from '../../job/frame/station.ts';
import { IconButton } from '../../ui/IconButton.tsx';
import { May, MayChange, Press } from '../../ui/May.tsx';
import { sameContent } from '../../ui/merge.ts';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useSay } from '../../ui/preferences.tsx';
import { speak, speaks } from '../../ui/speech.ts';
import { useSingleKeys } from '../../ui/useSingleKeys.ts';
import { EndOfRun } from './EndOfRun.tsx';
import { InHand, inOthersHands } from './InHand.tsx';
import { MishapForm } from './MishapForm.tsx';
import { OffTheCar } from './OffTheCar.tsx';
import { Park } from './Park.tsx';
import { Parked } from './Parked.tsx';
import { PartsOfRun } from './PartsOfRun.tsx';
import { ReasonBox } from './ReasonBox.tsx';
import { ShortRun } from './ShortRun.tsx';
import { StepBody } from './StepBody.tsx';
import { StepList } from './StepList.tsx';
import { Stopped } from './Stopped.tsx';
import { TwoAnswers } from './TwoAnswers.tsx';
import type { RunHandle } from './useRun.ts';

/** Whether this tablet shows works in short. */
const SHORT = 'jb-short-works';

/** One step at a time, for a gloved hand; the list beside it shows where one is. */
export function RunScreen({ job, live, handle }: StationProps & { handle: RunHandle }) {
  const words = useSay();
  const { run, state, busy, trouble, say, session, looked: shown, asking } = handle;
  const { procedure } = run;
  const [aloud, setAloud] = useState(false);
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

  const at = state.way.length + 1;
  const all = state.way.length + 1 + state.ahead.length + state.early.size;
  return (
    <>
      <NextStep
        title={shown ? shown.text : short ? procedure.title : step.text}
        why={
          <>
            {shown ? 'A step that is through. ' : ''}
            {short && !shown ? procedure.purpose : (shown ?? step).why}
            <span className="mt-1 block text-[0.93rem]">
              {short && !shown ? '' : `${procedure.title} · `}step {at} of {all}
            </span>
          </>
        }
      >
        {shown ? (
          <>
            <Press className="btn btn-lg" onClick={() => void session.again()}>
              Do it again
            </Press>
            <button type="button" className="btn btn-primary btn-lg" onClick={() => session.look(null)}>
              To the open step
            </button>
          </>
        ) : (
          <>
            <Press className="btn btn-lg" disabled={busy || state.way.length === 0} onClick={() => void session.back()}>
              Back
            </Press>
            {!short && (
              <Press className="btn btn-lg" disabled={busy} onClick={() => session.ask('skip')}>
                Skip
              </Press>
            )}
            {!short && session.hasDone && (
              <May>
                <DoneButton fromMs={session.doneFromMs} press={press} />
              </May>
            )}
          </>
        )}
      </NextStep>
      <Problem trouble={trouble} />
      <InHand handle={handle} live={live} />
      <OlderText procedure={procedure} />
      <Asked handle={handle} />
      {asking === 'skip' && (
        <section className="card p-4" aria-label="Skip this step">
          <ReasonBox label="Why this step is left out" button="Skip it" keep={(reason) => session.skip(reason)} />
        </section>
      )}
      {asking === 'mishap' && <MishapForm handle={handle} close={() => session.ask(null)} />}
      {asking === 'park' && <Park handle={handle} close={() => session.ask(null)} />}
      {asking === 'give-up' && (
        <section className="card p-4" aria-label="Give up">
          <p className="m-0 mb-2 text-soft">
            The run stays on record with all that was done, and can be taken up again.
          </p>
          <ReasonBox
            label="Why it is given up"
            button="Give it up"
            keep={(reason) => say({ kind: 'given-up', reason })}
          />
        </section>
      )}
      <div className={`grid items-start gap-3 ${short && !shown ? '' : 'lg:grid-cols-[300px_minmax(0,1fr)]'}`}>
        {!(short && !shown) && (
          <div className="order-2 lg:order-1">
            <StepList procedure={procedure} state={state} shown={shown?.id ?? null} look={(id) => session.look(id)} />
          </div>
        )}
        <div className="order-1 grid gap-3 lg:order-2">
          {!shown && short && (
            <MayChange>
              <ShortRun job={job} live={live} handle={handle} />
            </MayChange>
          )}
          {!shown && !short && (
            <section className="card p-4" aria-label={procedure.title}>
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
            </section>
          )}
          <MayChange>
            <OffTheCar job={job} handle={handle} />
            <PartsOfRun handle={handle} />
          </MayChange>
          <div className="flex flex-wrap items-center gap-3">
            {/* First: at the right edge of a phone its tooltip would widen the page. */}
            {speaks() && (
              <IconButton
                name={aloud ? 'Stop reading steps aloud' : 'Read steps aloud'}
                pressed={aloud}
                press={() => setAloud(!aloud)}
              >
                {aloud ? <Volume2 size={20} aria-hidden /> : <VolumeX size={20} aria-hidden />}
              </IconButton>
            )}
            <button type="button" className="btn" onClick={turnShort}>
              {short ? 'Step by step' : 'Short form'}
            </button>
            <Press className="btn" onClick={() => session.ask('park')}>
              Park it
            </Press>
            <Press className="btn" onClick={() => session.ask('mishap')}>
              Something broke or fell
            </Press>
            <Press className="btn" onClick={() => session.ask('give-up')}>
              Give up
            </Press>
          </div>
        </div>
      </div>
      <p className="m-0 text-[0.93rem] text-soft">{PRECEDENCE}</p>
    </>
  );
}

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

/** May be pressed once the moment has come; null: something else comes first. */
function DoneButton({ fromMs, press }: { fromMs: number | null; press: () => void }) {
  const [over, setOver] = useState(false);
  useEffect(() => {
    const left = fromMs === null ? null : fromMs - shopNow();
    setOver(left !== null && left <= 0);
    if (left === null || left <= 0) return;
    const timer = setTimeout(() => setOver(true), left);
    return () => clearTimeout(timer);
  }, [fromMs]);
  return (
    <button type="button" className="btn btn-primary btn-lg min-w-36" disabled={!over} onClick={press}>
      Done
    </button>
  );
}
