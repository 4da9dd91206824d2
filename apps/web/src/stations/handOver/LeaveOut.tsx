import { type JobView, ROUTES, WRITES } from '@just-balance/contract';
import { useState } from 'react';
import { Link } from 'react-router';
import { api } from '../../data/api.ts';
import { useRead } from '../../data/reads.ts';
import { useMay } from '../../data/session.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';

/** Whether the shop learns from this job; the lead can leave a misleading one out, with a reason. */
export function LeaveOut({ job }: { job: JobView }) {
  const lead = useMay('lead');
  const asked = lead && !job.practice && (job.verdict === 'proven' || job.status === 'closed');
  const { data, mutate } = useRead(asked ? ROUTES.learned : null);
  const [reason, setReason] = useState('');
  const { busy, trouble, run } = useAction();
  if (!data) return null;
  const out = data.leftOut.some((l) => l.job === job.id);
  const set = (leftOut: boolean) =>
    run(async () => {
      const body = { leftOut, ...(reason.trim() ? { reason: reason.trim() } : {}) };
      await mutate(await api.send(WRITES.learnFrom(job.id), body), { revalidate: false });
    });
  return (
    <section className="card flex flex-row flex-wrap items-end justify-between gap-4 p-4 no-print">
      <p className="m-0">
        <strong className="font-[650]">Learning:</strong>{' '}
        {out ? 'this job is left out of what the shop learns.' : 'what is proven here counts in'}{' '}
        {!out && <Link to="/learned">what the shop has learned</Link>}
      </p>
      <div className="flex flex-wrap items-end gap-3">
        {!out && (
          <label className="grid gap-1">
            <span className="text-[0.93rem] font-[550]">Why leave it out</span>
            <input className="input" maxLength={300} value={reason} onChange={(e) => setReason(e.target.value)} />
          </label>
        )}
        <button
          type="button"
          className="btn"
          disabled={busy || (!out && reason.trim() === '')}
          onClick={() => set(!out)}
        >
          {out ? 'Take it in again' : 'Leave it out'}
        </button>
      </div>
      <Problem trouble={trouble} />
    </section>
  );
}
