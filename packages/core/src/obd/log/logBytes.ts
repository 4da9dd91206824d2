import { idText } from '../../can/index.ts';
import { decodeResponse } from '../decode.ts';
import { pidRow } from '../pids/pids.ts';
import { isResponseId, type LogDecoder, logDecoder, logLine } from './log.ts';

/**
 * A whole candump log to TSV lines, on bytes: one pass, no string per line. Lines of the usual shape whose response is
 * one service 01 parameter in a single frame come from a table of texts already made; everything else takes the
 * ordinary way. Measured on 1,000,000 frames: about the time of reading the file line by line (see bench/decode.mjs).
 *
 *   (1436509052.249713) can0 7E8#03410C0BB8
 */
export interface LogBytes {
  /** Take the next bytes of the file, cut anywhere. */
  chunk(bytes: Uint8Array): void;
  /** The last line, which may lack its end. */
  end(): void;
  summary(): ReturnType<LogDecoder['summary']>;
}

const OUT_SIZE = 1 << 16;
/** Texts kept per parameter; a 16-bit value has at most 65,536. */
const KEPT_TEXTS = 1 << 16;
const LF = 10;
const CR = 13;
const SPACE = 32;
const HASH = 35;
const OPEN = 40;
const CLOSE = 41;

const NIBBLE = new Int8Array(256).fill(-1);
for (let i = 0; i < 10; i++) NIBBLE[48 + i] = i;
for (let i = 0; i < 6; i++) {
  NIBBLE[65 + i] = 10 + i;
  NIBBLE[97 + i] = 10 + i;
}

/** Two hex digits as they stand side by side → their byte; −1 where they are none. */
const PAIR = new Int16Array(1 << 16).fill(-1);
for (let a = 0; a < 128; a++)
  for (let b = 0; b < 128; b++)
    if (NIBBLE[a]! >= 0 && NIBBLE[b]! >= 0) PAIR[(a << 8) | b] = (NIBBLE[a]! << 4) | NIBBLE[b]!;

