import { WRITES } from '@just-balance/contract';
import {
  DIRT_SOURCES,
  foundGood,
  type Happened,
  type OpenAtEnd,
  openAtEnd,
  WORK_OF_KIND,
} from '@just-balance/core/procedures';
import { midSentence } from '@just-balance/core/units';
import { useState } from 'react';
import { newId } from '../../data/api.ts';
import { useDraft } from '../../data/drafts.ts';
import { waits } from '../../data/Outbox.ts';
import { useMay } from '../../data/session.tsx';
import { shopNow } from '../../data/shopClock.ts';
import { queueAll } from '../../data/writes.ts';
import type { StationProps } from '../../job/frame/station.ts';
import { Field } from '../../ui/Field.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';
import { OffList } from './OffAndOn.tsx';
import { Park } from './Park.tsx';
import type { RunHandle } from './useRun.ts';
import { WorkedFor } from './WorkedFor.tsx';

/** From this chance on a cause is what the work is taken to be for. [house] */
const CALLED_FOR = 0.5;

const OPEN_TITLE = {
  off: 'Something is still off the car',
  missing: 'Not everything went back on',
  'in there': 'Something is still in the engine bay',
} as const;
const RIGHTED = { off: 'It is back on', missing: 'All of them are on now', 'in there': 'It is out' } as const;

/** What was open is put right. */
function righted({ id, what }: OpenAtEnd): Happened {
  return what === 'in there' ? { kind: 'mishap-out', mishap: id } : { kind: 'refitted', item: id };
}

