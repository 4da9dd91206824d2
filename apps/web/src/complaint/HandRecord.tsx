import { useState } from 'react';
import { mutate } from 'swr';
import { queuePost } from '../offline/queue.ts';
import { newId } from '../shared/api.ts';
import { Problem } from '../shared/Problem.tsx';
import { useAction } from '../shared/useAction.ts';

/** Codes and lamp as a tool without an adapter shows them. */
export function HandRecord({ jobId, done }: { jobId: string; done: () => void }) {
  const [stored, setStored] = useState('');
  const [pending, setPending] = useState('');
  const [permanent, setPermanent] = useState('');
  const [lampOn, setLampOn] = useState(false);
  const { busy, problem, run } = useAction();
  const codes = (s: string) =>
    s
      .toUpperCase()
      .split(/[\s,;]+/)
      .filter(Boolean);
  return (
    <form
      className="sheet grid gap-3 p-4 md:grid-cols-2"
      onSubmit={(e) => {
        e.preventDefault();
        void run(async () => {
          await queuePost(jobId, 'Record by hand', `/jobs/${jobId}/records/by-hand`, {
            id: newId(),
            phase: 'before',
            stored: codes(stored),
            pending: codes(pending),
            permanent: codes(permanent),
            lampOn,
          });
          await mutate(`/jobs/${jobId}`);
          done();
        });
      }}
    >
      <label className="field">
        Stored codes
        <input value={stored} onChange={(e) => setStored(e.target.value)} />
      </label>
      <label className="field">
        Pending codes
        <input value={pending} onChange={(e) => setPending(e.target.value)} />
      </label>
      <label className="field">
        Permanent codes
        <input value={permanent} onChange={(e) => setPermanent(e.target.value)} />
      </label>
      <label className="flex min-h-12 items-center gap-3 font-[550]">
        <input type="checkbox" className="checkbox" checked={lampOn} onChange={(e) => setLampOn(e.target.checked)} />
        Lamp is on
      </label>
      <button type="submit" className="press press-act" disabled={busy}>
        Keep this record
      </button>
      <Problem text={problem} />
    </form>
  );
}
