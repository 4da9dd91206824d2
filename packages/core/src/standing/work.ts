import type { HandOverJob } from '../handOver/index.ts';
import { goesBackOn, type PartOrder, runState } from '../procedures/index.ts';
import type { Said } from '../units/index.ts';

/** A service run that is not over. */
export interface WorkUnderWay {
  title: string;
  state: 'running' | 'parked';
  /** What it is at; null at its end. */
  step: Said | null;
  /** What is off the car. */
  off: string[];
  /** Parts still to be ordered, and those under way. */
  toOrder: string[];
  ordered: string[];
  /** Why it is parked. */
  reason: string | null;
}

/** What is not on the car, and what it waits for: of the newest run that is not over; null where all are. */
export function workUnderWay(runs: HandOverJob['runs']): WorkUnderWay | null {
  for (const { procedure, events } of runs.toReversed()) {
    const s = runState(procedure, events);
    if (s.status !== 'running' && s.status !== 'parked') continue;
    return {
      title: procedure.title,
      state: s.status,
      step: s.current?.text ?? null,
      off: goesBackOn(s).map((o) => (o.count === undefined ? o.item : `${o.item} (${o.count})`)),
      toOrder: partsThat(s.orders, 'wanted'),
      ordered: partsThat(s.orders, 'ordered'),
      reason: s.parked?.reason ?? null,
    };
  }
  return null;
}

const partsThat = (orders: readonly PartOrder[], is: PartOrder['is']) =>
  orders.flatMap((o) => (o.is === is ? [o.part] : []));
