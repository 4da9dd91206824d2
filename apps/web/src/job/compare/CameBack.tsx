import type { JobView } from '@just-balance/contract';
import type { CameBackEntry } from '@just-balance/contract/service';
import { standing } from '@just-balance/core/handOver';
import { later } from '../../ui/later.tsx';

const EarlierJob = later(async () => (await import('./EarlierJob.tsx')).EarlierJob);

/** Of a car that came back: the job it came back from. */
export function CameBack({ job }: { job: JobView }) {
  const came = standing<CameBackEntry>(job, 'cameBack').at(-1);
  return came ? <EarlierJob back={came} /> : null;
}
