import { createHash } from 'node:crypto';
import { strToU8, Zip, ZipDeflate, ZipPassThrough } from 'fflate';

export interface ArchiveFile {
  name: string;
  /** Packed already: a picture, a PDF. */
  packed?: boolean;
  pieces: AsyncIterable<string | Uint8Array> | Iterable<string | Uint8Array>;
}

/** What is in an archive, by name: SHA-256 in hex, and size in bytes. */
export type Listing = Record<string, { sha256: string; bytes: number }>;

/** Fast rather than small: captures are repetitive. [house] */
const LEVEL = 3;

/**
 * A zip (PKWARE APPNOTE) piece by piece, a file after the other; the last is `manifest.json` with the SHA-256 of each of
 * the others. `at`: the time on every file, so that the same job gives the same bytes.
 */
export async function* zipped(files: AsyncIterable<ArchiveFile>, head: object, at: Date): AsyncGenerator<Uint8Array> {
  let ready: Uint8Array[] = [];
  let failed: Error | null = null;
  const zip = new Zip((e, chunk) => {
    if (e) failed = e;
    else ready.push(chunk);
  });
  const listing: Listing = {};
  const taken = () => {
    if (failed) throw failed;
    const out = ready;
    ready = [];
    return out;
  };
  const open = (name: string, packed: boolean) => {
    const f = packed ? new ZipPassThrough(name) : new ZipDeflate(name, { level: LEVEL });
    f.mtime = at;
    zip.add(f);
    return f;
  };
  for await (const { name, packed = false, pieces } of files) {
    const f = open(name, packed);
    const hash = createHash('sha256');
    let bytes = 0;
    for await (const piece of pieces) {
      const data = typeof piece === 'string' ? strToU8(piece) : new Uint8Array(piece);
      hash.update(data);
      bytes += data.length;
      f.push(data);
      yield* taken();
    }
    f.push(new Uint8Array(0), true);
    listing[name] = { sha256: hash.digest('hex'), bytes };
    yield* taken();
  }
  const f = open('manifest.json', false);
  f.push(strToU8(JSON.stringify({ ...head, files: listing }, null, 1)), true);
  zip.end();
  yield* taken();
}
