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

/** `write` gets buffers that are used again: it must copy or finish with them before it returns. */
export function logBytes(write: (tsv: Uint8Array) => void): LogBytes {
  const slow = logDecoder();
  const data = new Uint8Array(8);
  /** [identifier − 7E8][parameter] → raw value → the lines' texts after the time. */
  const texts: Map<number, Uint8Array[]>[][] = Array.from({ length: 8 }, () => []);
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
    for (const r of slow.line(latin1(bytes, from, to))) {
      const text = utf8(logLine(r));
      room(text.length);
      out.set(text, filled);
      filled += text.length;
    }
  };

  /** True when the line was of the usual shape and is done with. */
  const fastLine = (b: Uint8Array, from: number, to: number): boolean => {
    if (b[from] !== OPEN) return false;
    let i = from + 1;
    let dots = 0;
    for (; i < to; i++) {
      const c = b[i]!;
      if (c === 46) dots++;
      else if (c < 48 || c > 57) break;
    }
    const timeEnd = i;
    if (b[i] !== CLOSE || dots !== 1 || b[i + 1] !== SPACE || b[timeEnd - 1] === 46 || b[from + 1] === 46) return false;
    i += 2;
    const iface = i;
    while (i < to && b[i] !== SPACE) i++;
    if (i === iface || i >= to) return false;
    i++;
    // Three digits of an 11-bit identifier.
    if (b[i + 3] !== HASH) return false;
    const id = (NIBBLE[b[i]!]! << 8) | (NIBBLE[b[i + 1]!]! << 4) | NIBBLE[b[i + 2]!]!;
    if (id < 0) return false;
    i += 4;
    let n = 0;
    for (; i + 1 < to; i += 2) {
      const byte = (NIBBLE[b[i]!]! << 4) | NIBBLE[b[i + 1]!]!;
      if (byte < 0 || n === 8) return false;
      data[n++] = byte;
    }
    if (i !== to) return false;
    if (!isResponseId(id, false)) {
      slow.skip();
      return true;
    }
    const length = data[0]!;
    if (length < 3 || length > 7 || n < length + 1 || data[1] !== 0x41 || slow.busy(id)) return false;
    const pid = data[2]!;
    const size = length - 2;
    const row = pidRow(pid);
    if (!row || row.length !== size) return false;
    let raw = 0;
    for (let k = 0; k < size; k++) raw = raw * 256 + data[3 + k]!;
    const byPid = texts[id - 0x7e8]!;
    let known = byPid[pid];
    if (!known) {
      known = new Map();
      byPid[pid] = known;
    }
    let lines = known.get(raw);
    if (!lines) {
      const at = { timeText: '', timeS: 0, ecu: idText(id) };
      lines = decodeResponse(data.subarray(1, 1 + length)).map((d) => utf8(logLine({ ...d, ...at })));
      if (known.size < KEPT_TEXTS) known.set(raw, lines);
    }
    slow.skip();
    const timeLength = timeEnd - from - 1;
    for (const line of lines) {
      room(timeLength + line.length);
      out.set(b.subarray(from + 1, timeEnd), filled);
      filled += timeLength;
      out.set(line, filled);
      filled += line.length;
    }
    return true;
  };

  const take = (b: Uint8Array, from: number, end: number) => {
    const to = end > from && b[end - 1] === CR ? end - 1 : end;
    if (!fastLine(b, from, to)) slowLine(b, from, to);
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
      let from = 0;
      for (let at = b.indexOf(LF); at >= 0; at = b.indexOf(LF, from)) {
        take(b, from, at);
        from = at + 1;
      }
      if (from < b.length) rest = b.slice(from);
    },
    end() {
      if (rest) take(rest, 0, rest.length);
      rest = null;
      flush();
    },
    summary: () => slow.summary(),
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
