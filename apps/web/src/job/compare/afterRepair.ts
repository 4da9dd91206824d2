import type { JobView } from '@just-balance/contract';
import { afterJob, proofOfJob, repairedFaults } from '@just-balance/core/handOver';
import type { ProofJudgement } from '@just-balance/core/proof';
import { useMemo } from 'react';
import { useLimits } from '../../data/limits.ts';
import { useJudgement } from '../judgement/useJudgement.ts';

/** The verdict on the repair, from the readings and from what their weighing says. */
export function useProof(job: JobView): ProofJudgement {
  const { watchPct } = useLimits();
  const judged = useMemo(() => afterJob(job), [job]);
  const repaired = useMemo(() => repairedFaults(job), [job]);
  const { judgement } = useJudgement(judged, repaired);
  return useMemo(() => proofOfJob(job, judgement?.diagnosis ?? null, watchPct), [job, judgement, watchPct]);
}
