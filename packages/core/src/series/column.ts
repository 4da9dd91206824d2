import { ByteReader, ColumnError } from './byteReader.ts';

/**
 * One channel as bytes, before general compression. Lossless for values; times to 1 µs.
 *
 *   0..3  "JBC1"            magic and version
 *   4     kind              1 dictionary of numbers, 2 plain numbers, 3 dictionary of texts
 *   5..   n                 varint
 *         first, tick, n-1 × delta/tick    times in µs: zigzag varint, varint, varints
 *         kind 1: k, k × float64 LE rising, n × zigzag varint of the index's change
 *         kind 2: n × float64 LE, byte planes apart (all first bytes, all second bytes …)
 *         kind 3: k, k × (length, code units as varints), n × zigzag varint of the index's change
 */
export interface Column {
  /** s from the capture's start, rising. */
  time: Float64Array;
  value: Float64Array | string[];
}

/** Samples one column may hold; longer recordings come in parts. [house] */
export const COLUMN_MAX_SAMPLES = 500_000;
export const MAGIC = [0x4a, 0x42, 0x43, 0x31];
export const DICTIONARY = 1;
export const PLAIN = 2;
export const TEXTS = 3;
export const MAX_TEXT = 200;

class Writer {
  private bytes = new Uint8Array(4096);
  private view = new DataView(this.bytes.buffer);
  private at = 0;

  private room(n: number) {
    if (this.at + n <= this.bytes.length) return;
    const bigger = new Uint8Array(Math.max(this.bytes.length * 2, this.at + n));
    bigger.set(this.bytes);
    this.bytes = bigger;
    this.view = new DataView(bigger.buffer);
  }

  byte(b: number) {
    this.room(1);
    this.bytes[this.at++] = b;
  }

  /** Whole number from 0 to 2^53. */
  varint(v: number) {
    this.room(8);
    let rest = v;
    while (rest >= 128) {
      this.bytes[this.at++] = (rest % 128) | 128;
      rest = Math.floor(rest / 128);
    }
    this.bytes[this.at++] = rest;
  }

  zigzag(v: number) {
    this.varint(v < 0 ? -2 * v - 1 : 2 * v);
  }

  float(v: number) {
    this.room(8);
    this.view.setFloat64(this.at, v, true);
    this.at += 8;
  }

  planes(values: Float64Array) {
    const n = values.length;
    this.room(8 * n);
    const raw = new Uint8Array(8);
    const one = new DataView(raw.buffer);
    for (let i = 0; i < n; i++) {
      one.setFloat64(0, values[i]!, true);
      for (let p = 0; p < 8; p++) this.bytes[this.at + p * n + i] = raw[p]!;
    }
    this.at += 8 * n;
  }

  done(): Uint8Array<ArrayBuffer> {
    return this.bytes.slice(0, this.at);
  }
}

function gcd(a: number, b: number): number {
  let [x, y] = [a, b];
  while (y > 0) [x, y] = [y, x % y];
  return x;
}

