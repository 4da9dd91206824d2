/**
 * A million random frames and mangled files through every reader, outside Jest (its sandbox is too slow for it), on the
 * built package. Prints one JSON line of what came of it; a crash ends it with a stack trace. `node --expose-gc fuzz.mjs SEED FRAMES`.
 */

import { SlcanReader } from '@just-balance/core/can';
import { logBytes, logDecoder, logLine } from '@just-balance/core/obd';
import { CandumpReader, propose, readCapture, separatorOf, TableReader } from '@just-balance/core/recordingFiles';

const seed = Number(process.argv[2] ?? 1);
const frames = Number(process.argv[3] ?? 1_000_000);
let state = seed >>> 0 || 1;
/** xorshift32 */
function next() {
  state ^= state << 13;
  state >>>= 0;
  state ^= state >>> 17;
  state ^= state << 5;
  state >>>= 0;
  return state;
}
const hex = (n, digits) => (n >>> 0).toString(16).toUpperCase().padStart(digits, '0').slice(-digits);
const BYTES = Array.from({ length: 256 }, (_, b) => hex(b, 2));
function bytes(n) {
  let out = '';
  for (let i = 0; i < n; i++) out += BYTES[next() & 255];
  return out;
}

/** Mostly answers of engine units with any content: first, consecutive and single frames out of order, any length. */
function frame(i) {
  const id =
    next() % 4 === 0
      ? hex(next() % 0x800, 3)
      : next() % 9 === 0
        ? `18DAF1${hex(next() & 255, 2)}`
        : hex(0x7e8 + (next() & 7), 3);
  if (next() % 2) {
    // Whole: a single frame of a service that exists, any parameter, any data.
    const length = 2 + (next() % 6);
    return `(${(i / 1000).toFixed(6)}) can0 ${id}#0${length}${hex([0x41, 0x41, 0x42, 0x43, 0x46, 0x49, 0x7f][next() % 7], 2)}${hex(next() & 255, 2)}${bytes(length - 2)}`;
  }
  const n = next() % 9;
  const first = [
    `0${next() % 9}`,
    `1${hex(next() & 15, 1)}`,
    `2${hex(next() & 15, 1)}`,
    `3${next() % 3}`,
    hex(next() & 255, 2),
  ][next() % 5];
  const body = n === 0 ? '' : first + (next() % 2 ? hex(0x40 + (next() % 11), 2) : '') + bytes(8);
  return `(${(i / 1000).toFixed(6)}) can0 ${id}#${body.slice(0, 2 * n)}`;
}

/** What transmission and editing do to a line. */
function mangled(line) {
  switch (next() % 8) {
    case 0:
      return line.slice(0, next() % (line.length + 1));
    case 1:
      return line.slice(next() % line.length);
    case 2: {
      const at = next() % line.length;
      return line.slice(0, at) + String.fromCharCode(32 + (next() % 95)) + line.slice(at + 1);
    }
    case 3:
      return line + line;
    case 4:
      return line.replace('#', '');
    default:
      return line;
  }
}

function kept() {
  globalThis.gc();
  const { heapUsed, external } = process.memoryUsage();
  return (heapUsed + external) / 1e6;
}

const strings = logDecoder();
let rows = 0;
let text = [];
let outBytes = 0;
const fast = logBytes((tsv) => {
  outBytes += tsv.length;
});
const encoder = new TextEncoder();
let slowBytes = 0;
for (let i = 0; i < frames; i++) {
  const line = i % 50 === 0 ? mangled(frame(i)).replace(/[\r\n]/g, ' ') : frame(i);
  for (const r of strings.line(line)) {
    rows++;
    slowBytes += encoder.encode(logLine(r)).length;
  }
  text.push(line);
  if (text.length === 5000) {
    // Cut anywhere, as a pipe cuts.
    const all = encoder.encode(`${text.join('\n')}\n`);
    const cut = next() % all.length;
    fast.chunk(all.subarray(0, cut));
    fast.chunk(all.subarray(cut));
    text = [];
  }
}
if (text.length > 0) fast.chunk(encoder.encode(`${text.join('\n')}\n`));
fast.end();

