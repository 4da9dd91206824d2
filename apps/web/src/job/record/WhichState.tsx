import type { JobView, Phase } from '@just-balance/contract';
import { phaseNow } from '@just-balance/core/proof';
import { useSearchParams } from 'react-router';

const STATES: readonly (readonly [Phase, string])[] = [
  ['after', 'After the repair'],
  ['before', 'As it came in'],
];

/** Of which state of the car something is that is read or typed now: of the one it is in, unless a person says else. */
export function usePhase(job: JobView): Phase {
  const [asked] = useSearchParams();
  return asked.get('state') === 'as-it-came-in' ? 'before' : phaseNow(job);
}

/** The choice of it, once there is one; it stands in the address. */
export function WhichState({ job }: { job: JobView }) {
  const [, setAsked] = useSearchParams();
  const phase = usePhase(job);
  if (phaseNow(job) === 'before') return null;
  const choose = (next: Phase) =>
    setAsked(
      (before) => {
        if (next === 'before') before.set('state', 'as-it-came-in');
        else before.delete('state');
        return before;
      },
      { replace: true, preventScrollReset: true },
    );
  return (
    <section className="card flex flex-row flex-wrap items-center gap-x-6 gap-y-2 p-4">
      <p className="m-0 min-w-64 flex-1">
        {phase === 'after'
          ? 'There is a repair: what is read here is kept as the car is now, beside what it was.'
          : 'What is read or typed here is kept as the car was before the repair.'}
      </p>
      <div className="flex gap-2" role="group" aria-label="Which state of the car">
        {STATES.map(([id, label]) => (
          <button
            key={id}
            type="button"
            aria-pressed={phase === id}
            className={`btn ${phase === id ? 'btn-neutral' : ''}`}
            onClick={() => choose(id)}
          >
            {label}
          </button>
        ))}
      </div>
    </section>
  );
}
