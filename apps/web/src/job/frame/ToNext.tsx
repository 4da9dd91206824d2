import type { JobView } from '@just-balance/contract';
import { STATION_LABELS, STATIONS, type StationId, standingOf } from '@just-balance/core/standing';
import { ToStation } from './ToStation.tsx';

const place = (id: StationId) => STATIONS.indexOf(id);

/** Where the job stands, with what waits on this device. */
export const useStanding = (job: JobView) => standingOf(job, job.standing.proof);

/**
 * On from a station that has done its part: to where the work is. A job that has not come this far goes back; one whose
 * work is here goes on to `then`.
 */
export function ToNext({ job, here, then }: { job: JobView; here: StationId; then: StationId }) {
  const { station, next } = useStanding(job);
  const to = station === here ? then : next.station;
  return (
    <ToStation station={to}>
      {place(to) < place(here) ? 'Back to' : 'To'} {STATION_LABELS[to]}
    </ToStation>
  );
}