// Tables: columns of rubbish under good and bad headers, truncated and with bytes changed.
let tables = 0;
let refused = 0;
let tableProblems = 0;
let unnamed = 0;
const HEADS = ['time,rpm,maf', 'Zeit;RPM;STFT B1', 'time\tchannel\tvalue\tunit', 'a,b,c', 'time,time,rpm', ''];
for (let k = 0; k < 3000; k++) {
  const head = HEADS[next() % HEADS.length];
  const sep = next() % 8 === 0 ? ';' : separatorOf([head]);
  let clock = 0;
  const cell = () =>
    next() % 3
      ? String(++clock / 10)
      : [
          '',
          String(next() % 5000),
          `${next() % 90},${next() % 99}`,
          '1e999',
          'NaN',
          '-',
          '"',
          '12:34:56',
          '0x12',
          '\u0000',
          'Infinity',
          '=1+1',
        ][next() % 12];
  const lines = [head];
  for (let i = 0; i < 30; i++) lines.push(Array.from({ length: next() % 6 }, cell).join(sep));
  const body = next() % 3 ? lines.join('\n') : mangled(lines.join('\n'));
  const split = body.split('\n');
  const d = separatorOf(split.slice(0, 20));
  const cells = split.map((l) => l.split(d));
  const p = propose(cells);
  if (p.missing !== null) {
    refused++;
    if (!p.missing) unnamed++;
    continue;
  }
  tables++;
  const reader = new TableReader(p.mapping);
  for (const c of cells) reader.row(c);
  const s = reader.summary();
  tableProblems += s.problemCount;
  if (s.problems.some((x) => !(x.line >= 1 && x.line <= cells.length) || !x.message)) unnamed++;
  const series = reader.finish();
  for (const c of series.channels)
    for (let i = 0; i < c.time.length; i++)
      if (!Number.isFinite(c.time[i]) || !Number.isFinite(c.value[i]))
        throw new Error(`not finite: table ${k} seed ${seed}`);
}

// Captures: JSON of any shape.
const shapes = [
  null,
  1,
  'x',
  [],
  {},
  { format: 'just-balance/capture' },
  { format: 'just-balance/capture', version: 1, channels: [{}] },
];
let captures = 0;
for (let k = 0; k < 3000; k++) {
  const value = () => [next() % 9, null, 'x', [], {}, Number.NaN, -1][next() % 7];
  const c = {
    format: 'just-balance/capture',
    version: next() % 3,
    channels: [{ id: value(), unit: value(), time: [value(), value()], value: [value()] }],
  };
  const r = readCapture(k < shapes.length ? shapes[k] : c);
  captures++;
  if (!r.ok && typeof r.message !== 'string') unnamed++;
}

// An adapter's bytes, and a log cut in the middle of everything.
const slcan = new SlcanReader();
for (let k = 0; k < 200_000; k++)
  for (const _ of slcan.feed(String.fromCharCode(next() & 127).repeat(1 + (next() % 3)))) rows++;
const cut = new CandumpReader();
for (let k = 0; k < 20_000; k++) cut.line(mangled(frame(k)));
cut.finish();

const summary = strings.summary();
process.stdout.write(
  `${JSON.stringify({
    seed,
    frames,
    rows,
    read: summary.frames,
    bad: summary.badCount,
    firstBad: summary.badLines[0] ?? null,
    sameBytes: slowBytes === outBytes,
    sameBad: fast.summary().badCount === summary.badCount,
    tables,
    refused,
    tableProblems,
    captures,
    unnamed,
    // Of everything read: not when it happened to be collected, but what nobody lets go of.
    keptMb: Math.round(kept()),
  })}\n`,
);
