import type { JobView } from '@just-balance/contract';
import type { Happened, ProcedureStep } from '@just-balance/core/procedures';
import type { JobLive } from '../../data/live.tsx';
import type { RunHandle } from './useRun.ts';

type Done = Partial<Extract<Happened, { kind: 'done' }>>;

export interface StepProps {
  job: JobView;
  live: JobLive;
  handle: RunHandle;
  step: ProcedureStep;
  /** The step is through, with what it found. */
  done: (more?: Done) => void;
}
