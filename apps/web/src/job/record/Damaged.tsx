import type { DamageView, JobView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { useState } from 'react';
import { said } from '../../data/api.ts';
import { write } from '../../data/writes.ts';
import { Press } from '../../ui/May.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';

const RESOURCES: Readonly<Record<string, string>> = {
  vehicle: 'The vehicle',
  complaint: 'The complaint',
  ambient: 'Pressure and air of the day',
  record: 'A record of codes and monitors',
  reading: 'A reading',
  test: 'A test result',
  repair: 'A repair',
  known: 'A better figure',
};

/** Rows of the job that cannot be read as they are stored: said, opened, mended. They are not judged meanwhile. */
export function Damaged({ job }: { job: JobView }) {
  return (
    <section className="card grid gap-3 border-2 border-caution p-4" aria-labelledby="damaged">
      <h2 id="damaged" className="card-title">
        {job.damaged.length === 1 ? 'One entry' : `${job.damaged.length} entries`} of this job cannot be read
      </h2>
      {job.damaged.map((d) => (
        <Mend key={`${d.resource}${d.id}`} job={job} damage={d} />
      ))}
    </section>
  );
}

function Mend({ job, damage }: { job: JobView; damage: DamageView }) {
  const [text, setText] = useState(() => JSON.stringify(damage.stored, null, 2));
  const [open, setOpen] = useState(false);
  const { busy, trouble, run } = useAction();
  const save = () =>
    run(async () => {
      let data: Record<string, unknown>;
      try {
        data = JSON.parse(text);
      } catch (e) {
        throw new Error(`This is not JSON: ${said(e)}`);
      }
      await write(WRITES.mend(job.id, damage.resource, damage.id), { data });
    });
  return (
    <div className="grid gap-2 border-t border-rule pt-2">
      <p className="m-0">
        <span className="font-[650]">{RESOURCES[damage.resource] ?? damage.resource}</span> is left out:{' '}
        {damage.problems
          .slice(0, 3)
          .map((p) => (p.field ? `${p.field}: ${p.message}` : p.message))
          .join('; ')}
        .
      </p>
      {!open ? (
        <Press needs="judge" className="btn justify-self-start" onClick={() => setOpen(true)}>
          Open it
        </Press>
      ) : (
        <>
          <label className="field">
            As it is stored
            <textarea
              className="textarea figure min-h-40 text-[0.9rem]"
              spellCheck={false}
              value={text}
              onChange={(e) => setText(e.target.value)}
            />
          </label>
          <button type="button" className="btn btn-primary justify-self-start" disabled={busy} onClick={save}>
            Keep it like this
          </button>
          <Problem trouble={trouble} />
        </>
      )}
    </div>
  );
}
