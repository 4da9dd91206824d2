import type { OffItem, RunState } from './runState.ts';

/** What a run cannot end with unless a person says why: off, with fasteners missing, or still in there. */
export interface OpenAtEnd {
  /** Of the item or the mishap. */
  id: string;
  what: 'off' | 'missing' | 'in there';
  text: string;
}

/** In the order in which it happened. A fastener that did not go back on may lie in the engine. */
export function openAtEnd({ off, mishaps }: Pick<RunState, 'off' | 'mishaps'>): OpenAtEnd[] {
  return [
    ...off.flatMap((o): OpenAtEnd[] => {
      if (!o.back) return [{ id: o.id, what: 'off', text: o.item }];
      const missing = (o.count ?? 0) - (o.fastenersBack ?? o.count ?? 0);
      return missing > 0
        ? [{ id: o.id, what: 'missing', text: `${missing} of ${o.count} fasteners of ${o.item}` }]
        : [];
    }),
    ...mishaps
      .filter((m) => !m.out)
      .map((m): OpenAtEnd => ({ id: m.id, what: 'in there', text: `${m.what}, ${m.where}` })),
  ];
}

/** What is off the car, in the order in which it goes back on. */
export function goesBackOn(state: RunState): OffItem[] {
  return state.off.filter((o) => !o.back).reverse();
}
