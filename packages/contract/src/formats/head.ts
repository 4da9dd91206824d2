import type { FieldError } from '../checks/index.ts';

export type ReadResult<T> = { ok: true; value: T } | { ok: false; errors: FieldError[] };

/** What is wrong with the head of a document: an object of this format, version 1. */
export function headProblem(json: unknown, format: string): FieldError | null {
  if (json === null || typeof json !== 'object' || Array.isArray(json))
    return { field: '', message: `a ${format.split('/')[1]} is a JSON object` };
  const head = json as { format?: unknown; version?: unknown };
  if (head.format !== format)
    return { field: 'format', message: `must be "${format}", got ${JSON.stringify(head.format)}` };
  if (head.version === 1) return null;
  return {
    field: 'version',
    message:
      typeof head.version === 'number' && head.version > 1
        ? `version ${head.version} is newer than this program reads (1): update it`
        : 'must be 1',
  };
}
