import { type LearnedView, WRITES } from '@just-balance/contract';
import { Link } from 'react-router';
import { api } from '../../data/api.ts';
import { useMay } from '../../data/session.tsx';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';

export function LeftOut({
  data,
  changed,
}: {
  data: LearnedView;
  changed: (now: LearnedView, o: { revalidate: boolean }) => Promise<unknown>;
}) {
  const lead = useMay('lead');
  const { busy, trouble, run } = useAction();
  if (data.leftOut.length === 0 && !lead) return null;
  const takeIn = (job: string) =>
    run(async () => {
      await changed(await api.send(WRITES.learnFrom(job), { leftOut: false }), { revalidate: false });
    });
  return (
    <section className="card grid gap-2 p-4" aria-labelledby="left-out">
      <h2 id="left-out" className="card-title">
        Left out
      </h2>
      {data.leftOut.length === 0 && (
        <p className="m-0 text-soft">No job is left out. The lead leaves one out at its hand-over.</p>
      )}
      <ul className="m-0 grid list-none gap-2 p-0">
        {data.leftOut.map((j) => (
          <li key={j.job} className="flex flex-wrap items-center justify-between gap-3">
            <Link to={`/jobs/${j.job}`}>{j.label}</Link>
            {lead && (
              <button type="button" className="btn" disabled={busy} onClick={() => takeIn(j.job)}>
                Take it in again
              </button>
            )}
          </li>
        ))}
      </ul>
      <Problem trouble={trouble} />
    </section>
  );
}
