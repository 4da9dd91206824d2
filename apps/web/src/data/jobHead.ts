import { type JobPatchRequest, type JobSummary, type JobView, WRITES } from '@just-balance/contract';
import { MOST_TRIES, standsNow } from './api.ts';
import { write } from './writes.ts';

/**
 * One thing of a job's head, chosen at a press. Where somebody else has changed another thing of it meanwhile it is said
 * again over theirs; where they changed the same, they were quicker, and that is said.
 */
export async function changeHead(job: JobView, change: Pick<JobPatchRequest, 'status' | 'adapter'>): Promise<void> {
  let { rev } = job;
  for (let tries = 1; ; tries++) {
    try {
      await write(WRITES.changeJob(job.id), { rev, ...change });
      return;
    } catch (e) {
      const now = standsNow<JobSummary>(e);
      const theirs = now && (Object.keys(change) as (keyof typeof change)[]).some((k) => now[k] !== job[k]);
      if (now === null || theirs || tries === MOST_TRIES) throw e;
      rev = now.rev;
    }
  }
}
