import { ROUTES } from '@just-balance/contract';
import { faultLabel } from '@just-balance/core/catalogue';
import { counted, midSentence } from '@just-balance/core/units';
import { format } from 'date-fns';
import { Link } from 'react-router';
import { useRead } from '../../data/reads.ts';

/** Of so many visits it is said what they were for. */
const TOLD = 2;

/** Of a vehicle that is known: whether it is in the shop already, and what it was here for before. */
export function KnownHere({ vehicle }: { vehicle: string }) {
  const { data } = useRead(ROUTES.vehicleHistory(vehicle));
  if (!data) return null;
  const open = data.visits.find((v) => v.status !== 'closed');
  const before = data.visits.filter((v) => v.status === 'closed').toSorted((a, b) => (a.at < b.at ? 1 : -1));
  const day = (at: string) => format(new Date(at), 'd MMM yyyy');
  return (
    <div className="grid gap-2" role="status">
      {open && (
        <div className="alert alert-warning flex flex-wrap items-center gap-3 px-4 py-3">
          <span className="flex-1">
            <strong className="font-[650]">A job is open on this car</strong> since {day(open.at)}. A new one stands
            beside it.
          </span>
          <Link className="btn" to={`/jobs/${open.job}`}>
            Go there
          </Link>
        </div>
      )}
      {before.length > 0 && (
        <p className="m-0 text-soft">
          Here {before.length === 1 ? 'once' : counted(before.length, 'time')}:{' '}
          {before
            .slice(0, TOLD)
            .map((v) =>
              [day(v.at), v.causes.map((c) => midSentence(faultLabel(c))).join(', ')].filter(Boolean).join(', '),
            )
            .join('; ')}
          .{' '}
          <Link className="link" to={`/vehicles/${vehicle}`}>
            All of it
          </Link>
        </p>
      )}
    </div>
  );
}
