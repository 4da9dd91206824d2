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

/** Under what the half-typed of a step is kept: each time it is opened again it is another. */
export function draftName({ run, state }: Pick<RunHandle, 'run' | 'state'>, step: ProcedureStep): string {
  return `${run.id} ${step.id} ${state.rounds.get(step.id) ?? 0}`;
}
