import type { CameBackEntry } from '@just-balance/contract/service';
import { faultLabel } from '@just-balance/core/catalogue';
import { repairedFaults, standing, torquesOf } from '@just-balance/core/handOver';
import { chanceText, figure, midSentence, said } from '@just-balance/core/units';
import { format } from 'date-fns';
import { Link } from 'react-router';
import { useJob } from '../../data/job.ts';
import { Say } from '../../ui/preferences.tsx';
import { BeforeAfter } from './BeforeAfter.tsx';

/** The job that this one came back from, beside it: what was found, done, proven then. */
export function EarlierJob({ back: { job: id, note } }: { back: CameBackEntry }) {
  const { job, error } = useJob(id);
  if (!job)
    return <p className="m-0 text-soft">{error ? 'The job before cannot be read.' : 'Opening the job before…'}</p>;
  const first = job.diagnoses.at(-1)?.output.causes[0];
  const repaired = repairedFaults(job);
  const torques = torquesOf(job);
  const parts = standing<{ name: string; number?: string; make: string }>(job, 'part');
  return (
    <section className="card grid gap-3 p-4" aria-label="It came back: the job before">
      <div className="flex flex-wrap items-baseline justify-between gap-x-4">
        <h2 className="card-title">It came back: the job of {format(new Date(job.openedAt), 'd MMMM yyyy')}</h2>
        <Link to={`/jobs/${id}`}>Open the job before</Link>
      </div>
      {note && <p className="m-0">{note}</p>}
      <p className="m-0">
        {repaired.length > 0
          ? `Repaired then: ${repaired.map((f) => midSentence(faultLabel(f))).join(', ')}.`
          : job.repairs.some((r) => !r.undone)
            ? 'What the work was for is not written down.'
            : 'Nothing was repaired then.'}{' '}
        {first && `What fitted best then: ${midSentence(faultLabel(first.fault))} (${chanceText(first.probability)}).`}
      </p>
      <ul className="m-0 list-none p-0">
        {job.repairs
          .filter((r) => !r.undone)
          .map((r) => (
            <li key={r.id}>
              {r.text} <span className="text-soft">({r.by})</span>
            </li>
          ))}
      </ul>
      {torques.length > 0 && (
        <ul className="m-0 list-none p-0" aria-label="Tightened then">
          {torques.map(({ work, part, nm, source }) => (
            <li key={`${work} ${part}`}>
              Tightened: {part}, <Say text={said`${figure(nm, 'N·m', 1)}`} />{' '}
              <span className="text-soft">({source})</span>
            </li>
          ))}
        </ul>
      )}
      {parts.length > 0 && (
        <ul className="m-0 list-none p-0" aria-label="Parts fitted then">
          {parts.map((p) => (
            <li key={`${p.at} ${p.name}`}>
              Fitted: {[p.name, p.number, p.make].filter(Boolean).join(', ')}{' '}
              <span className="text-soft">({p.by})</span>
            </li>
          ))}
        </ul>
      )}
      <BeforeAfter job={job} />
    </section>
  );
}
