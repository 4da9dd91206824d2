import { ROUTES } from '@just-balance/contract';
import { STATION_LABELS, STATIONS } from '@just-balance/core/standing';
import { Check } from 'lucide-react';
import type { ReactNode } from 'react';
import { Link } from 'react-router';
import { useRead } from '../../data/reads.ts';
import { useAccount, useMay } from '../../data/session.tsx';

/** What a shop does on its first day, in this order, each with what it is for; what is done already is ticked. */
export function FirstDay() {
  const { shop } = useAccount();
  const lead = useMay('lead');
  const mayWork = useMay('work');
  const { data: people } = useRead(lead ? ROUTES.people : null);
  const { place, labour, tools, limits } = shop.settings;
  const steps: { done: boolean; title: string; to?: string; go?: string; why: ReactNode }[] = [
    { done: true, title: 'The shop and its first account', why: 'Yours: you are its lead.' },
    ...(lead
      ? [
          {
            done: (people?.length ?? 1) > 1,
            title: 'Who works here',
            to: '/people',
            go: 'Add a person',
            why: 'Each gets a link that works once; their name stands beside what they do.',
          },
          {
            done: Boolean(place ?? labour ?? tools ?? limits),
            title: 'Where it stands, and what it has',
            to: '/shop',
            go: 'Settings',
            why: 'Altitude, tools, what is done here: no test is offered that cannot be done.',
          },
        ]
      : []),
    ...(mayWork
      ? [
          {
            done: false,
            title: 'The first vehicle',
            to: '/new',
            go: 'Open a job',
            why: 'No car at hand? Take the one in bay 1, simulated: it answers as a car does, and has a fault worth finding.',
          },
        ]
      : []),
    {
      done: false,
      title: 'Cars with something hidden in them',
      to: '/practice',
      go: 'Practise',
      why: 'Find it in the fewest minutes; nothing of it counts for the shop.',
    },
  ];
  return (
    <section className="card grid gap-3 p-4" aria-labelledby="first-day">
      <h2 id="first-day" className="card-title">
        The first day
      </h2>
      <ol className="m-0 grid list-none gap-1 p-0">
        {steps.map((s, i) => (
          <li key={s.title} className="flex flex-wrap items-center gap-x-4 gap-y-1 border-b border-rule py-2">
            <span
              className={`grid size-8 shrink-0 place-items-center rounded-full font-bold ${s.done ? 'bg-act text-sheet' : 'border-2 border-rule'}`}
            >
              {s.done ? <Check size={18} aria-label="done" /> : i + 1}
            </span>
            <span className="min-w-52 flex-1">
              <span className="block font-[650]">{s.title}</span>
              <span className="text-soft">{s.why}</span>
            </span>
            {s.to && !s.done && (
              <Link to={s.to} className="btn">
                {s.go}
              </Link>
            )}
          </li>
        ))}
      </ol>
      <p className="m-0 text-soft">
        A job goes through seven stations: {STATIONS.map((s) => STATION_LABELS[s]).join(', ')}. What comes next is
        always said on the page. Jobs of another shop are read in on the <Link to="/logbook">Logbook</Link> page.
      </p>
    </section>
  );
}
