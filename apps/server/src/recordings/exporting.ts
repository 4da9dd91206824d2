import { Readable } from 'node:stream';
import { pipeline } from 'node:stream/promises';
import { setImmediate } from 'node:timers/promises';
import {
  captureHead,
  csvCell,
  csvHead,
  LogFrames,
  type LoggedChannel,
  logOrigin,
} from '@just-balance/core/recordingFiles';
import { ColumnCursor, type Mark } from '@just-balance/core/series';
import type { Response } from 'express';

/** A channel on its way into a file: its bytes come part by part, when they are needed. */
export interface ExportChannel {
  id: string;
  unit: string;
  quantum: number | null;
  kind: 'number' | 'text';
  n: number;
  parts: number;
  /** Inflated bytes of a part. */
  load(part: number): Promise<Uint8Array>;
}

export interface ExportSource {
  /** What was on the bus, as a log; null where it is not kept. */
  bus: { frames: number; log: () => AsyncGenerator<string> } | null;
  startedAt: string | null;
  marks: Mark[];
  channels: readonly ExportChannel[];
}

/** Characters gathered before they are sent. */
const PIECE = 65_536;
/** Cells of a CSV, empty ones too, from which it is refused. [house] */
const MAX_CELLS = 400_000_000;

/** Why a recording cannot be written as CSV; null when it can. */
export function csvProblem(source: ExportSource): string | null {
  const samples = source.channels.reduce((n, c) => n + c.n, 0);
  return samples * source.channels.length > MAX_CELLS && source.channels.length > 100
    ? `${source.channels.length} columns of this length are more than one CSV can hold: take it as JSON`
    : null;
}

/** Frames of a bus, or samples as such, that an archive carries at most, for each recording. [house] */
export const MOST_IN_LOG = 300_000;

/** Whether an archive carries the recording as frames too: some of it is carried by a bus, and the log stays short. */
export async function fitsLog(source: ExportSource): Promise<boolean> {
  if (source.bus) return source.bus.frames <= MOST_IN_LOG;
  const { carried } = await onBus(source);
  const samples = carried.reduce((n, c) => n + c.n, 0);
  return samples > 0 && samples <= MOST_IN_LOG;
}

/** Samples of one channel, one after the other, across its parts; one part in memory. */
class Walk {
  private cursor: ColumnCursor | null = null;
  private part = 0;

  constructor(readonly channel: ExportChannel) {}

  /** False at the end. Async only where the next part has to be fetched. */
  next(): boolean | Promise<boolean> {
    return this.cursor?.next() ? true : this.nextPart();
  }

  private async nextPart(): Promise<boolean> {
    while (this.part < this.channel.parts) {
      this.cursor = new ColumnCursor(await this.channel.load(this.part++));
      if (this.cursor.next()) return true;
    }
    this.cursor = null;
    return false;
  }

  get time(): number {
    return this.cursor?.time ?? Number.POSITIVE_INFINITY;
  }

  get value(): number | string {
    return this.cursor!.value;
  }
}

async function walks(channels: readonly ExportChannel[]): Promise<Walk[]> {
  const all = channels.map((c) => new Walk(c));
  for (const w of all) await w.next();
  return all;
}

/** The next sample of a walk, without a promise where none is needed: there are millions. */
async function csvRow(all: readonly Walk[], safe: boolean): Promise<string | null> {
  let t = Number.POSITIVE_INFINITY;
  for (const w of all) if (w.time < t) t = w.time;
  if (t === Number.POSITIVE_INFINITY) return null;
  let line = String(t);
  for (const w of all) {
    if (w.time !== t) {
      line += ',';
      continue;
    }
    const v = w.value;
    line += `,${typeof v === 'string' ? csvCell(v, safe) : v}`;
    const more = w.next();
    if (typeof more !== 'boolean') await more;
  }
  return line;
}

/** As `csvLines` of core, from columns. */
async function* csv(source: ExportSource, safe: boolean): AsyncGenerator<string> {
  const all = await walks(source.channels);
  let piece = `${csvHead(source.channels, safe)}\n`;
  for (let row = await csvRow(all, safe); row !== null; row = await csvRow(all, safe)) {
    piece += `${row}\n`;
    if (piece.length < PIECE) continue;
    yield piece;
    piece = '';
  }
  yield piece;
}

