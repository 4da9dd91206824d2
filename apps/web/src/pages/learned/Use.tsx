import { type LearnedView } from '@just-balance/contract';
import { PRIOR_STRENGTH, TEST_STRENGTH } from '@just-balance/core/shop';
import { counted } from '@just-balance/core/units';
import { Problem } from '../../ui/Problem.tsx';
import { useChoice } from './useChoice.ts';

const CHOICES = [
  {
    id: 'knownGood',
    label: 'Known-good figures',
    why: 'Expected values show the band of proven engines of the same family, and say so.',
  },
  {
    id: 'priors',
    label: 'Causes',
    why: `What is proven here moves the starting weights; ours count as ${PRIOR_STRENGTH} jobs.`,
  },
  {
    id: 'tests',
    label: 'Tests',
    why: `How often a test was right here moves what its results weigh; ours count as ${TEST_STRENGTH} results, and no chance moves by more than three times.`,
  },
] as const;

/** What of it is used, by the lead's choice; taken away again it leaves nothing behind. */
export function Use({ data, changed }: { data: LearnedView; changed: () => Promise<unknown> }) {
  const { lead, busy, trouble, set } = useChoice(changed);
  return (
    <section className="card grid gap-3 p-4" aria-labelledby="use">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 id="use" className="card-title">
          Used in the weighing
        </h2>
        <span className="text-soft">
          {data.inUse ? `from ${counted(data.inUse.jobs, 'proven job')}` : 'nothing: our own starting figures alone'}
        </span>
      </div>
      <div className="grid gap-3 md:grid-cols-3">
        {CHOICES.map((c) => (
          <label key={c.id} className="flex min-h-12 items-start gap-3">
            <input
              type="checkbox"
              className="toggle mt-1"
              checked={data.choice[c.id] === true}
              disabled={!lead || busy}
              onChange={(e) => void set(c.id, e.target.checked)}
            />
            <span>
              <span className="font-[650]">{c.label}</span>
              <span className="block text-[0.93rem] text-soft">{c.why}</span>
            </span>
          </label>
        ))}
      </div>
      {!lead && <p className="m-0 text-soft">Chosen by the lead.</p>}
      <Problem trouble={trouble} />
    </section>
  );
}
