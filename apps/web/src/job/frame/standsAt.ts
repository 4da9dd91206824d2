import type { JobListItem } from '@just-balance/contract';
import { STATION_LABELS } from '@just-balance/core/standing';

/** Where a job stands, as every list of jobs says it: the station it is at, until it is handed over. */
export function standsAt(job: Pick<JobListItem, 'status' | 'standing'>): string {
  return job.status === 'closed' ? 'Handed over' : STATION_LABELS[job.standing.station];
}
