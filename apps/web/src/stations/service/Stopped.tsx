import type { RunHandle } from './useRun.ts';

/** The work as planned is over: why, and the way on with a new part. */
export function Stopped({ handle: { state, session, busy } }: { handle: RunHandle }) {
  const rule = state.stopped!;
  const next = session.withNewPart;
  return (
    <section role="alert" className="alert alert-warning flex flex-wrap items-center gap-x-6 gap-y-3 px-4 py-3">
      <p className="m-0 min-w-[240px] flex-1">
        <strong className="block font-[650]">
          Stop: {rule.if}. {rule.then}
        </strong>
        {rule.why} What is off goes back on, or the work goes on with the new part.
      </p>
      {next && (
        <button
          type="button"
          className="btn btn-primary"
          disabled={busy}
          onClick={() => void session.goOnWithNewPart()}
        >
          {next.title}
        </button>
      )}
    </section>
  );
}
