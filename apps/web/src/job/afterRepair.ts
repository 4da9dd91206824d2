import type { JobView } from '@just-balance/contract';
import { runState } from '@just-balance/core/procedures';
import { judgeProof, newestOfEach, type ProofJudgement, storyOf } from '@just-balance/core/proof';
import { useMemo } from 'react';
import { useLimits } from '../data/limits.ts';
import { caseOf } from './figures.ts';
import { useJudgement } from './useJudgement.ts';

/** The job as it stands after its last repair, as if it had just come in: readings, tests and codes from then on. */
export function afterJob(job: JobView): JobView {
  const story = storyOf(job);
  const after = job.records.filter((r) => r.phase === 'after');
  return {
    ...job,
    readings: story.after.map((r) => ({ ...r, phase: 'before' as const })),
    tests: story.testsAfter.map((t) => ({ ...t, phase: 'before' as const })),
    records: after.map((r) => ({ ...r, phase: 'before' as const })),
  };
}

/** Faults that standing repairs were for. */
export function repairedFaults(job: JobView): string[] {
  return [...new Set(job.repairs.filter((r) => !r.undone).flatMap((r) => (r.fault === null ? [] : [r.fault])))];
}

/** Parts condemned by the judgement before, and not replaced by a run since. */
export function stillCondemned(job: JobView): string[] {
  const condemned = job.diagnoses.at(-1)?.output.condemned ?? [];
  if (condemned.length === 0) return [];
  const replaced = job.runs
    .filter((r) => r.procedure.kind === 'replace' && runState(r.procedure, r.events).status === 'ended')
    .flatMap((r) => r.procedure.for?.faults ?? []);
  return condemned.filter((f) => !replaced.includes(f));
}

/** The verdict on the repair, from the readings and from what their weighing says. */
export function useProof(job: JobView): ProofJudgement {
  const { watchPct } = useLimits();
  const judged = useMemo(() => afterJob(job), [job]);
  const repaired = useMemo(() => repairedFaults(job), [job]);
  const { judgement } = useJudgement(judged, repaired);
  return useMemo(() => {
    const story = storyOf(job);
    return judgeProof({
      before: newestOfEach(story.before).map((r) => r.reading),
      after: newestOfEach(story.after).map((r) => r.reading),
      bandPct: watchPct,
      weighed: judgement?.diagnosis ?? null,
      repaired,
      condemned: stillCondemned(job),
      limits: caseOf(job).vehicle.limits,
    });
  }, [job, judgement, repaired, watchPct]);
}
