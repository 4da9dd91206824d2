import type { JobView } from '@just-balance/contract';
import { FAULT_BY_ID } from '@just-balance/core/catalogue';
import type { Settings } from '@just-balance/core/diagnosis';
import { weakened } from '@just-balance/core/proof';
import { type Remote, wrap } from 'comlink';
import { useEffect, useMemo, useState } from 'react';
import { useAccount } from '../../data/session.tsx';
import type { Judge, Judged } from './diagnosis.worker.ts';
import { caseOf } from './figures.ts';

let worker: Remote<Judge> | null = null;

/** The weighing off the interface's thread, one worker for all. */
export function judge(): Remote<Judge> {
  worker ??= wrap<Judge>(new Worker(new URL('./diagnosis.worker.ts', import.meta.url), { type: 'module' }));
  return worker;
}

const NONE: readonly string[] = [];

/** What the job is weighed with: the shop's settings, and the figures known of its vehicle. */
export function useSettings(job: JobView, repaired: readonly string[] = NONE): Settings {
  const { shop } = useAccount();
  return useMemo(
    () => ({
      ...shop.settings,
      ...shop.learned,
      known: job.known,
      ...(repaired.length === 0
        ? {}
        : {
            priors: weakened(
              shop.learned.priors ?? shop.settings.priors,
              (f) => FAULT_BY_ID.get(f)?.weight ?? 1,
              repaired,
            ),
          }),
    }),
    [shop.settings, shop.learned, job.known, repaired],
  );
}

/**
 * The job's judgement from the worker, entries that wait on this device included; the server has kept its own with every
 * write. `repaired`: causes that have been dealt with, and start with less weight. Null while nothing can be weighed.
 */
export function useJudgement(
  job: JobView,
  repaired: readonly string[] = NONE,
): { judgement: Judged | null; problem: string | null } {
  const text = useMemo(() => JSON.stringify(caseOf(job)), [job]);
  const settings = useSettings(job, repaired);
  const [judgement, setJudgement] = useState<Judged | null>(null);
  const [problem, setProblem] = useState<string | null>(null);
  useEffect(() => {
    const c = JSON.parse(text);
    if ((c.readings?.length ?? 0) + (c.tests?.length ?? 0) === 0) {
      setJudgement(null);
      return;
    }
    let over = false;
    judge()
      .weigh(c, settings)
      .then(
        (j) => {
          if (over) return;
          setJudgement(j);
          setProblem(null);
        },
        (e: Error) => !over && setProblem(`The weighing failed: ${e.message}`),
      );
    return () => {
      over = true;
    };
  }, [text, settings]);
  return { judgement, problem };
}
