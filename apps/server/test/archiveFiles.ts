import { createHash } from 'node:crypto';
import { type Zippable, zipSync } from 'fflate';
import { v7 as uuid } from 'uuid';

/** A zip whose manifest says what is in it. */
export function packed(files: Record<string, Uint8Array>, level: 0 | 6 = 6): Uint8Array<ArrayBuffer> {
  const listed = Object.fromEntries(
    Object.entries(files).map(([n, d]) => [
      n,
      { sha256: createHash('sha256').update(d).digest('hex'), bytes: d.length },
    ]),
  );
  const head = { format: 'just-balance/archive', version: 1, files: listed };
  const all: Zippable = { ...files, 'manifest.json': Buffer.from(JSON.stringify(head)) };
  return new Uint8Array(zipSync(all, { level }));
}

const ID = /[0-9a-f]{8}-[0-9a-f]{4}-[47][0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}/g;

/** Ids of a job's texts → others, the same one for the same. */
export function newIds(): { idOf: (id: string) => string; renamed: (text: string) => string } {
  const ids = new Map<string, string>();
  const idOf = (id: string) => {
    if (!ids.has(id)) ids.set(id, uuid());
    return ids.get(id)!;
  };
  return { idOf, renamed: (text) => text.replace(ID, idOf) };
}

/** The files of an archive under new ids, as an archive. */
export function underNewIds(files: Record<string, Uint8Array>) {
  const { idOf, renamed } = newIds();
  const all = Object.entries(files).flatMap(([name, bytes]) =>
    name === 'manifest.json'
      ? []
      : [[renamed(name), name === 'job.json' ? Buffer.from(renamed(Buffer.from(bytes).toString())) : bytes] as const],
  );
  return { body: packed(Object.fromEntries(all)), idOf };
}
