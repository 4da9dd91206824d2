import { api } from './api.ts';

/** Reads under way, by path. */
const flying = new Map<string, number>();

/** SWR's fetcher. */
export async function read<T>(path: string): Promise<T> {
  flying.set(path, (flying.get(path) ?? 0) + 1);
  try {
    return await api.get<T>(path);
  } finally {
    const left = flying.get(path)! - 1;
    if (left > 0) flying.set(path, left);
    else flying.delete(path);
  }
}

/**
 * Whether what was just put into the cache has to be fetched all the same: where nothing stood there, or where a read was
 * under way, which SWR then throws away together with what others wrote meanwhile.
 */
export function mustFetch(kept: unknown, path: string): boolean {
  return kept === undefined || flying.has(path);
}
