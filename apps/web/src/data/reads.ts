import { CHANGES_HEADER, type Route } from '@just-balance/contract';
import useSWR, { type SWRConfiguration } from 'swr';
import { api } from './api.ts';

/** Reads under way, by path. */
const flying = new Map<string, number>();
/** How many writes the job had seen when a path of it was last read. */
const asOf = new Map<string, number>();

/** SWR's fetcher. */
export async function read<T>(path: string): Promise<T> {
  flying.set(path, (flying.get(path) ?? 0) + 1);
  try {
    const { body, headers } = await api.getWhole<T>(path);
    const changes = Number(headers.get(CHANGES_HEADER) ?? Number.NaN);
    if (Number.isInteger(changes)) asOf.set(path, changes);
    return body;
  } finally {
    const left = flying.get(path)! - 1;
    if (left > 0) flying.set(path, left);
    else flying.delete(path);
  }
}

/** What the server answers at an address, kept fresh; nothing while there is none to ask. */
export function useRead<A>(route: Route<A> | null, options?: SWRConfiguration<A>) {
  return useSWR<A>(route, options);
}

/**
 * Whether what was just put into the cache has to be fetched all the same: where nothing stood there, or where a read was
 * under way, which SWR then throws away together with what others wrote meanwhile.
 */
export function mustFetch(kept: unknown, path: string): boolean {
  return kept === undefined || flying.has(path);
}

/** Whether a path was last read before the job had seen so many writes, or not read at all. */
export function olderThan(path: string, changes: number): boolean {
  return (asOf.get(path) ?? -1) < changes;
}
