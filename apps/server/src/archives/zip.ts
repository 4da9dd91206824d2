import { createHash } from 'node:crypto';
import { ReadableStream } from 'node:stream/web';
import { ZipWriter, type ZipWriterConstructorOptions } from '@zip.js/zip.js';

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
const OPTIONS: ZipWriterConstructorOptions = { useWebWorkers: false, dataDescriptor: true, extendedTimestamp: false };

const encoder = new TextEncoder();
const bytesOf = (piece: string | Uint8Array) => (typeof piece === 'string' ? encoder.encode(piece) : piece);

/**
 * A zip (PKWARE APPNOTE) piece by piece, a file after the other; the last is `manifest.json` with the SHA-256 of each of
 * the others. `at`: the time on every file, so that the same job gives the same bytes.
 */
export async function* zipped(files: AsyncIterable<ArchiveFile>, head: object, at: Date): AsyncGenerator<Uint8Array> {
  const { readable, writable } = new TransformStream<Uint8Array, Uint8Array>();
  const listing: Listing = {};
  const zip = new ZipWriter(writable, { ...OPTIONS, lastModDate: at });
  const add = (name: string, packed: boolean, pieces: AsyncIterable<Uint8Array>) =>
    zip.add(name, ReadableStream.from(pieces) as never, { level: packed ? 0 : LEVEL });
  const writing = (async () => {
    for await (const { name, packed = false, pieces } of files) {
      const hash = createHash('sha256');
      let bytes = 0;
      const hashed = async function* () {
        for await (const piece of pieces) {
          const data = bytesOf(piece);
          hash.update(data);
          bytes += data.length;
          yield data;
        }
      };
      await add(name, packed, hashed());
      listing[name] = { sha256: hash.digest('hex'), bytes };
    }
    const manifest = encoder.encode(JSON.stringify({ ...head, files: listing }, null, 1));
    await add('manifest.json', false, [manifest] as never);
    await zip.close();
  })().catch(async (e: unknown) => {
    // Whoever reads hears why it ends.
    await writable.abort(e).catch(() => {});
    throw e;
  });
  // Told below, or nobody reads any more.
  writing.catch(() => {});
  yield* readable as unknown as AsyncIterable<Uint8Array>;
  await writing;
}
