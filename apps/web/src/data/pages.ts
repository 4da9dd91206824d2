import { api } from './api.ts';

/** One page of a list, and the address of the next. */
export interface Page<T> {
  rows: T[];
  next: string | null;
}

/** A page by its address; the next one is named in the `Link` header. */
export async function readPage<T>(path: string): Promise<Page<T>> {
  const { body, headers } = await api.getWhole<T[]>(path);
  const next = /<\/api([^>]+)>; rel="next"/.exec(headers.get('link') ?? '');
  return { rows: body, next: next?.[1] ?? null };
}
