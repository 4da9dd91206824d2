import type { Said } from '../units/index.ts';
import type { OrderState, RunEvent } from './runEvents.ts';

/** A part that a work asks for. */
export interface PartOrder {
  part: string;
  is: OrderState;
  /** Who said so last. */
  by: string;
  atMs: number;
}

/** Still somebody's to do: what is here is only to be fitted. */
export const isOpen = (o: Pick<PartOrder, 'is'>): boolean => o.is === 'wanted' || o.is === 'ordered';

/**
 * What became of the parts of a run with one more event: asked for when it is parked, from then on whatever is said last
 * of each. Going on with the work, its end, or giving it up takes nothing from the list. Pure.
 */
export function ordersWith(orders: ReadonlyMap<string, PartOrder>, e: RunEvent): ReadonlyMap<string, PartOrder> {
  const { what: w, by, atMs } = e;
  if (w.kind === 'order') return new Map(orders).set(w.part, { part: w.part, is: w.is, by, atMs });
  if (w.kind !== 'parked') return orders;
  const out = new Map(orders);
  for (const part of w.toOrder) {
    const there = out.get(part);
    // On its way already: it is not asked for twice.
    if (!there || !isOpen(there)) out.set(part, { part, is: 'wanted', by, atMs });
  }
  return out;
}

const SAID: Readonly<Record<OrderState, string>> = {
  wanted: 'to order',
  ordered: 'ordered',
  arrived: 'here',
  struck: 'not wanted any more',
};

/** A part and where it stands. */
export const orderSaid = (o: PartOrder): Said => `${o.part}, ${SAID[o.is]}`;
