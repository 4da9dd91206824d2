import { createHash } from 'node:crypto';
import { openAsBlob } from 'node:fs';
import { rawShapeProblem, type ShapeBounds, shapeProblem } from '@just-balance/contract';
import { BlobReader, ERR_UNSAFE_FILENAME, type FileEntry, ZipReader } from '@zip.js/zip.js';
import type { Listing } from './zip.ts';

/** Why an archive is not taken, with the file of it. */
export class ArchiveError extends Error {}

/** What one archive may hold once it is unpacked. [house] */
const MOST_FILES = 5000;
const MOST_BYTES = 768 * 1024 * 1024;
const MOST_ONE = 512 * 1024 * 1024;
/** A file of text or figures shrinks to a twentieth; what shrinks to less is made to be large. [house] */
const MOST_RATIO = 200;
/** Up to here the ratio says nothing. */
const SMALL = 1024 * 1024;
const NAME =
  /^(job\.json|manifest\.json|shop\.json|captures\/[0-9a-f-]{36}\.(json|csv|log|bus\.log)|photos\/[0-9a-f-]{36}\.jpg|reports\/[a-z-]{1,40}\.pdf)$/i;
/** What only the archive of a shop has. */
const SHOP_NAME = /^(settings\.json|jobs\/[0-9a-f-]{36}\.jb\.zip)$/i;

/** A list of files, and rows of a job: more than one body, and bounded the same way. [house] */
const MANIFEST_BYTES = 4 * 1024 * 1024;
const MANIFEST_SHAPE: ShapeBounds = { depth: 6, values: 4 * MOST_FILES, number: 1e15 };

/**
 * An archive on disk (PKWARE APPNOTE): its names and sizes are looked at before any of it is unpacked, by what its
 * directory says; a file that turns out larger than that is refused while it is read. Throws ArchiveError with the file
 * and the reason.
 */
export class ArchiveReader {
  private constructor(
    private readonly zip: ZipReader<Blob>,
    private readonly entries: ReadonlyMap<string, FileEntry>,
    private readonly listing: Listing,
  ) {}

  static async open(path: string, format: string): Promise<ArchiveReader> {
    // One directory, and each file of it once and apart: what may be read in two ways is not read.
    const zip = new ZipReader(new BlobReader((await openAsBlob(path)) as never), {
      ...{ useWebWorkers: false, strictness: 'strict', checkSignature: true, checkOverlappingEntry: true },
    });
    try {
      const entries = await entriesOf(zip);
      const manifest = await manifestOf(entries, format);
      return new ArchiveReader(zip, entries, manifest);
    } catch (e) {
      await zip.close();
      throw e;
    }
  }

  async close(): Promise<void> {
    await this.zip.close();
  }

  names(): string[] {
    return [...this.entries.keys()];
  }

  /** A file, piece by piece, held against what the manifest says of it: the last piece comes only where it agrees. */
  async *pieces(name: string): AsyncGenerator<Buffer> {
    const said = this.listing[name];
    const entry = this.entries.get(name);
    if (!entry || !said) throw new ArchiveError(`${name.slice(0, 80)}: is missing`);
    const hash = createHash('sha256');
    let before: Buffer | null = null;
    for await (const piece of stream(entry)) {
      hash.update(piece);
      if (before) yield before;
      before = piece;
    }
    if (said.sha256 !== hash.digest('hex')) throw new ArchiveError(`${name}: is not what manifest.json says (SHA-256)`);
    if (before) yield before;
  }

  /** A file whole; `most` bytes of it. */
  async whole(name: string, most: number): Promise<Buffer> {
    const size = this.entries.get(name)?.uncompressedSize ?? 0;
    if (size > most) throw new ArchiveError(`${name}: larger than is taken (${most / (1024 * 1024)} MiB)`);
    const pieces: Buffer[] = [];
    for await (const piece of this.pieces(name)) pieces.push(piece);
    return Buffer.concat(pieces);
  }

  /** A file that is read by nobody, held against the manifest all the same. */
  async look(name: string): Promise<void> {
    for await (const _ of this.pieces(name));
  }

  /** A file as JSON, within bounds before it is parsed. */
  async json(name: string, most: number, bounds: ShapeBounds): Promise<Record<string, unknown>> {
    return jsonOf(name, await this.whole(name, most), bounds);
  }
}

