import type { JobView } from '@just-balance/contract';
import { torqueOf } from '@just-balance/core/case';
import { type Procedure, type ProcedureStep, tightened } from '@just-balance/core/procedures';

/** What a step tightens is called among a vehicle's figures, and the figure entered for it: it wins over what is generic. */
export function ownTorque(job: JobView, procedure: Procedure, step: ProcedureStep) {
  const part = tightened(procedure, step);
  const quantity = part === null ? null : torqueOf(part);
  const own = job.entries.findLast(
    (e) => e.kind === 'value' && !e.undone && e.data.unit === 'N·m' && e.data.quantity === quantity,
  );
  return { quantity, entered: own?.kind === 'value' ? own.data : null };
}
