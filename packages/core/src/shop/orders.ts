import type { HandOverJob } from '../handOver/index.ts';
import { orderIsOpen, type PartOrder, runState } from '../procedures/index.ts';

/** A part that a run asks for. */
export interface JobOrder extends PartOrder {
  /** The id of the run. */
  run: string;
}

/** Parts a job's works ask for: to order, under way, and what is here while its work is not over. Pure. */
export function ordersOf(job: Pick<HandOverJob, 'runs'>): JobOrder[] {
  return job.runs.flatMap((run) => {
    if (run.id === undefined) return [];
    const { id } = run;
    const s = runState(run.procedure, run.events);
    const over = s.status === 'ended' || s.status === 'given-up';
    return s.orders.flatMap((o) => (orderIsOpen(o) || (o.is === 'arrived' && !over) ? [{ ...o, run: id }] : []));
  });
}
