import type { Channel, Series, TextChannel } from '../series/index.ts';

/** The capture format of the contract, version 1, as parsed JSON. */
interface CaptureJson {
  format: 'just-balance/capture';
  version: 1;
  startedAt: string | null;
  vehicle?: unknown;
  channels: { id: string; unit: string; quantum?: number; time: number[]; value: number[] }[];
  /** Words beside the numbers (loop state); a reader that does not know them loses nothing else. */
  texts?: { id: string; time: number[]; value: string[] }[];
  marks?: { at: string; from: number; to: number }[];
}

/** A capture file read, or why it is none. */
export type CaptureRead = { ok: true; series: Series } | { ok: false; field: string; message: string };
type CaptureProblem = Extract<CaptureRead, { ok: false }>;

const bad = (field: string, message: string): CaptureProblem => ({ ok: false, field, message });

/** What is wrong with a capture beside its channels and texts; null where nothing is. */
export function captureProblem(json: unknown): CaptureProblem | null {
  const c = json as CaptureJson;
  if (c === null || typeof c !== 'object' || Array.isArray(c)) return bad('', 'a capture is a JSON object');
  if (c.format !== 'just-balance/capture') return bad('format', 'must be "just-balance/capture"');
  if (c.version !== 1)
    return bad(
      'version',
      `${String(c.version)} is not a version this program reads (1)${Number(c.version) > 1 ? ': update it' : ''}`,
    );
  return Array.isArray(c.channels) ? null : bad('channels', 'a list');
}

/** The `i`th channel of a capture; says which field is wrong. The whole of it is checked: finite, rising, equal in length. */
export function captureChannel(json: unknown, i: number): { ok: true; channel: Channel } | CaptureProblem {
  const k = json as CaptureJson['channels'][number] | null | undefined;
  const at = `channels[${i}]`;
  const lengths = lengthsProblem(k, at);
  if (lengths || !k) return lengths ?? bad(at, 'a channel');
  if (typeof k.unit !== 'string') return bad(`${at}.unit`, 'a text');
  if (k.quantum !== undefined && !Number.isFinite(k.quantum)) return bad(`${at}.quantum`, 'not a finite number');
  const times = timesProblem(k.time, at);
  if (times) return times;
  const odd = k.value.findIndex((v) => !Number.isFinite(v));
  if (odd >= 0) return bad(`${at}.value[${odd}]`, 'not a finite number');
  const channel = {
    id: k.id,
    unit: k.unit,
    ...(k.quantum === undefined ? {} : { quantum: k.quantum }),
    time: Float64Array.from(k.time),
    value: Float64Array.from(k.value),
  };
  return { ok: true, channel };
}

/** The `i`th channel of words of a capture; says which field is wrong, as `captureChannel` does. */
export function captureTexts(json: unknown, i: number): { ok: true; channel: TextChannel } | CaptureProblem {
  const t = json as NonNullable<CaptureJson['texts']>[number] | null | undefined;
  const at = `texts[${i}]`;
  const problem = lengthsProblem(t, at) ?? timesProblem(t!.time, at);
  if (problem) return problem;
  const odd = t!.value.findIndex((v) => typeof v !== 'string');
  if (odd >= 0) return bad(`${at}.value[${odd}]`, 'a text');
  return { ok: true, channel: { id: t!.id, time: Float64Array.from(t!.time), value: [...t!.value] } };
}

function lengthsProblem(
  k: { id?: unknown; time?: unknown; value?: unknown } | null | undefined,
  at: string,
): CaptureProblem | null {
  if (typeof k?.id !== 'string' || k.id === '') return bad(`${at}.id`, 'a text');
  const [times, values] = [k.time, k.value].map((list) => (Array.isArray(list) ? list.length : undefined));
  return times === undefined || times !== values
    ? bad(`${at}.value`, `as many values as times, got ${values} for ${times}`)
    : null;
}

function timesProblem(time: readonly number[], at: string): CaptureProblem | null {
  for (let j = 0; j < time.length; j++) {
    if (!Number.isFinite(time[j])) return bad(`${at}.time[${j}]`, 'not a finite number');
    if (j > 0 && time[j]! < time[j - 1]!) return bad(`${at}.time[${j}]`, 'goes back in time');
  }
  return null;
}

/** Parsed JSON as a series; says which field is wrong. */
export function readCapture(json: unknown): CaptureRead {
  const problem = captureProblem(json);
  if (problem) return problem;
  const c = json as CaptureJson;
  const channels: Channel[] = [];
  for (const [i, k] of c.channels.entries()) {
    const read = captureChannel(k, i);
    if (!read.ok) return read;
    channels.push(read.channel);
  }
  const texts: TextChannel[] = [];
  for (const [i, t] of (Array.isArray(c.texts) ? c.texts : []).entries()) {
    const read = captureTexts(t, i);
    if (!read.ok) return read;
    texts.push(read.channel);
  }
  return {
    ok: true,
    series: { startedAt: startOf(c), channels, ...(texts.length > 0 ? { texts } : {}), marks: c.marks ?? [] },
  };
}

/** Files of this program once said 1970 where a recording had no clock. */
const NO_CLOCK = '1970-01-01T00:00:00.000Z';
const startOf = (c: CaptureJson) => (typeof c.startedAt !== 'string' || c.startedAt === NO_CLOCK ? null : c.startedAt);

/** The capture format's fields before its channels. Of a recording without a clock the start is null: nobody knows it. */
export function captureHead(startedAt: string | null) {
  return { format: 'just-balance/capture', version: 1, startedAt, vehicle: {} } as const;
}

/** A series as the capture format, ready for JSON. */
export function writeCapture(s: Series): CaptureJson & { vehicle: object } {
  return {
    ...captureHead(s.startedAt),
    channels: s.channels.map((c) => ({
      id: c.id,
      unit: c.unit,
      ...(c.quantum === undefined ? {} : { quantum: c.quantum }),
      time: Array.from(c.time),
      value: Array.from(c.value),
    })),
    ...(s.texts?.length ? { texts: s.texts.map((t) => ({ id: t.id, time: Array.from(t.time), value: t.value })) } : {}),
    marks: s.marks,
  };
}
