import { type FoundPoint, findPoints, type RecordedEngine } from '@just-balance/core/capture';
import {
  CandumpReader,
  type DoubtfulChannel,
  doubtfulChannels,
  encodingOf,
  isText,
  propose,
  readCapture,
  separatorOf,
  TableReader,
} from '@just-balance/core/recordingFiles';
import { COLUMN_MAX_SAMPLES, encodeColumn, type Series, statistics } from '@just-balance/core/series';
import { expose, transfer } from 'comlink';
import Papa from 'papaparse';
import type { Importer, ImportPart, Progress, ReadFile } from '../../sessions/importProtocol.ts';

const HEAD_BYTES = 256 * 1024;
const CHUNK_BYTES = 1024 * 1024;
/** Rows a layout is judged by, and rows that are shown. */
const JUDGED_ROWS = 2000;
const SHOWN_ROWS = 60;
/** Progress is told at most this often, ms. */
const TELL_MS = 100;

let kept: { series: Series; doubts: readonly DoubtfulChannel[] } | null = null;

/** Points of what is kept, without the channels that are doubted and not said to be right. */
function find(engine: RecordedEngine, right: readonly string[], tell: Progress): FoundPoint[] {
  if (!kept) throw new Error('nothing was read');
  const doubted = kept.doubts.map((d) => d.channel).filter((c) => !right.includes(c));
  const channels = kept.series.channels.filter((c) => !doubted.includes(c.id));
  return findPoints({ ...kept.series, channels }, engine, (share) => tell('finding points', share));
}

/** A log that was cut off may be padded with zeros to its length. */
const withoutPadding = (cell: string) => (cell.includes('\u0000') ? cell.replaceAll('\u0000', '') : cell);

function calm(progress: Progress): Progress {
  let last = 0;
  return (step, share) => {
    const now = performance.now();
    if (share < 1 && now - last < TELL_MS) return;
    last = now;
    progress(step, share);
  };
}

async function readTable(
  file: File,
  delimiter: string,
  encoding: string,
  reader: TableReader,
  tell: Progress,
): Promise<void> {
  await new Promise<void>((resolve, reject) => {
    Papa.parse<string[]>(file, {
      delimiter,
      encoding,
      chunkSize: CHUNK_BYTES,
      chunk: (r) => {
        for (const row of r.data) reader.row(row.map(withoutPadding));
        tell('reading', Math.min(1, r.meta.cursor / file.size));
      },
      complete: () => resolve(),
      error: (e) => reject(new Error(`the file could not be read: ${e.message}`)),
    });
  });
}

async function readLines(file: File, line: (text: string) => void, tell: Progress): Promise<void> {
  const source = file.stream().getReader();
  const decoder = new TextDecoder();
  let rest = '';
  let read = 0;
  for (;;) {
    const { done, value } = await source.read();
    if (done) break;
    read += value.length;
    const lines = (rest + decoder.decode(value, { stream: true })).split(/\r?\n/);
    rest = lines.pop()!;
    for (const l of lines) line(l);
    tell('reading', read / file.size);
  }
  if (rest !== '') line(rest);
}

