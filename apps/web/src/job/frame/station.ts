import type { JobView } from '@just-balance/contract';
import type { JobLive } from '../../data/live.tsx';

/** What every station is given. */
export interface StationProps {
  job: JobView;
  live: JobLive;
}
