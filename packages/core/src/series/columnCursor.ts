import { ByteReader, ColumnError } from './byteReader.ts';
import { COLUMN_MAX_SAMPLES, DICTIONARY, MAGIC, PLAIN, TEXTS, text, words } from './column.ts';

/**
 * Walks through a column's bytes sample by sample, in place: a part of half a million samples costs its bytes and its
 * dictionary, not two arrays of numbers. For files written out of many columns at once. Throws ColumnError as
 * `decodeColumn` does.
 */
export class ColumnCursor {
  readonly length: number;
  /** Of the present sample: s, and its value. Undefined before the first `next`. */
  time = Number.NaN;
  value: number | string = Number.NaN;
  private index = -1;
  private us = 0;
  private tick = 1;
  private entry = 0;
  private readonly kind: number;
  private readonly times: ByteReader;
  private readonly values: ByteReader;
  private readonly table: readonly (number | string)[] = [];
  private readonly raw = new DataView(new ArrayBuffer(8));

  constructor(private readonly bytes: Uint8Array) {
    const r = new ByteReader(bytes);
    for (const b of MAGIC) if (r.byte('magic') !== b) throw new ColumnError('byte 0: no column (JBC1)');
    this.kind = r.byte('kind');
    this.length = r.varint('count');
    if (this.length > COLUMN_MAX_SAMPLES)
      throw new ColumnError(`${this.length} samples: at most ${COLUMN_MAX_SAMPLES} a part`);
    this.times = r;
    if (this.length > 0) {
      this.us = r.zigzag('first time');
      this.tick = r.varint('tick');
    }
    this.values = new ByteReader(bytes);
    this.values.at = r.at;
    this.values.skip(Math.max(0, this.length - 1), 'time');
    if (this.kind === PLAIN) this.values.need(8 * this.length, 'values');
    else if (this.kind === DICTIONARY)
      this.table = Array.from({ length: words(this.values, this.length) }, () => this.values.float('value'));
    else if (this.kind === TEXTS)
      this.table = Array.from({ length: words(this.values, this.length) }, () => text(this.values));
    else throw new ColumnError(`byte 4: kind ${this.kind} is none of 1 to 3`);
  }

  /** To the next sample; false when there is none. */
  next(): boolean {
    if (this.index + 1 >= this.length) return false;
    this.index++;
    if (this.index > 0) this.us += this.times.varint('time') * this.tick;
    this.time = this.us / 1e6;
    if (this.kind === PLAIN) {
      const { at } = this.values;
      for (let p = 0; p < 8; p++) this.raw.setUint8(p, this.bytes[at + p * this.length + this.index]!);
      this.value = this.raw.getFloat64(0, true);
      return true;
    }
    this.entry += this.values.zigzag('index');
    const word = this.table[this.entry];
    if (word === undefined)
      throw new ColumnError(`sample ${this.index}: entry ${this.entry} of a dictionary of ${this.table.length}`);
    this.value = word;
    return true;
  }
}
