import type { JobView } from '@just-balance/contract';
import { goesBackOn } from '@just-balance/core/procedures';
import { counted } from '@just-balance/core/units';
import { Press } from '../../ui/May.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { Say } from '../../ui/preferences.tsx';
import { OffList } from './OffAndOn.tsx';
import { PartsOfRun } from './PartsOfRun.tsx';
import type { RunHandle } from './useRun.ts';

/** A run that waits: for what, what is off, what is open, what is to be ordered. */
export function Parked({ job, handle }: { job: JobView; handle: RunHandle }) {
  const { state, run, say, busy, trouble } = handle;
  const items = goesBackOn(state);
  return (
    <>
      <NextStep
        tone="wait"
        title={`Parked: ${state.parked!.reason}`}
        why={`${run.procedure.title} · by ${state.parked!.by}`}
      >
        <Press className="btn btn-primary btn-lg" disabled={busy} onClick={() => say({ kind: 'resumed' })}>
          Go on
        </Press>
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
        <PartsOfRun handle={handle} />
      </div>
    </>
  );
}
