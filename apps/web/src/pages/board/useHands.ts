import type { JobListItem } from '@just-balance/contract';
import { useAccount } from '../../data/session.tsx';

/** In whose hands a job is, and whether those are one's own. */
export function useHands(): (job: Pick<JobListItem, 'hands' | 'openedBy'>) => { hands: string; mine: boolean } {
  const { name } = useAccount();
  return (job) => {
    const hands = job.hands ?? job.openedBy;
    return { hands: hands === name ? 'you' : hands, mine: hands === name };
  };
}
