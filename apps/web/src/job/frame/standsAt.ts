import type { JobListItem } from '@just-balance/contract';
import { STATION_LABELS, type StationId } from '@just-balance/core/standing';

/** Where a job stands, as every list of jobs says it: the station it is at, until it is handed over. */
export function standsAt(job: Pick<JobListItem, 'status' | 'standing'>): string {
  return stationOf(job.status, job.standing.station);
}

/** The same of a visit; of before its station was kept only whether it is open. */
export function visitStandsAt({
  status,
  station,
}: {
  status: JobListItem['status'];
  station: StationId | null;
}): string {
  if (station === null && status !== 'closed') return status;
  const at = stationOf(status, station ?? 'hand-over');
  return status === 'parked' ? `Parked at ${at}` : at;
}

const stationOf = (status: JobListItem['status'], station: StationId): string =>
  status === 'closed' ? 'Handed over' : STATION_LABELS[station];