async function entriesOf(zip: ZipReader<Blob>): Promise<Map<string, FileEntry>> {
  const entries = new Map<string, FileEntry>();
  let total = 0;
  const listed = zip.getEntriesGenerator();
  for (;;) {
    const { value: entry, done } = await listed.next().catch((e: Error) => {
      throw new ArchiveError(
        e.message === ERR_UNSAFE_FILENAME ? 'a name in it: no file of an archive of ours' : 'not a whole zip file',
      );
    });
    if (done || !entry) return entries;
    const name = entry.filename;
    if (SHOP_NAME.test(name))
      throw new ArchiveError(
        'it is the archive of a whole shop: read it in on the Logbook page, or send the archives in it one by one',
      );
    if (!NAME.test(name) || entry.directory)
      throw new ArchiveError(`${name.slice(0, 80)}: no file of an archive of ours`);
    if (entries.has(name)) throw new ArchiveError(`${name}: stands in it twice`);
    if (entries.size >= MOST_FILES) throw new ArchiveError(`more than ${MOST_FILES} files`);
    const { uncompressedSize: size, compressedSize: packed } = entry;
    total += size;
    if (size > MOST_ONE || total > MOST_BYTES) throw new ArchiveError(`${name}: larger than is taken`);
    if (size > SMALL && size > MOST_RATIO * packed)
      throw new ArchiveError(`${name}: shrinks to less than a ${MOST_RATIO}th: no file of ours does`);
    entries.set(name, entry);
  }
}

/** A file piece by piece; one that turns out larger than its directory says is refused there. */
async function* stream(entry: FileEntry): AsyncGenerator<Buffer> {
  let failed: (e: unknown) => void = () => {};
  const { readable, writable } = new TransformStream<Uint8Array, Uint8Array>({
    start(controller) {
      failed = (e) => controller.error(e);
    },
  });
  const stop = new AbortController();
  const reading = entry.getData(writable as never, { signal: stop.signal as never });
  // Its end comes through the stream, and so does what breaks it.
  reading.catch((e: unknown) => failed(e));
  let bytes = 0;
  try {
    for await (const piece of readable as unknown as AsyncIterable<Uint8Array>) {
      bytes += piece.length;
      if (bytes > entry.uncompressedSize) throw new ArchiveError(`${entry.filename}: larger than it says`);
      yield Buffer.from(piece);
    }
    await reading;
  } catch (e) {
    throw e instanceof ArchiveError ? e : new ArchiveError(`${entry.filename}: cannot be unpacked`);
  } finally {
    stop.abort();
  }
}

async function manifestOf(entries: ReadonlyMap<string, FileEntry>, format: string): Promise<Listing> {
  const entry = entries.get('manifest.json');
  if (!entry) throw new ArchiveError('manifest.json: is missing');
  if (entry.uncompressedSize > MANIFEST_BYTES) throw new ArchiveError('manifest.json: larger than is taken');
  const pieces: Buffer[] = [];
  for await (const piece of stream(entry)) pieces.push(piece);
  const manifest = jsonOf('manifest.json', Buffer.concat(pieces), MANIFEST_SHAPE);
  if (manifest.format !== format) throw new ArchiveError(`manifest.json: format must be "${format}"`);
  if (manifest.version !== 1)
    throw new ArchiveError(
      `manifest.json: version ${String(manifest.version).slice(0, 20)} is not one this program reads (1)${Number(manifest.version) > 1 ? ': update it' : ''}`,
    );
  const files = manifest.files as Listing | undefined;
  if (files === null || typeof files !== 'object' || Array.isArray(files))
    throw new ArchiveError('manifest.json: files: an object');
  for (const name of entries.keys())
    if (name !== 'manifest.json' && !(Object.hasOwn(files, name) && files[name]))
      throw new ArchiveError(`${name}: not in manifest.json`);
  for (const name of Object.keys(files))
    if (!entries.has(name)) throw new ArchiveError(`${name.slice(0, 80)}: is missing`);
  return files;
}

function jsonOf(name: string, bytes: Buffer, bounds: ShapeBounds): Record<string, unknown> {
  const raw = rawShapeProblem(bytes, bounds);
  if (raw) throw new ArchiveError(`${name}: ${raw}`);
  let json: unknown;
  try {
    json = JSON.parse(new TextDecoder('utf-8', { fatal: true }).decode(bytes));
  } catch {
    throw new ArchiveError(`${name}: not JSON`);
  }
  if (json === null || typeof json !== 'object' || Array.isArray(json))
    throw new ArchiveError(`${name}: not an object`);
  const shape = shapeProblem(json, bounds);
  if (shape) throw new ArchiveError(`${name}: ${shape.field ? `${shape.field.slice(0, 120)}: ` : ''}${shape.message}`);
  return json as Record<string, unknown>;
}
