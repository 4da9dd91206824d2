import type { JobListItem } from '@just-balance/contract';
import { STATION_LABELS, type StationId } from '@just-balance/core/standing';

/** Where a job stands, as every list of jobs says it: the station it is at, until it is handed over. */
export function standsAt(job: Pick<JobListItem, 'status' | 'standing'>): string {
  return standsOrParkedAt(job.status === 'closed' ? 'closed' : 'open', job.standing.station);
}

/** The same where a parked job says so; one of before its station was kept says only whether it is open. */
export function standsOrParkedAt(status: JobListItem['status'], station: StationId | null): string {
  if (status === 'closed') return 'Handed over';
  if (station === null) return status === 'parked' ? 'Parked' : 'Open';
  return status === 'parked' ? `Parked at ${STATION_LABELS[station]}` : STATION_LABELS[station];
}
