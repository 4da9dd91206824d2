import { createReadStream, createWriteStream, realpathSync, statSync, type WriteStream } from 'node:fs';
import { rename, rm, stat } from 'node:fs/promises';
import { createInterface } from 'node:readline';
import { BadInput } from './badInput.ts';

/** Bytes read at a time. */
const CHUNK = 1 << 18;

async function mustExist(path: string): Promise<void> {
  if (path === '-') return;
  const s = await stat(path).catch(() => null);
  if (!s) throw new BadInput(`${path}: no such file`);
  if (!s.isFile()) throw new BadInput(`${path}: not a file`);
}

/** Bytes of a file or of standard input, in pieces. A missing file is bad input, said at once. */
export async function openBytes(path: string): Promise<AsyncIterable<Uint8Array>> {
  await mustExist(path);
  return path === '-' ? process.stdin : createReadStream(path, { highWaterMark: CHUNK });
}

/** Text of a file in pieces, in the encoding its first bytes tell; a byte order mark is taken off. */
export async function openText(path: string): Promise<AsyncIterable<string>> {
  const bytes = await openBytes(path);
  // Loaded when text is asked for: who reads bytes starts without it.
  const { encodingOf } = await import('@just-balance/core/recordingFiles');
  return (async function* () {
    let decoder: InstanceType<typeof TextDecoder> | null = null;
    for await (const piece of bytes) {
      decoder ??= new TextDecoder(encodingOf(piece));
      const text = decoder.decode(piece, { stream: true });
      if (text) yield text;
    }
    const rest = decoder?.decode();
    if (rest) yield rest;
  })();
}

/** Lines of a file or of standard input; a byte order mark is taken off. */
export async function openLines(path: string): Promise<AsyncIterable<string>> {
  await mustExist(path);
  const input = path === '-' ? process.stdin : createReadStream(path, { encoding: 'utf8' });
  const lines = createInterface({ input, crlfDelay: Number.POSITIVE_INFINITY });
  return (async function* () {
    let first = true;
    for await (const line of lines) {
      yield first ? unmarked(line) : line;
      first = false;
    }
  })();
}

/** Text without the byte order mark that some editors put first. */
function unmarked(text: string): string {
  return text.charCodeAt(0) === 0xfeff ? text.slice(1) : text;
}

/** All text of a small file or of standard input. */
export async function readWhole(path: string): Promise<string> {
  let text = '';
  for await (const piece of await openText(path)) text += piece;
  return text;
}

/** What is wrong with the fields of a file, a line each. */
export function fieldLines(path: string, errors: readonly { field: string; message: string }[]): string {
  return errors.map((e) => `${path}: ${e.field ? `${e.field}: ` : ''}${e.message}`).join('\n');
}

/** Parsed JSON of a small file, or of standard input. */
export async function readJson(path: string): Promise<unknown> {
  const text = await readWhole(path);
  try {
    return JSON.parse(unmarked(text));
  } catch (e) {
    throw new BadInput(`${path}: not JSON: ${(e as Error).message}`);
  }
}

export interface Output {
  write(text: string | Uint8Array): Promise<void>;
  /** Finish: the file appears under its name only now. */
  done(): Promise<void>;
  discard(): Promise<void>;
}

/** Standard output for `-`; a device or a pipe as it is; else a temporary file that is renamed when done. */
export function openOutput(path: string): Output {
  if (path === '-' || path === '/dev/stdout')
    return {
      write: (t) => push(process.stdout as unknown as WriteStream, t),
      done: async () => {},
      discard: async () => {},
    };
  const there = statSync(path, { throwIfNoEntry: false });
  // Renamed over, /dev/null would be a file from then on.
  const direct = there !== undefined && !there.isFile();
  const target = there && !direct ? realpathSync(path) : path;
  const temporary = direct ? target : `${target}.${process.pid}.tmp`;
  const stream = createWriteStream(temporary, { encoding: 'utf8' });
  let failure: Error | null = null;
  stream.on('error', (e) => {
    failure = e;
  });
  const close = () => new Promise<void>((resolve) => stream.end(resolve));
  return {
    async write(t) {
      if (failure) throw new BadInput(`${path}: ${(failure as Error).message}`);
      await push(stream, t);
    },
    async done() {
      await close();
      if (failure) throw new BadInput(`${path}: ${(failure as Error).message}`);
      if (!direct) await rename(temporary, target);
    },
    async discard() {
      await close();
      if (!direct) await rm(temporary, { force: true });
    },
  };
}

/** Characters gathered before they are written. */
const PENDING = 1 << 16;

/** Write lines to `path` (`-`: standard output); after a failure no file stands there. */
export async function writeLines(path: string, lines: Iterable<string>): Promise<void> {
  const out = openOutput(path);
  let pending = '';
  try {
    for (const line of lines) {
      pending += `${line}\n`;
      if (pending.length > PENDING) {
        await out.write(pending);
        pending = '';
      }
    }
    await out.write(pending);
    await out.done();
  } catch (e) {
    await out.discard();
    throw e;
  }
}

function push(stream: WriteStream, text: string | Uint8Array): Promise<void> {
  if (stream.write(text)) return Promise.resolve();
  return new Promise((resolve, reject) => {
    const onDrain = () => {
      stream.off('error', onError);
      resolve();
    };
    const onError = (e: Error) => {
      stream.off('drain', onDrain);
      reject(e);
    };
    stream.once('drain', onDrain);
    stream.once('error', onError);
  });
}
