import type { Mapping } from '@just-balance/core/recordingFiles';
import { store } from '../../data/store.ts';

/** The same headers in the same order: the same tool, read the same way. */
const keyOf = (m: Mapping) => m.headers.join('\u001f');

/** How a file with these headers was read last time on this device; null when it never was. */
export async function rememberedMapping(proposed: Mapping): Promise<Mapping | null> {
  const hit = await (await store()).get('mappings', keyOf(proposed));
  const before = hit?.mapping as Mapping | undefined;
  // Where the rows begin and how numbers are written belong to the file at hand.
  return before && before.roles.length === proposed.roles.length
    ? { ...proposed, layout: before.layout, roles: before.roles }
    : null;
}

export async function rememberMapping(m: Mapping): Promise<void> {
  await (await store()).put('mappings', { headers: m.headers.join(', '), mapping: m, at: Date.now() }, keyOf(m));
}
