import type { OwnView } from '@just-balance/contract';

/** What every text of a shop has. */
export interface Titled {
  id: string;
  title: string;
}

/** The text under another id. */
export const withId = (text: string, id: string): string => text.replace(/^id: .*$/m, `id: ${id}`);

/** The id, or with the first number behind it that the shop has none of yet. */
export function freeId(id: string, own: readonly OwnView<Titled>[]): string {
  const taken = new Set(own.map((p) => p.procedure.id));
  for (let n = 1; ; n++) {
    const free = n === 1 ? id : `${id}-${n}`;
    if (!taken.has(free)) return free;
  }
}
