import { ROUTES, WRITES } from '@just-balance/contract';
import { useState } from 'react';
import { mutate } from 'swr';
import { api } from '../../data/api.ts';
import { useMay } from '../../data/session.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';

/** A customer asks to be forgotten: the lead takes out what they are known by; the figures stay. Cannot be undone. */
export function Erase({ vehicleId }: { vehicleId: string }) {
  const lead = useMay('lead');
  const [reason, setReason] = useState('');
  const [sure, setSure] = useState(false);
  const [done, setDone] = useState<number | null>(null);
  const { busy, trouble, run } = useAction();
  if (!lead) return null;
  const erase = () =>
    run(async () => {
      const { jobs } = await api.send(WRITES.eraseVehicle(vehicleId), { reason: reason.trim() });
      setDone(jobs);
      await mutate(ROUTES.vehicleHistory(vehicleId));
    });
  return (
    <section className="card p-4">
      <Fold title="A customer asks to be forgotten">
        {done !== null ? (
          <p className="m-0" role="status">
            Erased in {done} {done === 1 ? 'job' : 'jobs'}.
          </p>
        ) : (
          <div className="grid max-w-[70ch] gap-3">
            <p className="m-0">
              Plate, VIN, notes, what was told and by whom, pictures and own words of the hand-over go from this vehicle
              and all its jobs. Figures, codes, tests, repairs and causes stay. Archives that were taken out before are
              not reached. It cannot be undone.
            </p>
            <label className="grid gap-1">
              <span className="text-[0.93rem] font-[550]">Who asked, and when</span>
              <input className="input" maxLength={300} value={reason} onChange={(e) => setReason(e.target.value)} />
            </label>
            <label className="flex min-h-12 items-center gap-3">
              <input type="checkbox" className="checkbox" checked={sure} onChange={(e) => setSure(e.target.checked)} />I
              have understood that it cannot be undone
            </label>
            <button
              type="button"
              className="btn btn-error w-fit"
              disabled={busy || !sure || reason.trim() === ''}
              onClick={erase}
            >
              Erase
            </button>
          </div>
        )}
        <Problem trouble={trouble} />
      </Fold>
    </section>
  );
}
