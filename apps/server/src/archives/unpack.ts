import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import type { ShapeBounds } from '@just-balance/contract';
import { captureChannel, captureProblem, captureTexts } from '@just-balance/core/recordingFiles';
import type { Channel, TextChannel } from '@just-balance/core/series';
import { PictureError } from '../photos/reencode.ts';
import { partsOf, type StoredColumn } from '../recordings/columns.ts';
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
    const id = /^captures\/(.{36})\.json$/.exec(name)?.[1];
    if (id && !captures.has(id)) throw new ArchiveError(`${name}: no such capture in job.json`);
    if (!id && !pictures.has(name) && name !== 'job.json' && name !== 'manifest.json') await archive.look(name);
  }
  for (const id of captures)
    for (const { data, ...column } of await columnsOf(archive, `captures/${id}.json`)) {
      const file = join(dir, `column-${columns.length}`);
      await writeFile(file, data);
      columns.push({ captureId: id, column, file });
    }
  return { rows, columns, photos: await picturesOf(archive, rows.photos, dir) };
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
