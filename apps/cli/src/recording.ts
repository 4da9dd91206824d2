import {
  CandumpReader,
  type Mapping,
  missingOf,
  propose,
  readCapture,
  separatorOf,
  TableReader,
} from '@just-balance/core/recordingFiles';
import type { Series } from '@just-balance/core/series';
import Papa from 'papaparse';
import { BadInput } from './badInput.ts';
import { openLines, openText, readJson } from './files.ts';

export type Kind = 'candump' | 'csv' | 'json';
/** Rows looked at before a mapping is proposed. */
const SAMPLE_ROWS = 500;

/** Which kind of file, by its ending. */
export function kindOf(path: string): Kind {
  const ending = /\.(candump|log|csv|json)$/i.exec(path)?.[1]?.toLowerCase();
  if (!ending) throw new BadInput(`${path}: known endings are .candump, .log, .csv and .json`);
  return ending === 'log' ? 'candump' : (ending as Kind);
}

/** One line to a person, beside the result. */
export function tell(path: string, text: string) {
  process.stderr.write(`jb: ${path}: ${text}\n`);
}

/** A recording of any kind as a series; what was left out is told. Throws BadInput where nothing can be read. */
export async function readRecording(path: string, kind: Kind = kindOf(path)): Promise<Series> {
  const series = await read(path, kind);
  if (series.channels.length === 0) throw new BadInput(`${path}: no channel with a value in it`);
  return series;
}

async function read(path: string, kind: Kind): Promise<Series> {
  if (kind === 'json') {
    const r = readCapture(await readJson(path));
    if (!r.ok) throw new BadInput(`${path}: ${r.field ? `${r.field}: ` : ''}${r.message}`);
    return r.series;
  }
  if (kind === 'candump') {
    const reader = new CandumpReader();
    for await (const line of await openLines(path)) reader.line(line);
    const s = reader.summary();
    for (const b of s.badLines) tell(path, `line ${b.line}: ${b.reason}`);
    if (s.badCount > s.badLines.length) tell(path, `${s.badCount} bad lines in all`);
    if (s.frames === 0)
      throw new BadInput(`${path}: no CAN frame in it: one frame a line, (seconds) interface ID#DATA`);
    return reader.finish();
  }
  return readCsv(path);
}

async function readCsv(path: string): Promise<Series> {
  const text = await openText(path);
  let delimiter: string | null = null;
  let reader: TableReader | null = null;
  let failure: string | null = null;
  const waiting: string[][] = [];
  let head = '';
  const begin = () => {
    const p = propose(waiting);
    const mapping: Mapping = { ...p.mapping, roles: [...p.mapping.roles] };
    for (const ask of p.asks) {
      const why = `“${ask.cell}” can be read two ways`;
      if (mapping.roles[ask.column]?.kind === 'value') failure = `column "${mapping.headers[ask.column]}": ${why}`;
      // Nobody is there to be asked: rather without it than with a figure a thousand times too large.
      mapping.roles[ask.column] = { kind: 'ignore', why };
    }
    failure ??= p.missing ?? missingOf(mapping);
    if (!failure) {
      reader = new TableReader(mapping);
      for (const r of waiting) reader.row(r);
      waiting.length = 0;
    }
  };
  const take = (rows: string[][]) => {
    for (const r of rows) {
      if (reader) reader.row(r);
      else {
        waiting.push(r);
        if (waiting.length === SAMPLE_ROWS) begin();
      }
      if (failure) return;
    }
  };
  // The parser cuts quoted cells right over chunk borders: it is fed whole pieces through its own stream.
  let parser: NodeJS.ReadWriteStream | null = null;
  let parsed: Promise<void> = Promise.resolve();
  for await (const piece of text) {
    if (!parser) {
      head += piece;
      if (head.length < 4096 && !head.includes('\n')) continue;
      delimiter = separatorOf(head.split(/\r?\n/).slice(0, 20));
      parser = Papa.parse(Papa.NODE_STREAM_INPUT, { delimiter }) as unknown as NodeJS.ReadWriteStream;
      const stream = parser;
      parsed = (async () => {
        for await (const row of stream) take([row as unknown as string[]]);
      })();
      parser.write(head);
    } else if (!parser.write(piece)) await new Promise((r) => parser!.once('drain', r));
    if (failure) break;
  }
  if (!parser && head !== '') {
    take(Papa.parse<string[]>(head, { delimiter: separatorOf(head.split(/\r?\n/)) }).data);
  } else {
    parser?.end();
    await parsed;
  }
  if (!reader && !failure) begin();
  if (failure) throw new BadInput(`${path}: ${failure}`);
  const done = reader as TableReader | null;
  if (!done) throw new BadInput(`${path}: empty`);
  const s = done.summary();
  // Nobody is there to be asked.
  for (const { line, byS } of s.stepsBack)
    tell(
      path,
      `line ${line}: the clock steps back by ${Math.round(byS * 10) / 10} s; lines are put in the order of their times`,
    );
  if (s.stepsBackCount > s.stepsBack.length) tell(path, `the clock steps back ${s.stepsBackCount} times in all`);
  for (const p of s.problems) tell(path, `line ${p.line}: ${p.message}`);
  if (s.problemCount > s.problems.length) tell(path, `${s.problemCount} cells could not be read in all`);
  if (s.leftOut.length > 0) tell(path, `columns left out: ${s.leftOut.map((l) => `${l.name} (${l.why})`).join(', ')}`);
  return done.finish();
}
