import { goesBackOn, type Happened, PRECEDENCE, SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { counted } from '@just-balance/core/units';
import { Volume2, VolumeX } from 'lucide-react';
import { useEffect, useRef, useState } from 'react';
import { newId } from '../../data/api.ts';
import { ofJob } from '../../data/ofJob.ts';
import type { StationProps } from '../../job/station.ts';
import { IconButton } from '../../ui/IconButton.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say, usePreferences, useSay } from '../../ui/preferences.tsx';
import { speak, speaks } from '../../ui/speech.ts';
import { useAction } from '../../ui/useAction.ts';
import { EndOfRun } from './EndOfRun.tsx';
import { Park } from './Park.tsx';
import { ReasonBox } from './ReasonBox.tsx';
import { OffList, SAYS_DONE, StepBody } from './StepBody.tsx';
import { StepList } from './StepList.tsx';
import type { RunHandle } from './useRun.ts';

/** One step at a time, for a gloved hand; the list beside it shows where one is. */
export function RunScreen({ job, live, handle }: StationProps & { handle: RunHandle }) {
  const words = useSay();
  const { run, state, busy, trouble, say } = handle;
  const { procedure } = run;
  const [looked, setLooked] = useState<string | null>(null);
  const [asking, setAsking] = useState<'skip' | 'park' | 'give-up' | null>(null);
  const [aloud, setAloud] = useState(false);
  const step = state.current;
  const shown = looked === null ? null : procedure.steps.find((s) => s.id === looked);

  // Another step, here or on another tablet: what was looked at or skipped was the one before. Parking is half typed still.
  const current = step?.id;
  useEffect(() => {
    setLooked(null);
    setAsking((asked) => (asked === 'skip' ? null : asked));
  }, [current]);
  useEffect(() => {
    if (aloud && step) speak(step.spoken ?? words(step.text));
  }, [aloud, step, words]);

  const done = (more: Partial<Extract<Happened, { kind: 'done' }>> = {}) => {
    if (step) void say({ kind: 'done', step: step.id, round: state.rounds.get(step.id) ?? 0, ...more });
  };
  const back = () => {
    const before = state.way.at(-1);
    if (before !== undefined) void say({ kind: 'reopened', step: before });
  };
  const cautionOpen = step?.caution !== undefined && !state.cautions.has(step.caution);
  const timer = step?.kind === 'timer' ? state.timers.find((t) => t.step === step.id) : undefined;
  const mayDo = step !== null && !SAYS_DONE.has(step.kind) && !cautionOpen && !busy;
  const pressDone = () => {
    if (!mayDo) return;
    // A timer that still runs, or was never started, is done with a reason only: its own buttons ask for it.
    if (step.kind === 'timer' && !(timer && Date.now() >= timer.endsMs)) return;
    done();
  };
  useStepKeys({ ' ': pressDone, ArrowRight: pressDone, ArrowLeft: back });

  if (state.status === 'parked') return <Parked job={job} live={live} handle={handle} />;
  if (!step)
    return (
      <>
        <EndOfRun job={job} live={live} handle={handle} />
        {state.stopped && <Stopped job={job} live={live} handle={handle} />}
      </>
    );

  const at = state.way.length + 1;
  const all = state.way.length + 1 + state.ahead.length;
  return (
    <>
      <NextStep
        title={shown ? shown.text : step.text}
        why={
          <>
            {shown ? 'A step that is through. ' : ''}
            {(shown ?? step).why}
            <span className="mt-1 block text-[0.93rem]">
              {procedure.title} · step {at} of {all}
            </span>
          </>
        }
      >
        {shown ? (
          <>
            <button
              type="button"
              className="btn btn-lg"
              onClick={() => {
                setLooked(null);
                void say({ kind: 'reopened', step: shown.id });
              }}
            >
              Do it again
            </button>
            <button type="button" className="btn btn-primary btn-lg" onClick={() => setLooked(null)}>
              To the open step
            </button>
          </>
        ) : (
          <>
            <button type="button" className="btn btn-lg" disabled={busy || state.way.length === 0} onClick={back}>
              Back
            </button>
            <button
              type="button"
              className="btn btn-lg"
              disabled={busy}
              onClick={() => setAsking(asking === 'skip' ? null : 'skip')}
            >
              Skip
            </button>
            {!SAYS_DONE.has(step.kind) && <DoneButton handle={handle} may={mayDo} press={pressDone} />}
          </>
        )}
      </NextStep>
      <Problem trouble={trouble} />
      {state.stopped && <Stopped job={job} live={live} handle={handle} />}
      {asking === 'skip' && (
        <section className="card p-4" aria-label="Skip this step">
          <ReasonBox
            label="Why this step is left out"
            button="Skip it"
            keep={(reason) => say({ kind: 'skipped', step: step.id, round: state.rounds.get(step.id) ?? 0, reason })}
          />
        </section>
      )}
      {asking === 'park' && <Park handle={handle} close={() => setAsking(null)} />}
      {asking === 'give-up' && (
        <section className="card p-4" aria-label="Give up">
          <p className="m-0 mb-2 text-soft">
            The run stays on record with all that was done; nothing more can be added to it.
          </p>
          <ReasonBox
            label="Why it is given up"
            button="Give it up"
            keep={(reason) => say({ kind: 'given-up', reason })}
          />
        </section>
      )}
      <div className="grid items-start gap-3 lg:grid-cols-[300px_minmax(0,1fr)]">
        <div className="order-2 lg:order-1">
          <StepList procedure={procedure} state={state} shown={looked} look={setLooked} />
        </div>
        <div className="order-1 grid gap-3 lg:order-2">
          {!shown && (
            <section className="card p-4" aria-label={procedure.title}>
              <StepBody
                key={`${step.id} ${state.rounds.get(step.id) ?? 0}`}
                job={job}
                live={live}
                handle={handle}
                step={step}
                done={done}
              />
            </section>
          )}
          <OffTheCar job={job} live={live} handle={handle} />
          <div className="flex flex-wrap items-center gap-3">
            <button type="button" className="btn" onClick={() => setAsking(asking === 'park' ? null : 'park')}>
              Park it
            </button>
            <button type="button" className="btn" onClick={() => setAsking(asking === 'give-up' ? null : 'give-up')}>
              Give up
            </button>
            {speaks() && (
              <IconButton
                name={aloud ? 'Stop reading steps aloud' : 'Read steps aloud'}
                pressed={aloud}
                press={() => setAloud(!aloud)}
              >
                {aloud ? <Volume2 size={20} aria-hidden /> : <VolumeX size={20} aria-hidden />}
              </IconButton>
            )}
          </div>
        </div>
      </div>
      <p className="m-0 text-[0.93rem] text-soft">{PRECEDENCE}</p>
    </>
  );
}

function DoneButton({ handle, may, press }: { handle: RunHandle; may: boolean; press: () => void }) {
  const step = handle.state.current;
  const timer = step?.kind === 'timer' ? handle.state.timers.find((t) => t.step === step.id) : undefined;
  const waits = step?.kind === 'timer';
  const [over, setOver] = useState(false);
  useEffect(() => {
    setOver(timer !== undefined && Date.now() >= timer.endsMs);
    if (!timer) return;
    const left = setTimeout(() => setOver(true), Math.max(0, timer.endsMs - Date.now()));
    return () => clearTimeout(left);
  }, [timer]);
  return (
    <button
      type="button"
      className="btn btn-primary btn-lg min-w-36"
      disabled={!may || (waits && !over)}
      onClick={press}
    >
      Done
    </button>
  );
}

/** What is off, last first, and a way to add what the procedure does not know. */
function OffTheCar({ job, handle }: StationProps & { handle: RunHandle }) {
  const [adding, setAdding] = useState(false);
  const items = goesBackOn(handle.state);
  return (
    <section className="card p-4" aria-label="Off the car">
      <div className="flex items-center justify-between gap-3">
        <h2 className="card-title">Off the car{items.length > 0 ? `: ${items.length}` : ''}</h2>
        <button type="button" className="btn btn-sm" onClick={() => setAdding(!adding)}>
          Something else came off
        </button>
      </div>
      {items.length === 0 ? (
        <p className="m-0 mt-1 text-soft">Nothing.</p>
      ) : (
        <div className="mt-2">
          <OffList job={job} items={items} />
        </div>
      )}
      {adding && (
        <div className="mt-3">
          <ReasonBox
            label="What came off: part, fasteners, where they are kept"
            button="Write it down"
            keep={(item) => {
              setAdding(false);
              void handle.say({ kind: 'took-off', taken: { item: item.slice(0, 120) } });
            }}
          />
        </div>
      )}
    </section>
  );
}

/** The work as planned is over: why, and the way on with a new part. */
function Stopped({ job, handle }: StationProps & { handle: RunHandle }) {
  const { state, run } = handle;
  const { run: act, busy, trouble } = useAction();
  const rule = state.stopped!;
  const parts = run.procedure.for?.parts ?? [];
  const next =
    run.procedure.kind === 'replace'
      ? undefined
      : SHIPPED_PROCEDURES.find((p) => p.kind === 'replace' && p.for?.parts?.some((x) => parts.includes(x)));
  const goOn = () =>
    act(async () => {
      if (!next) return;
      const left = goesBackOn(state);
      const reason = `goes on with “${next.title}”`;
      const id = newId();
      const now = Date.now();
      const what = (w: Happened) => ({ id: newId(), atMs: now, what: w });
      // What is off already is off in the new run too, with what was written about it.
      const carried = next.steps
        .filter((s) => s.kind === 'take-off' && left.some((o) => o.item === s.item))
        .map((s) => {
          const { count, detail, hidden, photo } = left.find((o) => o.item === s.item)!;
          const taken = { ...(count ? { count } : {}), ...(detail ? { detail } : {}), ...(hidden ? { hidden } : {}) };
          return what({ kind: 'done', step: s.id, round: 0, taken, note: 'off already', ...(photo ? { photo } : {}) });
        });
      const ended = what({ kind: 'ended', left: left.map((o) => ({ item: o.id, reason })), counted: false });
      await ofJob(job.id).queueAll([
        { label: 'Service ended', path: `/runs/${run.id}/events`, body: { events: [ended] } },
        { label: next.title, path: '/runs', body: { id, procedure: next } },
        ...(carried.length > 0
          ? [{ label: 'Off already', path: `/runs/${id}/events`, body: { events: carried } }]
          : []),
      ]);
    });
  return (
    <section role="alert" className="alert alert-warning flex flex-wrap items-center gap-x-6 gap-y-3 px-4 py-3">
      <p className="m-0 min-w-[240px] flex-1">
        <strong className="block font-[650]">
          Stop: {rule.if}. {rule.then}
        </strong>
        {rule.why} What is off goes back on, or the work goes on with the new part.
      </p>
      {next && (
        <button type="button" className="btn btn-primary" disabled={busy} onClick={goOn}>
          {next.title}
        </button>
      )}
      <Problem trouble={trouble} />
    </section>
  );
}

function Parked({ job, handle }: StationProps & { handle: RunHandle }) {
  const { state, run, say, busy, trouble } = handle;
  const items = goesBackOn(state);
  return (
    <>
      <NextStep
        tone="wait"
        title={`Parked: ${state.parked!.reason}`}
        why={`${run.procedure.title} · by ${state.parked!.by}`}
      >
        <button
          type="button"
          className="btn btn-primary btn-lg"
          disabled={busy}
          onClick={() => say({ kind: 'resumed' })}
        >
          Go on
        </button>
      </NextStep>
      <Problem trouble={trouble} />
      <div className="grid items-start gap-3 lg:grid-cols-3">
        <section className="card p-4">
          <h2 className="card-title">Off the car</h2>
          <div className="mt-2">
            {items.length > 0 ? <OffList job={job} items={items} /> : <p className="m-0 text-soft">Nothing.</p>}
          </div>
        </section>
        <section className="card p-4">
          <h2 className="card-title">Open</h2>
          <p className="m-0 mt-2">
            <Say text={state.current?.text ?? 'The end of the run.'} />
          </p>
          <p className="m-0 text-soft">{counted(state.ahead.length, 'step')} after it.</p>
        </section>
        <section className="card p-4">
          <h2 className="card-title">To order</h2>
          <ul className="m-0 mt-2 list-none p-0">
            {state.parked!.toOrder.map((p) => (
              <li key={p}>{p}</li>
            ))}
            {state.parked!.toOrder.length === 0 && <li className="text-soft">Nothing.</li>}
          </ul>
        </section>
      </div>
    </>
  );
}

/** Space and arrows, unless something that takes them has the focus. */
function useStepKeys(handlers: Record<string, () => void>): void {
  const { keys } = usePreferences();
  const latest = useRef(handlers);
  latest.current = handlers;
  useEffect(() => {
    if (!keys) return;
    const onKey = (e: KeyboardEvent) => {
      const target = e.target as HTMLElement | null;
      if (e.ctrlKey || e.metaKey || e.altKey || e.shiftKey) return;
      if (target?.closest('input, textarea, select, button, a, summary, [role="tab"], [contenteditable], dialog'))
        return;
      const handler = latest.current[e.key];
      if (!handler) return;
      e.preventDefault();
      handler();
    };
    window.addEventListener('keydown', onKey);
    return () => window.removeEventListener('keydown', onKey);
  }, [keys]);
}
