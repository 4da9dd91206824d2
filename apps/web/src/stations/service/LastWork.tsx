import type { RunView } from '@just-balance/contract';
import { orderIsOpen } from '@just-balance/core/procedures';
import { MayChange, Press } from '../../ui/May.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { PartsOfRun } from './PartsOfRun.tsx';
import { TwoAnswers } from './TwoAnswers.tsx';
import { useRun } from './useRun.ts';

/** The work that is over: why it was given up and the way back into it; what was written down after its end. */
export function LastWork({ jobId, run }: { jobId: string; run: RunView }) {
  const handle = useRun(jobId, run);
  const { givenUp } = handle.state;
  return (
    <>
      {givenUp && (
        <section className="card flex flex-row flex-wrap items-center gap-x-6 gap-y-3 p-4" aria-label="Given up">
          <p className="m-0 min-w-60 flex-1">
            <strong className="font-[650]">{run.procedure.title}</strong> was given up by {givenUp.by}: {givenUp.reason}
          </p>
          <Press className="btn" disabled={handle.busy} onClick={() => void handle.say({ kind: 'resumed' })}>
            Go on with it
          </Press>
        </section>
      )}
      <Problem trouble={handle.trouble} />
      {handle.state.orders.some(orderIsOpen) && <PartsOfRun handle={handle} />}
      <MayChange>
        <TwoAnswers handle={handle} />
      </MayChange>
    </>
  );
}
