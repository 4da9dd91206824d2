import { type JobView, ROUTES } from '@just-balance/contract';
import { toolProfile } from '@just-balance/core/capture';
import { idInWords } from '@just-balance/core/units';
import { changeHead } from '../../data/jobHead.ts';
import type { JobLive } from '../../data/live.tsx';
import { useRead } from '../../data/reads.ts';
import { DeviceAdapter } from '../../link/DeviceAdapter.tsx';
import { EngineUnit } from '../../link/EngineUnit.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';

const ADAPTER = toolProfile('adapter')!;

/** Which adapter this job is asked through. */
export function AdapterChoice({ job, live }: { job: JobView; live: JobLive }) {
  const shop = live.atDevice ? null : job.adapter;
  const { data } = useRead(ROUTES.adapters);
  const { problem, run } = useAction();
  const choose = (adapter: string) => run(() => changeHead(job, { adapter }));
  return (
    <section className="card grid gap-2 p-4">
      <label className="field">
        Adapter
        <select className="select" value={shop ?? ''} disabled={live.atDevice} onChange={(e) => choose(e.target.value)}>
          <option value="" disabled>
            None: readings by hand
          </option>
          {data?.map((a) => (
            <option key={a.address} value={a.address}>
              {a.label}
            </option>
          ))}
        </select>
      </label>
      {shop && (
        <p className="m-0 text-[0.93rem] text-soft">
          About {ADAPTER.manyHz} values a second of each of a dozen channels, {ADAPTER.aloneHz} of one alone. Reads{' '}
          {ADAPTER.can.map(idInWords).join(', ')}.
        </p>
      )}
      <Problem text={problem} />
      <EngineUnit jobId={job.id} live={live} />
      <DeviceAdapter jobId={job.id} detail={live.atDevice ? live.link?.detail : undefined} />
    </section>
  );
}
