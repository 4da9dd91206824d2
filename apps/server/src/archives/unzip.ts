import { createHash } from 'node:crypto';
import type { Readable } from 'node:stream';
import { rawShapeProblem, type ShapeBounds, shapeProblem } from '@just-balance/contract';
import { type Entry, openPromise, type ZipFile } from 'yauzl';
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
  /^(job\.json|manifest\.json|shop\.json|captures\/[0-9a-f-]{36}\.(json|csv|log)|photos\/[0-9a-f-]{36}\.jpg|reports\/[a-z-]{1,40}\.pdf)$/i;
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
    private readonly zip: ZipFile,
    private readonly entries: ReadonlyMap<string, Entry>,
    private readonly listing: Listing,
  ) {}

  static async open(path: string, format: string): Promise<ArchiveReader> {
    const zip = await openPromise(path, { lazyEntries: true, autoClose: false }).catch(() => {
      throw new ArchiveError('not a whole zip file');
    });
    try {
      const entries = await entriesOf(zip);
      const manifest = await manifestOf(zip, entries, format);
      return new ArchiveReader(zip, entries, manifest);
    } catch (e) {
      zip.close();
      throw e;
    }
  }

  close(): void {
    this.zip.close();
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
    for await (const piece of stream(this.zip, entry)) {
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

async function entriesOf(zip: ZipFile): Promise<Map<string, Entry>> {
  const entries = new Map<string, Entry>();
  let total = 0;
  const take = (entry: Entry) => {
    const name = entry.fileName;
    if (SHOP_NAME.test(name))
      throw new ArchiveError(
        'it is the archive of a whole shop: read it in on the Logbook page, or send the archives in it one by one',
      );
    if (!NAME.test(name)) throw new ArchiveError(`${name.slice(0, 80)}: no file of an archive of ours`);
    if (entries.has(name)) throw new ArchiveError(`${name}: stands in it twice`);
    if (entries.size >= MOST_FILES) throw new ArchiveError(`more than ${MOST_FILES} files`);
    const { uncompressedSize: size, compressedSize: packed } = entry;
    total += size;
    if (size > MOST_ONE || total > MOST_BYTES) throw new ArchiveError(`${name}: larger than is taken`);
    if (size > SMALL && size > MOST_RATIO * packed)
      throw new ArchiveError(`${name}: shrinks to less than a ${MOST_RATIO}th: no file of ours does`);
    entries.set(name, entry);
  };
  await new Promise<void>((done, failed) => {
    zip.on('entry', (entry: Entry) => {
      try {
        take(entry);
        zip.readEntry();
      } catch (e) {
        failed(e);
      }
    });
    zip.once('end', done);
    zip.once('error', (e: Error) =>
      failed(
        new ArchiveError(
          /path|characters/.test(e.message) ? 'a name in it: no file of an archive of ours' : 'not a whole zip file',
        ),
      ),
    );
    zip.readEntry();
  });
  return entries;
}

async function* stream(zip: ZipFile, entry: Entry): AsyncGenerator<Buffer> {
  const name = entry.fileName;
  const broken = () => new ArchiveError(`${name}: cannot be unpacked`);
  const from: Readable = await new Promise((done, failed) =>
    zip.openReadStream(entry, (e, s) => (e || !s ? failed(broken()) : done(s))),
  );
  try {
    for await (const piece of from) yield piece as Buffer;
  } catch (e) {
    throw e instanceof ArchiveError ? e : broken();
  }
}

async function manifestOf(zip: ZipFile, entries: ReadonlyMap<string, Entry>, format: string): Promise<Listing> {
  const entry = entries.get('manifest.json');
  if (!entry) throw new ArchiveError('manifest.json: is missing');
  if (entry.uncompressedSize > MANIFEST_BYTES) throw new ArchiveError('manifest.json: larger than is taken');
  const pieces: Buffer[] = [];
  for await (const piece of stream(zip, entry)) pieces.push(piece);
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