const importer: Importer = {
  async look(file, said = {}) {
    const bytes = new Uint8Array(await file.slice(0, HEAD_BYTES).arrayBuffer());
    const encoding = encodingOf(bytes);
    const head = new TextDecoder(encoding).decode(bytes);
    if (!isText(head))
      return { kind: 'unknown', message: 'this is no text file: CSV, candump and capture JSON can be read' };
    const lines = head.replaceAll('\u0000', '').split(/\r\n|\n|\r/);
    // The last one may be cut.
    if (bytes.length === HEAD_BYTES && lines.length > 1) lines.pop();
    if (/^\s*\{/.test(head)) return { kind: 'json' };
    if (lines.slice(0, 20).some((l) => /^\s*\(\d+\.\d+\)\s+\S+\s+[0-9A-Fa-f]+#/.test(l)))
      return { kind: 'candump', lines: lines.slice(0, 5) };
    if (head.trim() === '') return { kind: 'unknown', message: 'the file is empty' };
    const { delimiter = separatorOf(lines.slice(0, 20)), ...layout } = said;
    const rows = Papa.parse<string[]>(lines.slice(0, JUDGED_ROWS).join('\n'), { delimiter }).data;
    const p = propose(rows, layout);
    return { kind: 'csv', delimiter, encoding, rows: rows.slice(0, SHOWN_ROWS), ...p };
  },

  async read(file, look, mapping, engine, progress) {
    const tell = calm(progress);
    let problems: string[] = [];
    let problemCount = 0;
    let leftOut: { name: string; why: string }[] = [];
    let rows = 0;
    let clock: Pick<ReadFile, 'stepsBack' | 'stepsBackCount'> = { stepsBack: [], stepsBackCount: 0 };
    let series: Series;
    if (look.kind === 'csv') {
      const reader = new TableReader(mapping ?? look.mapping);
      await readTable(file, look.delimiter, look.encoding, reader, tell);
      const s = reader.summary();
      problems = s.problems.map((p) => `line ${p.line}: ${p.message}`);
      ({ problemCount, leftOut, rows } = s);
      clock = { stepsBack: s.stepsBack, stepsBackCount: s.stepsBackCount };
      series = reader.finish();
    } else if (look.kind === 'candump') {
      const reader = new CandumpReader();
      await readLines(file, (l) => reader.line(l), tell);
      const s = reader.summary();
      problems = s.badLines.map((b) => `line ${b.line}: ${b.reason}`);
      problemCount = s.badCount;
      rows = s.frames;
      if (s.frames === 0) throw new Error('no CAN frame in it: one frame a line, (seconds) interface ID#DATA');
      series = reader.finish();
    } else if (look.kind === 'json') {
      let json: unknown;
      try {
        json = JSON.parse(await file.text());
      } catch (e) {
        throw new Error(`this is no JSON: ${(e as Error).message}`);
      }
      const r = readCapture(json);
      if (!r.ok) throw new Error(`${r.field ? `${r.field}: ` : ''}${r.message}`);
      series = r.series;
    } else throw new Error(look.message);
    if (series.channels.length === 0)
      throw new Error('no channel with a value in it: say which column is what, and read it again');
    tell('finding points', 0);
    const doubts = doubtfulChannels(series, engine);
    kept = { series, doubts };
    const found = find(engine, [], tell);
    return {
      startedAt: series.startedAt,
      durationS: Math.max(...series.channels.map((c) => c.time.at(-1)! - Math.min(0, c.time[0]!))),
      channels: series.channels.map((c) => {
        const s = statistics(c.value)!;
        return { id: c.id, unit: c.unit, n: c.time.length, min: s.min, max: s.max };
      }),
      problems: problems.slice(0, 50),
      problemCount,
      leftOut,
      rows,
      ...clock,
      found,
      doubts,
    };
  },

  async findAgain(engine, right, progress) {
    return find(engine, right, calm(progress));
  },

  async parts(progress) {
    if (!kept) throw new Error('nothing was read');
    const tell = calm(progress);
    const all = [
      ...kept.series.channels,
      ...(kept.series.texts ?? []).map((t) => ({ ...t, unit: '', quantum: undefined as number | undefined })),
    ];
    const out: ImportPart[] = [];
    for (const [i, c] of all.entries()) {
      for (let at = 0, part = 0; at < c.time.length; at += COLUMN_MAX_SAMPLES, part++) {
        const bytes = encodeColumn({
          time: c.time.subarray(at, at + COLUMN_MAX_SAMPLES),
          value: Array.isArray(c.value)
            ? c.value.slice(at, at + COLUMN_MAX_SAMPLES)
            : c.value.subarray(at, at + COLUMN_MAX_SAMPLES),
        });
        const stream = new Blob([bytes]).stream().pipeThrough(new CompressionStream('deflate'));
        out.push({
          channel: c.id,
          part,
          unit: c.unit,
          quantum: c.quantum ?? null,
          bytes: await new Response(stream).arrayBuffer(),
        });
      }
      tell('packing', (i + 1) / all.length);
    }
    return transfer(
      out,
      out.map((p) => p.bytes),
    );
  },
};

expose(importer);
