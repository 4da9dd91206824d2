import type { JobView } from '@just-balance/contract';
import { attemptTotals, CONDITION_NAMES, type DriveAttempt, stepWords } from '@just-balance/core/readiness';
import { midSentence } from '@just-balance/core/units';
import { format } from 'date-fns';
import { useAttempts, useDriveProcedures } from '../../job/work/drives.tsx';
import { Fold } from '../../ui/Fold.tsx';
import { Quantity, Say, useSay } from '../../ui/preferences.tsx';

/** Drives of this vehicle so far, with distance: some need over a thousand kilometres. */
export function Attempts({ job }: { job: JobView }) {
  const { data } = useAttempts(job.vehicle.id);
  const procedures = useDriveProcedures();
  const say = useSay();
  // Those of this job stand in it already, before the list has been read again.
  const kept = [
    ...(data ?? []),
    ...job.entries.flatMap((e) =>
      e.kind === 'drive' && !e.undone && !data?.some((d) => d.id === e.id)
        ? [{ id: e.id, at: e.at, jobId: job.id, attempt: e.data }]
        : [],
    ),
  ];
  if (kept.length === 0) return null;
  const totals = attemptTotals(kept.map((k) => k.attempt));
  const title = (id: string) => procedures.find((p) => p.id === id)?.title ?? id;
  /** A condition or a step, as a person calls it. */
  const called = (of: DriveAttempt['procedure'], what: string): string => {
    const condition = (CONDITION_NAMES as Readonly<Record<string, string>>)[what];
    const procedure = procedures.find((p) => p.id === of);
    if (condition) return midSentence(condition);
    return procedure ? say(stepWords(procedure, what)) : what.replaceAll('-', ' ');
  };
  const best = totals.best === null ? null : kept[totals.best]!;
  return (
    <section className="card grid gap-2 p-4" aria-label="Drives so far">
      <h2 className="card-title">
        {totals.count === 1 ? 'One drive' : `${totals.count} drives`} so far,{' '}
        <Quantity value={totals.distanceKm} unit="km" digits={0} />
      </h2>
      {best && (
        <p className="m-0">
          Best: {format(new Date(best.at), 'd MMM')}, {title(best.attempt.procedure)},{' '}
          {best.attempt.done.length === 1 ? 'one step' : `${best.attempt.done.length} steps`} done.
        </p>
      )}
      {totals.breaks.length > 0 && (
        <p className="m-0">
          Breaks most: {called(totals.breaks[0]!.procedure, totals.breaks[0]!.what)}
          {totals.breaks[0]!.times > 1 ? `, ${totals.breaks[0]!.times} times` : ''}
          {totals.breaks[0]!.road ? ` on ${totals.breaks[0]!.road}` : ''}. <Say text={totals.breaks[0]!.reason} />
        </p>
      )}
      <Fold title="All of them">
        <ul className="m-0 pl-5">
          {kept.map(({ id, at, attempt: a }) => (
            <li key={id}>
              {format(new Date(at), 'd MMM, HH:mm')}: {title(a.procedure)}, {a.result},{' '}
              <Quantity value={a.distanceKm} unit="km" digits={1} />, {a.minutes} min
              {a.road ? `, ${a.road}` : ''}
              {a.broke.length > 0
                ? `; broke: ${[...new Set(a.broke.map((b) => called(a.procedure, b.what)))].join(', ')}`
                : ''}
            </li>
          ))}
        </ul>
      </Fold>
    </section>
  );
}