/** Bytes of a column. Throws RangeError when times fall or are not finite, or there are too many samples. */
export function encodeColumn({ time, value }: Column): Uint8Array<ArrayBuffer> {
  const n = time.length;
  if (value.length !== n) throw new RangeError(`encodeColumn: ${value.length} values for ${n} times`);
  if (n > COLUMN_MAX_SAMPLES) throw new RangeError(`encodeColumn: ${n} samples, at most ${COLUMN_MAX_SAMPLES} a part`);
  const w = new Writer();
  for (const b of MAGIC) w.byte(b);
  const us = new Float64Array(n);
  let tick = 0;
  for (let i = 0; i < n; i++) {
    us[i] = Math.round(time[i]! * 1e6);
    if (!(Math.abs(us[i]!) < 2 ** 52)) throw new RangeError(`encodeColumn: time ${i} is ${time[i]} s`);
    if (i > 0 && !(us[i]! >= us[i - 1]!)) throw new RangeError(`encodeColumn: time ${i} goes back`);
    if (i > 0) tick = gcd(us[i]! - us[i - 1]!, tick);
  }
  tick ||= 1;
  const head = (kind: number) => {
    w.byte(kind);
    w.varint(n);
    if (n === 0) return;
    w.zigzag(us[0]!);
    w.varint(tick);
    for (let i = 1; i < n; i++) w.varint((us[i]! - us[i - 1]!) / tick);
  };
  if (Array.isArray(value)) {
    head(TEXTS);
    const words = [...new Set(value)];
    w.varint(words.length);
    for (const t of words) {
      w.varint(Math.min(t.length, MAX_TEXT));
      for (let i = 0; i < Math.min(t.length, MAX_TEXT); i++) w.varint(t.charCodeAt(i));
    }
    const index = new Map(words.map((t, i) => [t, i]));
    let last = 0;
    for (const t of value) {
      w.zigzag(index.get(t)! - last);
      last = index.get(t)!;
    }
    return w.done();
  }
  for (let i = 0; i < n; i++)
    if (!Number.isFinite(value[i])) throw new RangeError(`encodeColumn: value ${i} is ${value[i]}`);
  const distinct = new Set<number>();
  for (let i = 0; i < n && distinct.size * 4 <= n + 64; i++) distinct.add(value[i]!);
  // -0 and 0 are one key of a set: a column that holds -0 goes plain.
  const dictionary = distinct.size * 4 <= n + 64 && !value.some((v) => Object.is(v, -0));
  if (!dictionary) {
    head(PLAIN);
    w.planes(value);
    return w.done();
  }
  head(DICTIONARY);
  const words = Float64Array.from(distinct).sort();
  const index = new Map<number, number>();
  w.varint(words.length);
  words.forEach((v, i) => {
    w.float(v);
    index.set(v, i);
  });
  let last = 0;
  for (let i = 0; i < n; i++) {
    const k = index.get(value[i]!)!;
    w.zigzag(k - last);
    last = k;
  }
  return w.done();
}

/** A column from its bytes. Throws ColumnError on anything that `encodeColumn` would not have written. */
export function decodeColumn(bytes: Uint8Array): Column {
  const r = new ByteReader(bytes);
  for (const b of MAGIC) if (r.byte('magic') !== b) throw new ColumnError('byte 0: no column (JBC1)');
  const kind = r.byte('kind');
  const n = r.varint('count');
  if (n > COLUMN_MAX_SAMPLES) throw new ColumnError(`${n} samples: at most ${COLUMN_MAX_SAMPLES} a part`);
  const time = new Float64Array(n);
  if (n > 0) {
    let us = r.zigzag('first time');
    const tick = r.varint('tick');
    time[0] = us / 1e6;
    for (let i = 1; i < n; i++) {
      us += r.varint('time') * tick;
      time[i] = us / 1e6;
    }
    if (!(Math.abs(us) < 2 ** 52)) throw new ColumnError('times run out of range');
  }
  let value: Column['value'];
  if (kind === PLAIN) value = r.planes(n);
  else if (kind === DICTIONARY) {
    const k = words(r, n);
    const table = Float64Array.from({ length: k }, () => r.float('value'));
    const out = new Float64Array(n);
    indices(r, n, k, (i, index) => {
      out[i] = table[index]!;
    });
    value = out;
  } else if (kind === TEXTS) {
    const k = words(r, n);
    const table = Array.from({ length: k }, () => text(r));
    const out: string[] = new Array(n);
    indices(r, n, k, (i, index) => {
      out[i] = table[index]!;
    });
    value = out;
  } else throw new ColumnError(`byte 4: kind ${kind} is none of 1 to 3`);
  r.end();
  return { time, value };
}

/** One word of a dictionary of texts. */
export function text(r: ByteReader): string {
  const length = r.varint('length');
  if (length > MAX_TEXT) throw new ColumnError(`a text of ${length} characters: at most ${MAX_TEXT}`);
  return String.fromCharCode(...Array.from({ length }, () => r.varint('character') % 65_536));
}

export function words(r: ByteReader, n: number): number {
  const k = r.varint('dictionary');
  if (k > n || (n > 0 && k === 0)) throw new ColumnError(`a dictionary of ${k} for ${n} samples`);
  return k;
}

function indices(r: ByteReader, n: number, k: number, take: (i: number, index: number) => void) {
  let index = 0;
  for (let i = 0; i < n; i++) {
    index += r.zigzag('index');
    if (!(index >= 0 && index < k)) throw new ColumnError(`sample ${i}: entry ${index} of a dictionary of ${k}`);
    take(i, index);
  }
}
