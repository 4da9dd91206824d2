import { type JobView } from '@just-balance/contract';
import { type CarState, carAtKeyOn, carBeforeDrive, type DriveProcedure } from '@just-balance/core/readiness';
import type { Series } from '@just-balance/core/series';
import type { JobLive } from '../../data/live.tsx';
import { openMonitors } from './drives.tsx';

/** What a record says of the car; the rest is typed. */
export function fromRecord(record: JobView['records'][number] | undefined): CarState {
  const open = openMonitors(record);
  return {
    ...(record ? { lamp: record.lampOn ? ('on' as const) : ('off' as const) } : {}),
    ...(record ? { codes: record.codes.filter((c) => c.state !== 'permanent').map((c) => c.code) } : {}),
    ...(open ? { incomplete: open } : {}),
  };
}

/** Whether a moment is not after another; a recording may write its own in another zone. */
const before = (at: string, then: string | undefined) => then === undefined || Date.parse(at) <= Date.parse(then);

/** The newest plan of the job that stands, of before `at` where that is given; undefined where there is none. */
export function planOf(job: JobView, at?: string) {
  const entry = job.entries.findLast((e) => e.kind === 'plan' && !e.undone && before(e.at, at));
  return entry?.kind === 'plan' ? { ...entry, kind: entry.kind } : undefined;
}

/** Moments at which the engine is known to have run: readings of a running engine, and drives. */
export function ranAt(job: JobView): string[] {
  return [
    ...job.readings.flatMap((r) => ((r.reading.rpm ?? 0) > 0 ? [r.at] : [])),
    ...job.entries.flatMap((e) => (e.kind === 'drive' && !e.undone ? [e.at] : [])),
  ];
}

/** What was planned and recorded of a car before a moment. */
function planned(job: JobView, at?: string): CarState {
  const earlier = job.records.filter((r) => before(r.at, at));
  const { incomplete, ...recorded } = fromRecord(earlier.at(-1) ?? job.records.find((r) => r.monitors));
  return {
    ...recorded,
    // Where all was complete, what the drive itself hears of them counts.
    ...(incomplete && incomplete.length > 0 ? { incomplete } : {}),
    ...(job.ambient.airC === undefined ? {} : { ambientC: job.ambient.airC }),
    ...planOf(job, at)?.data.state,
  };
}

/** The car at key-on: what it says of itself, what was planned, what the record says. */
export function carNow(
  job: JobView,
  live: Pick<JobLive, 'values' | 'traces'>,
  procedure: DriveProcedure,
  heard: { values: JobLive['values']; atMs: number } | null,
): CarState {
  return carAtKeyOn(procedure, {
    at: new Date(heard?.atMs ?? Date.now()).toISOString(),
    planned: planned(job),
    values: heard?.values ?? live.values,
    ranAt: ranAt(job),
    rpm: heard ? [] : (live.traces.get('rpm') ?? []),
  });
}

/** The car before a recorded drive; where nobody knows when it was, its soak is not known either. */
export function carBefore(job: JobView, procedure: DriveProcedure, series: Series, at: string | null): CarState {
  if (at === null) {
    const { engineOffSince: _, ...car } = planned(job);
    return car;
  }
  return carBeforeDrive(procedure, series, { at, planned: planned(job, at), ranAt: ranAt(job) });
}

/**
 * Which of the drives in a row that a procedure asks for this one is, from 1. The complete ones of this job count.
 *
 * @param fromUs When it began, µs; null: it has not begun.
 */
export function driveNumber(job: JobView, procedure: DriveProcedure, fromUs: number | null): number {
  const before = job.entries.filter(
    (e) =>
      e.kind === 'drive' &&
      !e.undone &&
      e.data.procedure === procedure.id &&
      e.data.result === 'complete' &&
      (fromUs === null || Date.parse(e.at) * 1000 < fromUs),
  );
  return (before.length % (procedure.drives ?? 1)) + 1;
}
