import { WRITES } from '@just-balance/contract';
import type { OrderState } from '@just-balance/core/procedures';
import { newId } from '../../data/api.ts';
import { shopNow } from '../../data/shopClock.ts';
import { queueWrite } from '../../data/writes.ts';

export const ORDER_LABELS: Readonly<Record<OrderState, string>> = {
  wanted: 'to order',
  ordered: 'ordered',
  arrived: 'here',
  struck: 'struck out',
};

/** One word about a part of a run, kept on this device first. Whether it has reached the server. */
export function sayOfPart(job: string, run: string, part: string, is: OrderState): Promise<boolean> {
  const events = [{ id: newId(), atMs: shopNow(), what: { kind: 'order' as const, part, is } }];
  return queueWrite(`${part.slice(0, 60)}: ${ORDER_LABELS[is]}`, WRITES.sayOfRun(job, run), { events });
}
