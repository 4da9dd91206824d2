import { ROUTES } from '@just-balance/contract';
import { midSentence } from '@just-balance/core/units';
import { formatDistanceToNowStrict } from 'date-fns';
import { Activity } from 'lucide-react';
import { Link } from 'react-router';
import { useRead } from '../../data/reads.ts';
import { captureLabel } from '../../job/judgement/figures.ts';

/** How often the board looks which captures run, ms. [house] */
const LOOK_MS = 5000;

/** What is being captured in the bays at this moment; one press watches it live. */
export function Running() {
  const { data } = useRead(ROUTES.capturesRunning, { refreshInterval: LOOK_MS });
  if (!data || data.length === 0) return null;
  return (
    <section className="card grid gap-1 p-3" aria-label="Being captured now">
      <ul className="m-0 grid list-none gap-1 p-0">
        {data.map((c) => (
          <li key={c.id} className="flex flex-wrap items-center gap-x-4 gap-y-1">
            <Activity size={18} aria-hidden className="text-act" />
            <span className="font-[650]">
              {c.label}
              {c.note ? `, ${c.note}` : ''}
            </span>
            <span>
              {midSentence(captureLabel(c.at))}, running for {formatDistanceToNowStrict(new Date(c.since))}
            </span>
            {c.hands && <span className="text-soft">{c.hands}</span>}
            <Link className="btn ml-auto" to={`/jobs/${c.job}/readings`} aria-label={`Watch ${c.label}`}>
              Watch
            </Link>
          </li>
        ))}
      </ul>
    </section>
  );
}