/** All steps are through: nothing is left off, tools are counted, and the dirt has a source. */
export function EndOfRun({ job, handle }: StationProps & { handle: RunHandle }) {
  const { state, run } = handle;
  const { procedure } = run;
  const { busy, trouble, run: act } = useAction();
  const items = openAtEnd(state);
  const [left, setLeft, forgetLeft] = useDraft<Record<string, string>>(`${run.id} left`, {});
  const [counted, setCounted] = useState(false);
  const [parking, setParking] = useState(false);
  const good = foundGood(procedure, state);
  const cleaned = procedure.kind === 'clean' && !state.stopped && !good;
  const [source, setSource] = useState(state.source?.source ?? '');
  const [repaired, setRepaired] = useState(state.source?.repaired ?? false);
  // Answered at its step it is not asked again.
  const [asks, setAsks] = useState(!state.source?.step);
  const dirt = DIRT_SOURCES.find((s) => s.id === source);
  const reasons = items.every((o) => left[o.id]?.trim());
  const ready = reasons && counted && (!cleaned || source !== '');
  // A learner's work is a run; that it was the repair is for somebody to say who may judge.
  const may = useMay('judge');
  const works = may && ['clean', 'replace', 'repair'].includes(procedure.kind) && !state.stopped && !good;
  // Chosen beforehand only where this very work is what the judgement calls for; a person sees it, and may take it back.
  const leads = job.diagnoses.at(-1)?.output.causes[0];
  const forFaults = procedure.for?.faults ?? [];
  const [fault, setFault] = useState(
    leads && leads.probability >= CALLED_FOR && forFaults.includes(leads.fault) ? leads.fault : '',
  );
  const finish = () =>
    act(async () => {
      const now = shopNow();
      const what: Happened[] = [
        ...(cleaned ? [{ kind: 'source', source, repaired } as const] : []),
        {
          kind: 'ended',
          counted,
          left: items.map((o) => ({ item: o.id, reason: left[o.id]!.trim().slice(0, 300) })),
        },
      ];
      const events = what.map((w) => ({ id: newId(), atMs: now, what: w }));
      const repair = {
        id: newId(),
        text: `${procedure.title}${dirt ? `. Source: ${midSentence(dirt.label)}${repaired ? ', repaired' : ''}` : ''}`,
        adaptation: 'relearn' as const,
        ...(WORK_OF_KIND[procedure.kind] ? { work: WORK_OF_KIND[procedure.kind] } : {}),
        run: run.id,
        ...(fault ? { fault } : {}),
        ...(procedure.for?.parts?.[0] ? { part: procedure.for.parts[0] } : {}),
      };
      await queueAll([
        waits('Service ended', WRITES.sayOfRun(job.id, run.id), { events }),
        ...(works ? [waits('Repair', WRITES.addRepair(job.id), repair)] : []),
      ]);
      forgetLeft();
    });
  const title = state.stopped
    ? `Stopped: ${state.stopped.then}`
    : items.length > 0
      ? OPEN_TITLE[items[0]!.what]
      : 'All steps are through';
  return (
    <>
      <NextStep
        tone={items.length > 0 ? 'trouble' : 'act'}
        title={title}
        why={
          items.length > 0
            ? 'Put it right, say why it stays so, or park the work until it can be.'
            : cleaned
              ? 'Count the tools, and name where the dirt came from: a cleaned part without its source found will be back.'
              : good
                ? 'It was found good: nothing is said to have been done to it. Count the tools out of the engine bay.'
                : 'Count the tools out of the engine bay.'
        }
      >
        <button
          type="button"
          className="btn btn-lg"
          disabled={handle.busy || state.way.length === 0}
          onClick={() => handle.say({ kind: 'reopened', step: state.way.at(-1)! })}
        >
          Back
        </button>
        <button type="button" className="btn btn-primary btn-lg" disabled={!ready || busy} onClick={finish}>
          Finish
        </button>
      </NextStep>
      <Problem trouble={trouble ?? handle.trouble} />
      <div className="grid items-start gap-3 lg:grid-cols-2">
        {items.length > 0 && (
          <section className="card grid gap-3 p-4">
            <h2 className="card-title">Still open</h2>
            {items.map((o) => (
              <div key={o.id} className="grid gap-2 border-b border-rule pb-3 last:border-b-0">
                {o.what === 'off' ? (
                  <OffList job={job} items={state.off.filter((x) => x.id === o.id)} />
                ) : (
                  <p className="m-0 font-[650]">
                    {o.what === 'missing' ? 'Missing' : 'Still in there'}: {o.text}
                  </p>
                )}
                <div className="flex flex-wrap items-end gap-3">
                  <button type="button" className="btn" onClick={() => handle.say(righted(o))}>
                    {RIGHTED[o.what]}
                  </button>
                  <Field
                    label={o.what === 'off' ? 'or why it stays off' : 'or what becomes of it'}
                    className="min-w-56 flex-1"
                  >
                    {(aria) => (
                      <input
                        className="input"
                        value={left[o.id] ?? ''}
                        onChange={(e) => setLeft({ ...left, [o.id]: e.target.value })}
                        {...aria}
                      />
                    )}
                  </Field>
                </div>
              </div>
            ))}
          </section>
        )}
        {items.length > 0 &&
          (parking ? (
            <Park handle={handle} close={() => setParking(false)} />
          ) : (
            <button type="button" className="btn justify-self-start" onClick={() => setParking(true)}>
              Park it
            </button>
          ))}
        <section className="card grid gap-3 p-4">
          <h2 className="card-title">Counted out</h2>
          <label className="flex min-h-12 items-center gap-3">
            <input
              type="checkbox"
              className="checkbox"
              checked={counted}
              onChange={(e) => setCounted(e.target.checked)}
            />
            Tools, rags, caps and loose wires are out of the engine bay
          </label>
          {procedure.tools.length > 0 && <p className="m-0 text-soft">{procedure.tools.join(' · ')}</p>}
        </section>
        {works && (
          <section className="card grid gap-3 p-4">
            <Field label="What was it done for?">
              {(aria) => (
                <WorkedFor
                  job={job}
                  only={forFaults.length > 0 ? forFaults : undefined}
                  value={fault}
                  onChange={(e) => setFault(e.target.value)}
                  {...aria}
                />
              )}
            </Field>
          </section>
        )}
        {cleaned && (
          <section className="card grid gap-3 p-4">
            <h2 className="card-title">Why was it dirty?</h2>
            {!asks && dirt && (
              <p className="m-0 flex flex-wrap items-center gap-3">
                <span className="font-[650]">{dirt.label}</span>
                <button type="button" className="btn" onClick={() => setAsks(true)}>
                  Something else
                </button>
              </p>
            )}
            {asks && (
              <fieldset className="m-0 grid gap-1 border-0 p-0">
                <legend className="sr-only">Source of the dirt</legend>
                {DIRT_SOURCES.map((s) => (
                  <label key={s.id} className="flex min-h-12 items-start gap-3 py-1">
                    <input
                      type="radio"
                      name="dirt"
                      className="radio mt-1"
                      checked={source === s.id}
                      onChange={() => setSource(s.id)}
                    />
                    <span>
                      <span className="font-[650]">{s.label}</span>
                      <span className="block text-[0.93rem] text-soft">{s.check}</span>
                    </span>
                  </label>
                ))}
              </fieldset>
            )}
            {dirt && dirt.left < 1 && dirt.id !== 'not-found' && (
              <label className="flex min-h-12 items-center gap-3 font-[650]">
                <input
                  type="checkbox"
                  className="checkbox"
                  checked={repaired}
                  onChange={(e) => setRepaired(e.target.checked)}
                />
                Repaired: {dirt.mend}
              </label>
            )}
            {dirt && !repaired && dirt.left < 1 && (
              <p className="m-0 text-caution">
                Left as it is, {Math.round(100 * dirt.left)} % of the chance that the cleaning holds is left. The
                hand-over says so.
              </p>
            )}
          </section>
        )}
      </div>
    </>
  );
}
