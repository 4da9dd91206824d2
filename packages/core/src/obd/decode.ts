import { toHex } from '../can/index.ts';
import { dtcText } from './dtc.ts';
import type { Element, Pid } from './pids/pidRows.ts';
import { pidRow } from './pids/pids.ts';
import { decodeTestResults } from './testResults.ts';

/** One decoded value of a response. `value` is text for codes, names, enumerations and raw bytes. */
export interface Decoded {
  service: number;
  pid: number | null;
  name: string;
  value: number | string;
  unit: string;
}

/** Names of service 09 items. SAE J1979 (from memory). */
const INFO_TYPES: Record<number, string> = { 0: 'supported00', 2: 'vin', 4: 'calibrationId', 6: 'cvn', 10: 'ecuName' };
const CODE_SERVICES = new Set([0x03, 0x07, 0x0a]);

/**
 * Decode one complete response message (after transport reassembly), e.g. 41 0C 0B B8 → rpm 750.
 * Unknown or malformed items come back as `raw` with their bytes, never dropped. Requests decode to nothing.
 */
export function decodeResponse(payload: Uint8Array): Decoded[] {
  const sid = payload[0];
  if (sid === undefined) return [];
  if (sid === 0x7f) {
    return [
      { service: payload[1] ?? 0, pid: null, name: 'negativeResponse', value: toHex(payload.subarray(2)), unit: '' },
    ];
  }
  if (sid < 0x41 || sid > 0x4a) return [];
  const service = sid - 0x40;
  if (service === 0x01) return decodeData(service, payload.subarray(1), false);
  if (service === 0x02) return decodeData(service, payload.subarray(1), true);
  if (CODE_SERVICES.has(service)) return decodeCodes(service, payload.subarray(1));
  if (service === 0x06) return decodeTests(payload.subarray(1));
  if (service === 0x09) return decodeInfo(payload.subarray(1));
  if (service === 0x04) return [{ service, pid: null, name: 'codesCleared', value: 1, unit: '' }];
  return [raw(service, null, payload.subarray(1))];
}

/** Service 06: each test as value, least and most allowed; the bitmap of supported monitors as it is. */
function decodeTests(body: Uint8Array): Decoded[] {
  const monitor = body[0] ?? 0;
  if (monitor % 0x20 === 0 && body.length === 5)
    return [
      { service: 6, pid: monitor, name: `supported${toHex([monitor])}`, value: toHex(body.subarray(1)), unit: '' },
    ];
  const results = decodeTestResults(body);
  if (!results) return [raw(6, monitor, body.subarray(1))];
  return results.flatMap((r) => {
    const name = `test${toHex([r.test])}`;
    const row = (suffix: string, value: number): Decoded => ({
      service: 6,
      pid: r.monitor,
      name: name + suffix,
      value,
      unit: r.unit,
    });
    return [row('', r.value), row('Min', r.low), row('Max', r.high)];
  });
}

function raw(service: number, pid: number | null, bytes: Uint8Array): Decoded {
  return { service, pid, name: 'raw', value: toHex(bytes), unit: '' };
}

/** Service 01 (pid, data…) and 02 (pid, frame, data…), several in one message. */
function decodeData(service: number, body: Uint8Array, withFrame: boolean): Decoded[] {
  const out: Decoded[] = [];
  const head = withFrame ? 2 : 1;
  let i = 0;
  while (i < body.length) {
    const pid = body[i]!;
    const row = pidRow(pid);
    const data = body.subarray(i + head);
    if (!row || data.length < row.length) {
      out.push(raw(service, pid, data));
      break;
    }
    if (service === 0x02 && pid === 0x02) {
      out.push({ service, pid, name: 'freezeDtc', value: dtcText(data[0]!, data[1]!), unit: '' });
    } else if (row.elements.length === 0) out.push(raw(service, pid, data.subarray(0, row.length)));
    else for (const e of row.elements) pushElement(out, service, row, e, data);
    i += head + row.length;
  }
  return out;
}

function pushElement(out: Decoded[], service: number, row: Pid, e: Element, data: Uint8Array) {
  if (e.supportBit !== undefined && !((data[0]! >> e.supportBit) & 1)) return;
  const n = rawValue(e, data);
  if (e.absent !== undefined && n === e.absent) return;
  out.push({ service, pid: row.pid, name: e.id, value: elementValue(e, n), unit: e.unit });
}