/** Each word of a channel once. */
async function wordsOf(channel: ExportChannel): Promise<Set<string>> {
  const words = new Set<string>();
  const walk = new Walk(channel);
  while (await walk.next()) words.add(walk.value as string);
  return words;
}

/** The channels that a log of frames can carry. */
async function onBus({ channels }: ExportSource): Promise<{ frames: LogFrames; carried: ExportChannel[] }> {
  const told: LoggedChannel[] = [];
  for (const c of channels) told.push(c.kind === 'text' ? { id: c.id, words: await wordsOf(c) } : { id: c.id });
  const frames = new LogFrames(told);
  return { frames, carried: channels.filter((c) => frames.carries(c.id)) };
}

/** As `candumpLines` of core, from columns. */
async function* candump(source: ExportSource): AsyncGenerator<string> {
  const { frames, carried } = await onBus(source);
  const all = await walks(carried);
  const start = logOrigin(source.startedAt, Math.min(0, ...all.map((w) => w.time)));
  let piece = '';
  for (;;) {
    let first: Walk | null = null;
    for (const w of all) if (w.time < (first?.time ?? Number.POSITIVE_INFINITY)) first = w;
    if (!first) break;
    for (const line of frames.add(first.channel.id, start + first.time, first.value)) piece += `${line}\n`;
    const more = first.next();
    if (typeof more !== 'boolean') await more;
    if (piece.length < PIECE) continue;
    yield piece;
    piece = '';
  }
  yield piece +
    frames
      .end()
      .map((l) => `${l}\n`)
      .join('');
}

/** One list of a channel's times or values, in pieces. */
async function* list(channel: ExportChannel, what: 'time' | 'value'): AsyncGenerator<string> {
  const walk = new Walk(channel);
  let piece = '[';
  let comma = '';
  for (let more = await walk.next(); more; ) {
    piece += comma + JSON.stringify(walk[what]);
    comma = ',';
    if (piece.length >= PIECE) {
      yield piece;
      piece = '';
    }
    const next = walk.next();
    more = typeof next === 'boolean' ? next : await next;
  }
  yield `${piece}]`;
}

async function* channelsJson(channels: readonly ExportChannel[]): AsyncGenerator<string> {
  let comma = '';
  for (const c of channels) {
    const head = {
      id: c.id,
      ...(c.kind === 'number' ? { unit: c.unit, ...(c.quantum === null ? {} : { quantum: c.quantum }) } : {}),
    };
    yield `${comma}${JSON.stringify(head).slice(0, -1)},"time":`;
    yield* list(c, 'time');
    yield ',"value":';
    yield* list(c, 'value');
    yield '}';
    comma = ',';
  }
}

/** As `writeCapture` of core, as text. */
export async function* captureJson(source: ExportSource): AsyncGenerator<string> {
  yield `${JSON.stringify(captureHead(source.startedAt)).slice(0, -1)},"channels":[`;
  yield* channelsJson(source.channels.filter((c) => c.kind === 'number'));
  yield ']';
  const texts = source.channels.filter((c) => c.kind === 'text');
  if (texts.length > 0) {
    yield ',"texts":[';
    yield* channelsJson(texts);
    yield ']';
  }
  yield `,"marks":${JSON.stringify(source.marks)}}`;
}

export function exported(source: ExportSource, as: 'csv' | 'candump' | 'json', safe: boolean): AsyncGenerator<string> {
  if (as === 'json') return captureJson(source);
  if (as === 'csv') return csv(source, safe);
  return source.bus ? source.bus.log() : candump(source);
}

/** Others get their turn between two pieces. */
async function* inTurns<T>(pieces: AsyncIterable<T>): AsyncGenerator<T> {
  for await (const piece of pieces) {
    yield piece;
    await setImmediate();
  }
}

/** Send pieces as they come, no faster than they are taken; stops when the reader has gone. */
export async function sendPieces(res: Response, pieces: AsyncIterable<string | Uint8Array>): Promise<void> {
  await pipeline(Readable.from(inTurns(pieces)), res).catch((e: NodeJS.ErrnoException) => {
    if (e.code !== 'ERR_STREAM_PREMATURE_CLOSE') throw e;
  });
}
