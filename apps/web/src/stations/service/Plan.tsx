import { ROUTES, WRITES } from '@just-balance/contract';
import {
  CAUTIONS,
  goesBackOn,
  missingTools,
  NOT_DONE,
  type Procedure,
  type Proposal,
  SHIPPED_PROCEDURES,
  servicePlan,
  suits,
  waitingMinutes,
} from '@just-balance/core/procedures';
import { counted } from '@just-balance/core/units';
import { useMemo, useState } from 'react';
import { newId } from '../../data/api.ts';
import { useRead } from '../../data/reads.ts';
import { useAccount } from '../../data/session.tsx';
import { queueWrite } from '../../data/writes.ts';
import type { StationProps } from '../../job/frame/station.ts';
import { Combobox } from '../../ui/Combobox.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { Press } from '../../ui/May.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say, useSay } from '../../ui/preferences.tsx';
import { useAction } from '../../ui/useAction.ts';
import { runsOf } from './useRun.ts';

const KIND_WORDS: Readonly<Record<Procedure['kind'], string>> = {
  clean: 'clean',
  replace: 'replace',
  repair: 'repair',
  inspect: 'look',
  check: 'check',
  relearn: 'relearn',
};

/** Ours and the shop's; one of the shop's stands before the one it was copied from. */
export function useProcedures(): readonly Procedure[] {
  const { data } = useRead(ROUTES.procedures);
  return useMemo(() => {
    const own = (data ?? []).filter((p) => !p.undone);
    return [...own.map((p) => p.procedure), ...SHIPPED_PROCEDURES];
  }, [data]);
}

/** What the judgement proposes, for this job. */
export function useServicePlan(job: StationProps['job'], procedures: readonly Procedure[]): Proposal[] {
  return useMemo(() => {
    const judged = job.diagnoses.at(-1)?.output;
    return servicePlan({
      vehicle: job.vehicle,
      causes: judged?.causes ?? [],
      condemned: judged?.condemned ?? [],
      tests: job.tests.filter((t) => !t.undone && t.phase === 'before').map((t) => t.test),
      decided: job.entries.flatMap((e) => (e.kind === 'decision' && !e.undone ? [e.data] : [])),
      procedures,
      maintenance: job.complaint.symptoms.every((s) => s === 'none'),
      done: runsOf(job).over.map(({ run, state }) => ({
        procedure: run.procedure.id,
        stopped: state.stopped?.if ?? null,
      })),
    });
  }, [job, procedures]);
}

export function useBegin(jobId: string) {
  const { busy, trouble, run } = useAction();
  const begin = (procedure: Procedure) =>
    run(async () => {
      await queueWrite(procedure.title, WRITES.beginRun(jobId), { id: newId(), procedure });
    });
  return { busy, trouble, begin };
}

