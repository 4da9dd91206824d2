import { type LearnedView } from '@just-balance/contract';
import type { Finding } from '@just-balance/core/shop';
import { counted } from '@just-balance/core/units';
import { Say } from '../../ui/preferences.tsx';
import { FindingPicture } from './FindingPicture.tsx';
import { JobsBehind } from './Rows.tsx';
import { useChoice } from './useChoice.ts';

const SWITCH = {
  knownGood: 'Use our own figures where we have them',
  priors: 'Weigh causes as they come here',
  tests: 'Weigh tests by how they did here',
} as const;

/** What the shop's jobs say, in sentences that one can say aloud; each counted as a picture. */
export function Findings({ data, changed }: { data: LearnedView; changed: () => Promise<unknown> }) {
  const { findings, proven } = data.learned;
  if (findings.length === 0)
    return (
      <p className="card m-0 p-4 text-[1.1rem]">
        Nothing to say yet{proven > 0 ? `, of ${counted(proven, 'proven job')}` : ''}: a sentence needs ten jobs, and
        more than luck. It usually starts with known-good figures.
      </p>
    );
  return (
    <ul className="m-0 grid list-none gap-3 p-0 lg:grid-cols-3" aria-label="What the jobs say">
      {findings.map((f) => (
        <li key={f.id} className="card grid grid-rows-[auto_1fr_auto] gap-4 p-4">
          <h2 className="m-0 text-[1.45rem] leading-snug font-bold">
            <Say text={f.sentence} />
          </h2>
          <div className="grid content-start gap-3">
            <FindingPicture picture={f.picture} />
            <p className="m-0">
              <Say text={f.behind} />
            </p>
            <p className="m-0 text-soft">{f.doubt}</p>
          </div>
          <div className="grid gap-3">
            {f.uses && <UseIt data={data} uses={f.uses} changed={changed} />}
            <p className="m-0">
              <JobsBehind jobs={f.jobs}>The {counted(f.jobs.length, 'job')}</JobsBehind>
            </p>
          </div>
        </li>
      ))}
    </ul>
  );
}

function UseIt({
  data,
  uses,
  changed,
}: {
  data: LearnedView;
  uses: NonNullable<Finding['uses']>;
  changed: () => Promise<unknown>;
}) {
  const { lead, busy, set } = useChoice(changed);
  const on = data.choice[uses] === true;
  if (!lead) return <p className="m-0 text-soft">{on ? 'In use.' : 'Not in use: the lead chooses.'}</p>;
  return (
    <label className="flex min-h-12 items-center gap-3 font-[650]">
      <input
        type="checkbox"
        className="toggle"
        checked={on}
        disabled={busy}
        onChange={(e) => void set(uses, e.target.checked)}
      />
      {SWITCH[uses]}
    </label>
  );
}
