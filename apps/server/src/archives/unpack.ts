import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { ShapeBounds } from '@just-balance/contract';
import { parseCandumpLine, type TimedFrame } from '@just-balance/core/can';
import { captureChannel, captureProblem, captureTexts } from '@just-balance/core/recordingFiles';
import type { Channel, TextChannel } from '@just-balance/core/series';
import { PictureError } from '../photos/reencode.ts';
import { partsOf, type StoredColumn } from '../recordings/columns.ts';
import { MOST_IN_LOG } from '../recordings/exporting.ts';
import { storedFrames } from '../recordings/onTheBus.ts';
import { Elements, ElementsError } from './elements.ts';
import { pictureIn } from './pictures.ts';
import { type ArchiveRow, type ArchiveRows, rowsProblem } from './rows.ts';
import { ArchiveError, ArchiveReader } from './unzip.ts';

const MIB = 1024 * 1024;
/** Every row of a job. [house] */
const JOB_BYTES = 48 * MIB;
const JOB_SHAPE: ShapeBounds = { depth: 24, values: 1_000_000, number: 1e15 };
/** One channel of a capture as text. [house] */
const CHANNEL_BYTES = 48 * MIB;
const PICTURE_BYTES = 16 * MIB;

/** An archive that was looked through: its rows, and where what is large lies. All of it fits together. */
export interface Unpacked {
  rows: ArchiveRows;
  columns: { captureId: string; column: Omit<StoredColumn, 'data'>; file: string }[];
  /** What was on the bus of a capture, some frames each. */
  frames: { captureId: string; seq: number; atMs: number; n: number; file: string }[];
  photos: { id: string; image: string; small: string }[];
}

export type Unpacking = { ok: true; value: Unpacked } | { ok: false; message: string };

/** Look through the archive at `path`, `format` by its manifest; what it holds is laid into `dir`, file by file. */
export async function unpack(path: string, dir: string, format: string): Promise<Unpacking> {
  try {
    const archive = await ArchiveReader.open(path, format);
    try {
      return { ok: true, value: await all(archive, dir) };
    } finally {
      await archive.close();
    }
  } catch (e) {
    if (e instanceof ArchiveError || e instanceof PictureError) return { ok: false, message: e.message };
    throw e;
  }
}

async function all(archive: ArchiveReader, dir: string): Promise<Unpacked> {
  const head = await archive.json('job.json', JOB_BYTES, JOB_SHAPE);
  if (head.format !== 'just-balance/job' || head.version !== 1)
    throw new ArchiveError('job.json: not a job of a version that this program reads (1)');
  const problem = rowsProblem(head.rows);
  if (problem) throw new ArchiveError(problem);
  const rows = head.rows as ArchiveRows;
  const captures = new Set(rows.captures.map((c) => c.id));
  const pictures = new Set(rows.photos.map((p) => pictureName(p.id)));
  const columns: Unpacked['columns'] = [];
  for (const name of archive.names()) {
    const id = /^captures\/(.{36})\.(?:json|bus\.log)$/.exec(name)?.[1];
    if (id && !captures.has(id)) throw new ArchiveError(`${name}: no such capture in job.json`);
    if (!id && !pictures.has(name) && name !== 'job.json' && name !== 'manifest.json') await archive.look(name);
  }
  for (const id of captures)
    for (const { data, ...column } of await columnsOf(archive, `captures/${id}.json`)) {
      const file = join(dir, `column-${columns.length}`);
      await writeFile(file, data);
      columns.push({ captureId: id, column, file });
    }
  const frames: Unpacked['frames'] = [];
  for (const captureId of captures) {
    const name = busName(captureId);
    if (!archive.names().includes(name)) continue;
    let seq = 0;
    for await (const { data, ...row } of framesOf(archive, name)) {
      const file = join(dir, `frames-${frames.length}`);
      await writeFile(file, data);
      frames.push({ captureId, seq: seq++, file, ...row });
    }
  }
  return { rows, columns, frames, photos: await picturesOf(archive, rows.photos, dir) };
}

const busName = (captureId: string) => `captures/${captureId}.bus.log`;
/** Frames that are stored together, as a capture does. [house] */
const FRAMES_AT_ONCE = 5000;

/** The frames of a log as they are stored; a line that is none is no archive of ours. */
async function* framesOf(archive: ArchiveReader, name: string) {
  let waiting: TimedFrame[] = [];
  let [rest, line, total] = ['', 0, 0];
  const take = (text: string) => {
    line++;
    const read = parseCandumpLine(text);
    if (!read.ok) throw new ArchiveError(`${name}: line ${line}: ${read.reason}`);
    if (++total > MOST_IN_LOG) throw new ArchiveError(`${name}: more than ${MOST_IN_LOG} frames`);
    const { timeText, id, extended, data } = read.frame;
    waiting.push({ atUs: Math.round(Number(timeText) * 1e6), frame: { id, extended, data } });
  };
  const stored = () => storedFrames(waiting, waiting[0]!.atUs / 1000);
  for await (const piece of archive.pieces(name)) {
    const lines = (rest + piece.toString('latin1')).split('\n');
    rest = lines.pop()!;
    for (const l of lines) take(l);
    if (waiting.length < FRAMES_AT_ONCE) continue;
    yield await stored();
    waiting = [];
  }
  if (rest !== '') take(rest);
  if (waiting.length > 0) yield await stored();
}

const pictureName = (id: string) => `photos/${id}.jpg`;

async function columnsOf(archive: ArchiveReader, name: string): Promise<StoredColumn[]> {
  const fail = (message: string) => new ArchiveError(`${name}: ${message}`);
  const channels: Promise<StoredColumn[]>[] = [];
  const seen = new Set<string>();
  const take = (c: Channel | TextChannel) => {
    if (c.id.length > 60 || ('unit' in c && c.unit.length > 20))
      throw fail(`the channel ${c.id.slice(0, 60)}: name or unit too long`);
    if (seen.has(c.id)) throw fail(`the channel ${c.id} stands twice`);
    seen.add(c.id);
    channels.push(partsOf(c));
  };
  const elements = new Elements(CHANNEL_BYTES, (field, index, json) => {
    if (field !== 'texts' && field !== 'channels') return;
    const read = field === 'texts' ? captureTexts(json, index) : captureChannel(json, index);
    if (!read.ok) throw fail(`${read.field}: ${read.message}`);
    take(read.channel);
  });
  try {
    for await (const piece of archive.pieces(name)) {
      elements.push(piece);
      // One channel after the other: what is packed is small.
      await Promise.all(channels);
    }
    const problem = captureProblem(elements.end());
    if (problem) throw fail(`${problem.field}: ${problem.message}`);
    return (await Promise.all(channels)).flat();
  } catch (e) {
    throw e instanceof ElementsError ? fail(e.message) : e;
  }
}

async function picturesOf(
  archive: ArchiveReader,
  photos: readonly ArchiveRow[],
  dir: string,
): Promise<Unpacked['photos']> {
  const out: Unpacked['photos'] = [];
  for (const row of photos) {
    const { image, small, width, height } = await pictureIn(await archive.whole(pictureName(row.id), PICTURE_BYTES));
    // What it says of itself gives way to what it is.
    Object.assign(row, { width, height, bytes: image.length });
    const at = { id: row.id, image: join(dir, `photo-${out.length}`), small: join(dir, `small-${out.length}`) };
    await writeFile(at.image, image);
    await writeFile(at.small, small);
    out.push(at);
  }
  return out;
}
