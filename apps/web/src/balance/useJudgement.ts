import type { JobView } from '@just-balance/contract';
import { caseOfJob } from '@just-balance/core/job';
import { type Remote, wrap } from 'comlink';
import { useEffect, useMemo, useRef, useState } from 'react';
import { mutate } from 'swr';
import { api } from '../shared/api.ts';
import { useAccount } from '../shared/session.tsx';
import type { Judge, Judgement } from './diagnosis.worker.ts';

let worker: Remote<Judge> | null = null;

/** The weighing off the interface's thread, one worker for all. */
export function judge(): Remote<Judge> {
  worker ??= wrap<Judge>(new Worker(new URL('./diagnosis.worker.ts', import.meta.url), { type: 'module' }));
  return worker;
}

/** The job's judgement from the worker; the server recomputes it and keeps it. Null while nothing can be weighed. */
export function useJudgement(job: JobView): { judgement: Judgement | null; problem: string | null } {
  const { shop } = useAccount();
  const text = useMemo(() => JSON.stringify(caseOfJob(job)), [job]);
  const [judgement, setJudgement] = useState<Judgement | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  const kept = useRef('');
  useEffect(() => {
    const c = JSON.parse(text);
    if ((c.readings?.length ?? 0) + (c.tests?.length ?? 0) === 0) {
      setJudgement(null);
      return;
    }
    let over = false;
    judge()
      .weigh(c, shop.settings)
      .then(
        (j) => !over && setJudgement(j),
        (e: Error) => !over && setProblem(`The weighing failed: ${e.message}`),
      );
    if (kept.current !== text) {
      kept.current = text;
      api.post(`/jobs/${job.id}/diagnosis`).then(
        () => {
          setProblem(null);
          void mutate(`/jobs/${job.id}`);
        },
        (e: Error) => setProblem(`Shown, but not kept yet: ${e.message}`),
      );
    }
    return () => {
      over = true;
    };
  }, [text, shop.settings, job.id]);
  return { judgement, problem };
}