function rawValue(e: Element, data: Uint8Array): number {
  let n = 0;
  for (let k = 0; k < e.bytes; k++) n = n * 256 + data[e.at + k]!;
  return e.signed && n >= 2 ** (8 * e.bytes - 1) ? n - 2 ** (8 * e.bytes) : n;
}

function elementValue(e: Element, n: number): number | string {
  if (e.kind === 'hex')
    return n
      .toString(16)
      .toUpperCase()
      .padStart(2 * e.bytes, '0');
  if (e.kind === 'enum') return e.texts?.[n] ?? `code ${n}`;
  return scaled(n, e.scale) + e.offset;
}

/** n·scale; where the scale is one over a whole number, the division, which gives 1.88 and not 1.8800000000000001. */
function scaled(n: number, scale: number): number {
  const inverse = Math.round(1 / scale);
  return inverse > 1 && Math.abs(inverse * scale - 1) < 1e-12 ? n / inverse : n * scale;
}

const rawFor = (e: Element, v: number) => (e.kind ? v : Math.round((v - e.offset) / e.scale));

/** Whether an element's bytes can say a value, in the element's unit, without its being cut or taken for "not there". */
export function canSay(e: Element, v: number): boolean {
  const n = rawFor(e, v);
  const [least, most] = e.signed
    ? [-(2 ** (8 * e.bytes - 1)), 2 ** (8 * e.bytes - 1) - 1]
    : [0, 2 ** (8 * e.bytes) - 1];
  return n >= least && n <= most && n !== e.absent;
}

/** Raw service 01 data bytes for one element's value: the inverse used by the simulated vehicle and the round-trip tests. */
export function encodePid(row: Pid, values: Record<string, number | undefined>): Uint8Array {
  const data = new Uint8Array(row.length);
  for (const e of row.elements) {
    const v = values[e.id];
    const top = 2 ** (8 * e.bytes) - 1;
    let n = v === undefined ? (e.absent ?? 0) : rawFor(e, v);
    if (e.signed && n < 0) n += top + 1;
    n = Math.min(Math.max(n, 0), top);
    for (let k = e.bytes - 1; k >= 0; k--) {
      data[e.at + k] = n % 256;
      n = Math.floor(n / 256);
    }
  }
  for (const e of row.elements) {
    if (e.supportBit !== undefined && values[e.id] !== undefined) data[0]! |= 1 << e.supportBit;
  }
  return data;
}

/** Services 03, 07, 0A on CAN: count, then two bytes a code. */
function decodeCodes(service: number, body: Uint8Array): Decoded[] {
  const count = body[0] ?? 0;
  if (count === 0) return [{ service, pid: null, name: 'dtcCount', value: 0, unit: '' }];
  const out: Decoded[] = [];
  for (let i = 0; i < count; i++) {
    const a = body[1 + 2 * i];
    const b = body[2 + 2 * i];
    if (a === undefined || b === undefined) {
      out.push(raw(service, null, body.subarray(1 + 2 * i)));
      break;
    }
    out.push({ service, pid: null, name: 'dtc', value: dtcText(a, b), unit: '' });
  }
  return out;
}

function decodeInfo(body: Uint8Array): Decoded[] {
  const pid = body[0] ?? 0;
  const name = INFO_TYPES[pid];
  if (pid % 0x20 === 0 && body.length >= 5) {
    return [{ service: 9, pid, name: name ?? `supported${toHex([pid])}`, value: toHex(body.subarray(1, 5)), unit: '' }];
  }
  if (name === 'vin' || name === 'calibrationId' || name === 'ecuName') {
    const size = name === 'vin' ? 17 : name === 'calibrationId' ? 16 : 20;
    const items: Decoded[] = [];
    for (let at = 2; at < body.length; at += size) {
      const text = ascii(body.subarray(at, at + size));
      if (text) items.push({ service: 9, pid, name, value: text, unit: '' });
    }
    if (items.length > 0) return items;
  }
  if (name === 'cvn') {
    const items: Decoded[] = [];
    for (let at = 2; at + 4 <= body.length; at += 4) {
      items.push({ service: 9, pid, name, value: toHex(body.subarray(at, at + 4)), unit: '' });
    }
    if (items.length > 0) return items;
  }
  return [raw(9, pid, body.subarray(1))];
}

function ascii(bytes: Uint8Array): string {
  let s = '';
  for (const b of bytes) if (b >= 0x20 && b <= 0x7e) s += String.fromCharCode(b);
  return s.trim();
}