/** `write` gets buffers that are used again: it must copy or finish with them before it returns. */
export function logBytes(write: (tsv: Uint8Array) => void): LogBytes {
  const slow = logDecoder();
  const data = new Uint8Array(8);
  /** Bytes of each parameter; 0: none that is known, or longer than a single frame holds. */
  const sizes = new Uint8Array(256);
  for (let pid = 0; pid < 256; pid++) {
    const n = pidRow(pid)?.length ?? 0;
    sizes[pid] = n <= 5 ? n : 0;
  }
  /** Identifiers, from 7E8 on, with a message of more than one frame under way; only the ordinary way begins or ends one. */
  const busy = new Uint8Array(8);
  /** Lines done with here, that the ordinary way has yet to count. */
  let skipped = 0;
  const count = () => {
    slow.skip(skipped);
    skipped = 0;
  };
  /** [identifier − 7E8 and parameter] → raw value → the lines' texts after the time. Short values stand in a list. */
  const texts: (Map<number, Uint8Array[]> | (Uint8Array[] | undefined)[] | undefined)[] = new Array(8 * 256);
  let out = new Uint8Array(OUT_SIZE);
  let filled = 0;
  let rest: Uint8Array | null = null;

  const flush = () => {
    if (filled > 0) write(out.subarray(0, filled));
    filled = 0;
  };
  const room = (n: number) => {
    if (filled + n <= out.length) return;
    flush();
    if (n > out.length) out = new Uint8Array(n);
  };

  const slowLine = (bytes: Uint8Array, from: number, to: number) => {
    count();
    const results = slow.line(latin1(bytes, from, to));
    for (let k = 0; k < busy.length; k++) busy[k] = Number(slow.busy(0x7e8 + k));
    for (const r of results) {
      const text = utf8(logLine(r));
      room(text.length);
      out.set(text, filled);
      filled += text.length;
    }
  };

  /** Where the next line begins when this one was of the usual shape and is done with; −1 otherwise. It ends within `b`. */
  const fastLine = (b: Uint8Array, from: number): number => {
    if (b[from] !== OPEN) return -1;
    let i = from + 1;
    // Digits, a dot, digits; a digit stands on both sides of it. What ends a line is no digit.
    while (b[i]! <= 57 && b[i]! >= 48) i++;
    if (b[i] !== 46 || i === from + 1) return -1;
    const dot = i++;
    while (b[i]! <= 57 && b[i]! >= 48) i++;
    const timeEnd = i;
    if (i === dot + 1 || b[i] !== CLOSE || b[i + 1] !== SPACE) return -1;
    i += 2;
    const iface = i;
    while (b[i]! > SPACE) i++;
    if (i === iface || b[i] !== SPACE) return -1;
    i++;
    // Three digits of an 11-bit identifier.
    const id = (NIBBLE[b[i]!]! << 8) | (NIBBLE[b[i + 1]!]! << 4) | NIBBLE[b[i + 2]!]!;
    if (id < 0 || b[i + 3] !== HASH) return -1;
    i += 4;
    let n = 0;
    for (; b[i]! > SPACE; i += 2) {
      const byte = PAIR[(b[i]! << 8) | b[i + 1]!]!;
      if (byte < 0 || n === 8) return -1;
      data[n++] = byte;
    }
    if (b[i] === CR) i++;
    if (b[i] !== LF) return -1;
    const next = i + 1;
    if (!isResponseId(id, false)) {
      skipped++;
      return next;
    }
    const length = data[0]!;
    if (length < 3 || length > 7 || n < length + 1 || data[1] !== 0x41 || busy[id - 0x7e8]) return -1;
    const pid = data[2]!;
    const size = length - 2;
    if (sizes[pid] !== size) return -1;
    let raw = 0;
    for (let k = 0; k < size; k++) raw = raw * 256 + data[3 + k]!;
    const place = ((id - 0x7e8) << 8) | pid;
    let known = texts[place];
    if (!known) {
      known = size === 1 ? new Array(256) : new Map();
      texts[place] = known;
    }
    let lines = Array.isArray(known) ? known[raw] : known.get(raw);
    if (!lines) {
      const at = { timeText: '', timeS: 0, ecu: idText(id) };
      lines = decodeResponse(data.subarray(1, 1 + length)).map((d) => utf8(logLine({ ...d, ...at })));
      if (Array.isArray(known)) known[raw] = lines;
      else if (known.size < KEPT_TEXTS) known.set(raw, lines);
    }
    skipped++;
    for (let k = 0; k < lines.length; k++) {
      const line = lines[k]!;
      room(timeEnd - from + line.length);
      // A few bytes are quicker by hand than through a view, and through variables of this block.
      const to = out;
      let at = filled;
      for (let t = from + 1; t < timeEnd; t++) to[at++] = b[t]!;
      for (let t = 0; t < line.length; t++) to[at++] = line[t]!;
      filled = at;
    }
    return next;
  };

  /** A line the ordinary way. Returns where the next one begins. */
  const slowly = (b: Uint8Array, from: number): number => {
    const lf = b.indexOf(LF, from);
    const end = lf < 0 ? b.length : lf;
    slowLine(b, from, end > from && b[end - 1] === CR ? end - 1 : end);
    return end + 1;
  };

  return {
    chunk(bytes) {
      let b = bytes;
      if (rest) {
        b = new Uint8Array(rest.length + bytes.length);
        b.set(rest);
        b.set(bytes, rest.length);
        rest = null;
      }
      const end = b.lastIndexOf(LF) + 1;
      let from = 0;
      while (from < end) {
        const next = fastLine(b, from);
        from = next >= 0 ? next : slowly(b, from);
      }
      if (end < b.length) rest = b.slice(end);
    },
    end() {
      if (rest) slowly(rest, 0);
      rest = null;
      flush();
    },
    summary: () => {
      count();
      return slow.summary();
    },
  };
}

/** A line of a log is ASCII; anything else is a bad line and is reported as it stands. */
function latin1(b: Uint8Array, from: number, to: number): string {
  let s = '';
  for (let i = from; i < to; i++) s += String.fromCharCode(b[i]!);
  return s;
}

/** UTF-8 of a text of the basic plane: units such as °C and λ. No encoder class exists in every place core runs in. */
function utf8(text: string): Uint8Array {
  const out: number[] = [];
  for (let i = 0; i < text.length; i++) {
    const c = text.charCodeAt(i);
    if (c < 0x80) out.push(c);
    else if (c < 0x800) out.push(0xc0 | (c >> 6), 0x80 | (c & 0x3f));
    else out.push(0xe0 | (c >> 12), 0x80 | ((c >> 6) & 0x3f), 0x80 | (c & 0x3f));
  }
  return Uint8Array.from(out);
}
