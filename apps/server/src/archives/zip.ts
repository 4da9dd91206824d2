import { createHash } from 'node:crypto';
import { strToU8, unzipSync, Zip, ZipDeflate, ZipPassThrough } from 'fflate';

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

export class ArchiveError extends Error {}

/** What one archive may hold once it is unpacked. [house] */
const MOST_FILES = 5000;
const MOST_BYTES = 768 * 1024 * 1024;
const MOST_ONE = 512 * 1024 * 1024;
const NAME =
  /^(job\.json|manifest\.json|shop\.json|captures\/[0-9a-f-]{36}\.(json|csv|log)|photos\/[0-9a-f-]{36}\.jpg|reports\/[a-z-]{1,40}\.pdf)$/i;

/** What only the archive of a shop has. */
const SHOP_NAME = /^(settings\.json|jobs\/[0-9a-f-]{36}\.jb\.zip)$/i;

/**
 * The files of an archive by name, all of them held against its manifest. What is unpacked is bounded before it is
 * unpacked, by what the archive itself says; a file that says less than it is does not match its SHA-256. Throws
 * ArchiveError with the file and the reason.
 */
export function unpacked(
  bytes: Uint8Array,
  format: string,
): { manifest: Record<string, unknown>; files: Map<string, Uint8Array> } {
  let count = 0;
  let total = 0;
  let raw: Record<string, Uint8Array>;
  try {
    raw = unzipSync(bytes, {
      filter: ({ name, originalSize }) => {
        if (SHOP_NAME.test(name))
          throw new ArchiveError(
            'it is the archive of a whole shop: read it in on the Logbook page, or send the archives in it one by one',
          );
        if (!NAME.test(name)) throw new ArchiveError(`${name.slice(0, 80)}: no file of an archive of ours`);
        if (++count > MOST_FILES) throw new ArchiveError(`more than ${MOST_FILES} files`);
        total += originalSize;
        if (originalSize > MOST_ONE || total > MOST_BYTES) throw new ArchiveError(`${name}: larger than is taken`);
        return true;
      },
    });
  } catch (e) {
    if (e instanceof ArchiveError) throw e;
    throw new ArchiveError('not a whole zip file');
  }
  const files = new Map(Object.entries(raw));
  if (files.size !== count) throw new ArchiveError('a file stands in it twice');
  const manifest = jsonOf(files, 'manifest.json');
  if (manifest.format !== format) throw new ArchiveError(`manifest.json: format must be "${format}"`);
  if (manifest.version !== 1)
    throw new ArchiveError(
      `manifest.json: version ${String(manifest.version).slice(0, 20)} is not one this program reads (1)${Number(manifest.version) > 1 ? ': update it' : ''}`,
    );
  const listing = manifest.files as Listing | undefined;
  if (listing === null || typeof listing !== 'object' || Array.isArray(listing))
    throw new ArchiveError('manifest.json: files: an object');
  for (const [name, data] of files) {
    if (name === 'manifest.json') continue;
    const said = Object.hasOwn(listing, name) ? listing[name] : undefined;
    if (!said) throw new ArchiveError(`${name}: not in manifest.json`);
    const is = createHash('sha256').update(data).digest('hex');
    if (said.sha256 !== is) throw new ArchiveError(`${name}: is not what manifest.json says (SHA-256)`);
  }
  for (const name of Object.keys(listing))
    if (!files.has(name)) throw new ArchiveError(`${name.slice(0, 80)}: is missing`);
  return { manifest, files };
}

export function jsonOf(files: ReadonlyMap<string, Uint8Array>, name: string): Record<string, unknown> {
  const data = files.get(name);
  if (!data) throw new ArchiveError(`${name}: is missing`);
  let json: unknown;
  try {
    json = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(data));
  } catch {
    throw new ArchiveError(`${name}: not JSON`);
  }
  if (json === null || typeof json !== 'object' || Array.isArray(json))
    throw new ArchiveError(`${name}: not an object`);
  return json as Record<string, unknown>;
}