/** The work in the order it is best done, and any other by its name. */
export function Plan({ job }: StationProps) {
  const procedures = useProcedures();
  const plan = useServicePlan(job, procedures);
  const { busy, trouble, begin } = useBegin(job.id);
  const [other, setOther] = useState<Procedure | null>(null);
  const { over } = runsOf(job);
  const suited = procedures.filter((p) => suits(p, job.vehicle));
  return (
    <div className="grid gap-4">
      <Problem trouble={trouble} />
      {plan.length === 0 && (
        <p className="m-0 text-soft">
          {job.diagnoses.length === 0
            ? 'No judgement yet: with readings the plan comes from it. Any procedure can be chosen below.'
            : 'The judgement proposes no work of its own. Any procedure can be chosen below.'}
        </p>
      )}
      <ol className="m-0 grid list-none gap-3 p-0">
        {plan.slice(0, 5).map((p, i) => (
          <li key={p.procedure.id} className="grid gap-2 border-b border-rule pb-3 last:border-b-0">
            <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
              <span
                aria-hidden
                className="grid size-8 place-items-center rounded-full border-2 border-rule font-bold text-soft"
              >
                {i + 1}
              </span>
              <span className="min-w-60 flex-1">
                <span className="text-[1.1rem] font-[650]">{p.procedure.title}</span>{' '}
                <span className="badge badge-outline">{KIND_WORDS[p.procedure.kind]}</span>
                <span className="block text-soft">
                  <Say text={p.why} />
                </span>
                {p.open.length > 0 && (
                  <span className="block text-caution">Still to be ruled out first: {p.open.join(', ')}.</span>
                )}
              </span>
              <Minutes procedure={p.procedure} />
              <Press
                className={`btn ${i === 0 ? 'btn-primary' : ''}`}
                disabled={busy}
                onClick={() => begin(p.procedure)}
              >
                Begin
              </Press>
            </div>
            <Needs procedure={p.procedure} open={i === 0} />
          </li>
        ))}
      </ol>
      <div className="flex flex-wrap items-end gap-3">
        <Combobox
          label="Another procedure"
          all={suited}
          textOf={(p) => `${p.title} (${p.minutes + waitingMinutes(p)} min)`}
          keyOf={(p) => p.id}
          chosen={other}
          choose={setOther}
          placeholder="part of its name"
          className="min-w-72 flex-1"
        />
        <Press className="btn" disabled={!other || busy} onClick={() => other && begin(other)}>
          Begin it
        </Press>
      </div>
      {other && <Needs procedure={other} open />}
      {over.length > 0 && (
        <section>
          <h2 className="card-title">Done on this job</h2>
          <ul className="m-0 mt-1 grid list-none gap-1 p-0">
            {over.map(({ run, state }) => (
              <li key={run.id} className="flex flex-wrap items-baseline gap-x-3">
                <span className="font-[650]">{run.procedure.title}</span>
                <span className="text-soft">
                  {state.givenUp
                    ? `given up: ${state.givenUp.reason}`
                    : state.stopped
                      ? `stopped: ${state.stopped.if}`
                      : `ended by ${state.ended!.by}`}
                  {goesBackOn(state).length > 0 &&
                    ` · left off: ${goesBackOn(state)
                      .map((o) => o.item)
                      .join(', ')}`}
                  {[...state.results.values()].some((r) => r.kind === 'skipped') &&
                    ` · ${counted([...state.results.values()].filter((r) => r.kind === 'skipped').length, 'step')} left out`}
                </span>
              </li>
            ))}
          </ul>
        </section>
      )}
    </div>
  );
}

/** How long it takes: what it waits by itself is time too. */
function Minutes({ procedure }: { procedure: Procedure }) {
  const waiting = waitingMinutes(procedure);
  return (
    <span className="text-right text-soft">
      <span className="figure">{procedure.minutes + waiting} min</span>
      {waiting > 0 && <span className="block text-[0.85rem]">{waiting} of them waiting</span>}
    </span>
  );
}

/** What must be at hand, what must be known, before step 1. */
function Needs({ procedure, open }: { procedure: Procedure; open?: boolean }) {
  const say = useSay();
  const { shop } = useAccount();
  const missing = missingTools(procedure, shop.settings.tools);
  const notDone = NOT_DONE.filter((n) => n.procedures.includes(procedure.id));
  const list = (title: string, items: readonly string[]) =>
    items.length > 0 && (
      <div>
        <h2 className="m-0 text-[0.9rem] font-[650] text-soft">{title}</h2>
        <ul className="m-0 list-none p-0">
          {items.map((x) => (
            <li key={x}>{x}</li>
          ))}
        </ul>
      </div>
    );
  return (
    <Fold title="What it needs" open={open ?? false}>
      <p className="m-0 mb-2">{procedure.purpose}</p>
      {missing.length > 0 && (
        <p className="m-0 mb-2 font-[650] text-caution">The shop does not own: {missing.join(', ')}.</p>
      )}
      <div className="grid gap-x-6 gap-y-3 sm:grid-cols-2 xl:grid-cols-4">
        {list('Tools', procedure.tools)}
        {list('Materials', procedure.materials)}
        {list(
          'Parts to have at hand',
          procedure.parts.map((p) => (p.oneTime ? `${p.name} (once only)` : p.name)),
        )}
        {list(
          'Cautions',
          procedure.cautions.map((c) => CAUTIONS.find((x) => x.id === c)?.text ?? c),
        )}
        {list('When', procedure.when.map(say))}
        {list('When not', procedure.notWhen.map(say))}
        {notDone.length > 0 && (
          <div className="sm:col-span-2">
            <h2 className="m-0 text-[0.9rem] font-[650] text-soft">Done by some, not here</h2>
            <ul className="m-0 list-none p-0">
              {notDone.map((n) => (
                <li key={n.what}>
                  {n.what}: {lower(n.why)}
                </li>
              ))}
            </ul>
          </div>
        )}
      </div>
    </Fold>
  );
}

const lower = (text: string) => text.charAt(0).toLowerCase() + text.slice(1);
