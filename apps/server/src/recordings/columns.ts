import { promisify } from 'node:util';
import { deflate, inflate } from 'node:zlib';
import {
  type Channel,
  COLUMN_MAX_SAMPLES,
  type Column,
  encodeColumn,
  LEAST_GAP_S,
  type TextChannel,
} from '@just-balance/core/series';
import type { CaptureColumn, CaptureRow } from '../rows/captures.ts';

const packed = promisify(deflate);
const unpacked = promisify(inflate);
/** A column of the most samples, uncompressed, with its dictionary: more is refused. */
const MAX_PLAIN_BYTES = 10 * COLUMN_MAX_SAMPLES + 4 * 1024 * 1024;

export type StoredColumn = Omit<CaptureColumn, keyof import('sequelize').Model | 'captureId' | 'shopId'>;

export const inflateColumn = async (data: Buffer): Promise<Uint8Array> =>
  unpacked(data, { maxOutputLength: MAX_PLAIN_BYTES });

/** What is stored of a part whose bytes are known to be good. */
export function storedPart(
  head: { channel: string; part: number; unit: string; quantum: number | null },
  column: Column,
  data: Buffer,
): StoredColumn {
  const n = column.time.length;
  return {
    ...head,
    kind: column.value instanceof Float64Array ? 'number' : 'text',
    n,
    fromS: n > 0 ? column.time[0]! : 0,
    toS: n > 0 ? column.time[n - 1]! : 0,
    data,
  };
}

/** All parts of a channel, in order. */
export async function partsOf(c: Channel | TextChannel): Promise<StoredColumn[]> {
  const out: StoredColumn[] = [];
  for (let at = 0, part = 0; at < c.time.length; at += COLUMN_MAX_SAMPLES, part++) {
    const column = {
      time: c.time.subarray(at, at + COLUMN_MAX_SAMPLES),
      value:
        c.value instanceof Float64Array
          ? c.value.subarray(at, at + COLUMN_MAX_SAMPLES)
          : c.value.slice(at, at + COLUMN_MAX_SAMPLES),
    };
    const head = {
      channel: c.id,
      part,
      unit: 'unit' in c ? c.unit : '',
      quantum: ('quantum' in c ? c.quantum : undefined) ?? null,
    };
    out.push(storedPart(head, column, await packed(encodeColumn(column))));
  }
  return out;
}

/** Committed rows as channels; times in s from the first row. */
export function channelsOfRows(
  rows: readonly CaptureRow[],
  units: ReadonlyMap<string, { unit: string; quantum?: number }>,
): { startedAtMs: number; numbers: Channel[]; texts: TextChannel[]; gaps: { from: number; to: number }[] } {
  const startedAtMs = rows.length > 0 ? Number(rows[0]!.atMs) : 0;
  const lists = new Map<string, [number, number | string][]>();
  const gaps: { from: number; to: number }[] = [];
  let end = 0;
  for (const r of rows) {
    const base = Number(r.atMs) - startedAtMs;
    if (base - end >= LEAST_GAP_S * 1000) gaps.push({ from: end / 1000, to: base / 1000 });
    for (const [channel, samples] of Object.entries(r.data)) {
      const list = lists.get(channel) ?? [];
      for (const [offsetMs, value] of samples) {
        list.push([base + offsetMs, value]);
        end = Math.max(end, base + offsetMs);
      }
      lists.set(channel, list);
    }
  }
  const numbers: Channel[] = [];
  const texts: TextChannel[] = [];
  for (const [id, list] of lists) {
    list.sort((a, b) => a[0] - b[0]);
    const time = Float64Array.from(list, ([t]) => t / 1000);
    if (typeof list[0]![1] === 'string') texts.push({ id, time, value: list.map(([, v]) => String(v)) });
    else
      numbers.push({
        id,
        unit: units.get(id)?.unit ?? '',
        ...(units.get(id)?.quantum === undefined ? {} : { quantum: units.get(id)!.quantum! }),
        time,
        value: Float64Array.from(list, ([, v]) => Number(v)),
      });
  }
  return { startedAtMs, numbers, texts, gaps };
}
