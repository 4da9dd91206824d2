import { ROUTES } from '@just-balance/contract';
import type { Wait } from '@just-balance/core/shop';
import { counted } from '@just-balance/core/units';
import { format, formatDistanceToNowStrict, isSameDay } from 'date-fns';
import { CalendarClock, Hourglass, Package } from 'lucide-react';
import { Link } from 'react-router';
import { useRead } from '../../data/reads.ts';
import { Plate } from '../../ui/Plate.tsx';
import { Say, useSay } from '../../ui/preferences.tsx';
import { useMinute } from '../../ui/useMinute.ts';

const LOOKS: readonly Wait['for'][] = ['trip', 'look-again'];

/** What a job waits for, and how long still; reminders of other days stand in their own list. */
export function Waits({ waits }: { waits: readonly Wait[] }) {
  const now = useMinute();
  const say = useSay();
  return waits
    .filter((w) => !LOOKS.includes(w.for))
    .map((w) => (
      <span
        key={`${w.for} ${w.until} ${say(w.what)}`}
        className="inline-flex max-w-full items-center gap-1.5 rounded-lg border border-soft px-2 py-0.5 text-[0.87rem] leading-snug font-[650] text-soft"
        title={say(w.what)}
      >
        {w.for === 'part' ? (
          <Package size={14} aria-hidden className="shrink-0" />
        ) : (
          <Hourglass size={14} aria-hidden className="shrink-0" />
        )}
        {waitText(w, say(w.what), now)}
      </span>
    ));
}

function waitText(w: Wait, named: string, now: Date): string {
  if (w.for === 'part') return `waits for ${named}${w.by ? ` (${w.by})` : ''}`;
  const until = new Date(w.until!);
  const what = w.for === 'soak' ? 'soaking' : 'timer';
  if (until <= now) return `${what} over`;
  return w.for === 'soak'
    ? `${what} until ${format(until, isSameDay(until, now) ? 'HH:mm' : 'd MMM HH:mm')}`
    : `${what}: ${formatDistanceToNowStrict(until)} left`;
}

/** Cars that somebody should look at again by tomorrow, handed over or not. */
export function Due() {
  const { data } = useRead(ROUTES.jobsDue, { refreshInterval: 60_000 });
  const now = useMinute();
  if (!data || data.length === 0) return null;
  return (
    <details className="card p-3">
      <summary className="flex min-h-11 w-fit cursor-pointer items-center gap-2 font-[650]">
        <CalendarClock size={18} aria-hidden /> {data.length} to look at again by tomorrow
      </summary>
      <ul className="m-0 grid list-none gap-1 p-0">
        {data.map((j) => {
          const look = j.waits.find((w) => LOOKS.includes(w.for));
          return (
            <li key={j.id} className="flex flex-wrap gap-x-4 gap-y-1 border-b border-rule py-2 last:border-b-0">
              <Plate of={j.plate} className="text-[0.9rem]" />
              <Link to={`/jobs/${j.id}`} className="font-[650]">
                {j.label}
                {j.note ? `, ${j.note}` : ''}
              </Link>
              {look?.until && (
                <span>
                  {new Date(look.until) < now ? 'since ' : ''}
                  {format(new Date(look.until), 'd MMM')}
                </span>
              )}
              <span className="text-soft">{look && <Say text={look.what} />}</span>
            </li>
          );
        })}
      </ul>
    </details>
  );
}

/** Parts that somebody has still to order, for whichever job. */
export function ToOrder() {
  const { data } = useRead(ROUTES.orders, { refreshInterval: 60_000 });
  const number = data?.filter((o) => o.is === 'wanted').length ?? 0;
  if (number === 0) return null;
  return (
    <Link to="/parts" className="card flex min-h-11 flex-row items-center gap-2 p-3 font-[650]">
      <Package size={18} aria-hidden /> {counted(number, 'part')} to order
    </Link>
  );
}
