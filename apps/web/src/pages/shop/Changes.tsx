import { ROUTES } from '@just-balance/contract';
import { trailSentence } from '@just-balance/core/job';
import { format } from 'date-fns';
import { Link } from 'react-router';
import { useRead } from '../../data/reads.ts';
import { useMay } from '../../data/session.tsx';
import { Say } from '../../ui/preferences.tsx';

/** How many changes are shown here; the others stand under Who did what. [house] */
const CHANGES = 5;

/** The newest changes of the shop as sentences, for a lead. */
export function Changes() {
  const lead = useMay('lead');
  const { data } = useRead(lead ? ROUTES.shopChanges : null);
  if (!data) return null;
  return (
    <section className="card grid gap-2 p-4" aria-labelledby="changes">
      <h2 id="changes" className="card-title">
        Who changed what
      </h2>
      {data.length === 0 && <p className="m-0 text-soft">Nothing was changed yet.</p>}
      <ul className="m-0 list-none p-0">
        {data.slice(0, CHANGES).map((c) => (
          <li key={c.id}>
            <span className="figure text-soft">{format(new Date(c.at), 'd MMM yyyy, HH:mm')}</span>{' '}
            <Say text={trailSentence(c.by, c.kind, c.data)} />
          </li>
        ))}
      </ul>
      <Link to="/audit?kind=shop">All of it</Link>
    </section>
  );
}
