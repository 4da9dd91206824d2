import { fromHex, toHex } from '../can/index.ts';
import { decodeResponse, decodeTestResults, oxygenSensors, supportedPids, type TestResultRow } from '../obd/index.ts';
import type { Answer } from './requester.ts';

/** One question, to the engine's unit alone where that is said; null or nothing when nobody answers. */
export type Ask = (payload: readonly number[], engineOnly?: boolean) => Promise<readonly Answer[] | null>;

/** What clearing would wipe and what betrays a clearing, as one reading of the vehicle. */
export interface VehicleRecordData {
  codes: { code: string; state: 'stored' | 'pending' | 'permanent' }[];
  lampOn: boolean;
  /** The four bytes of PID 01, and of PID 41 (this drive), as hex digits. */
  monitorBytes: string;
  cycleBytes: string | null;
  freezeFrame: { name: string; value: number | string; unit: string }[];
  vin: string | null;
  sensors: { bank: number; sensor: number; wide: boolean }[] | null;
  /** PID 30 and 31. */
  warmupsSinceClear: number | null;
  distanceSinceClearKm: number | null;
  counters: Counters;
  /** Service 06. */
  tests: TestResultRow[];
}

/** Counters of the unit since codes were cleared or the lamp came on: km, minutes, warm-ups. */
export interface Counters {
  /** PID 1F: engine running in this drive. */
  runTimeS: number | null;
  /** PID 21 and 4D: with the lamp on. */
  lampDistanceKm: number | null;
  lampMinutes: number | null;
  /** PID 4E. */
  minutesSinceClear: number | null;
}

const ENGINE = '7E8';
const CODE_SERVICES = [
  [0x03, 'stored'],
  [0x07, 'pending'],
  [0x0a, 'permanent'],
] as const;
/** Groups of monitor identifiers in service 06, and the most of them that are asked for. [house] */
const GROUPS = [0x00, 0x20, 0x40, 0x60, 0x80, 0xa0] as const;
const MOST_TESTED = 60;

const engineOf = (answers: readonly Answer[]) => answers.find((a) => a.ecu === ENGINE) ?? answers[0];

/**
 * Read everything that clearing would wipe: codes, lamp, monitors and their results, freeze frame, counters, and the
 * VIN. Null when the vehicle does not answer the monitor question at all: nothing half-read is kept.
 */
export async function readVehicleRecord(ask: Ask): Promise<VehicleRecordData | null> {
  const values = async (payload: readonly number[], engineOnly = true) =>
    ((await ask(payload, engineOnly)) ?? []).flatMap((a) => a.decoded);
  // Several units answer; the monitors that count are the engine's, 7E8 where it is among them (ISO 15765-4).
  const status = await monitorBytes(ask, 0x01);
  if (!status) return null;
  const codes: VehicleRecordData['codes'] = [];
  for (const [service, state] of CODE_SERVICES) {
    for (const d of await values([service], false)) if (d.name === 'dtc') codes.push({ code: String(d.value), state });
  }
  const number = async (pid: number) => {
    const d = (await values([0x01, pid])).find((x) => typeof x.value === 'number' && x.name !== 'negativeResponse');
    return typeof d?.value === 'number' ? d.value : null;
  };
  const cycle = await monitorBytes(ask, 0x41);
  const vin = (await values([0x09, 0x02])).find((d) => d.name === 'vin');
  return {
    codes,
    lampOn: (status[0]! & 0x80) !== 0,
    monitorBytes: toHex(status),
    cycleBytes: cycle ? toHex(cycle) : null,
    freezeFrame: await readFreezeFrame(ask),
    vin: vin ? String(vin.value) : null,
    sensors: await readSensors(ask),
    warmupsSinceClear: await number(0x30),
    distanceSinceClearKm: await number(0x31),
    counters: {
      runTimeS: await number(0x1f),
      lampDistanceKm: await number(0x21),
      lampMinutes: await number(0x4d),
      minutesSinceClear: await number(0x4e),
    },
    tests: await readTests(ask),
  };
}

async function monitorBytes(ask: Ask, pid: number): Promise<Uint8Array | null> {
  const all = ((await ask([0x01, pid], true)) ?? []).filter(
    (a) => a.payload[0] === 0x41 && a.payload[1] === pid && a.payload.length >= 6,
  );
  return engineOf(all)?.payload.subarray(2, 6) ?? null;
}

/** Service 06: which monitors have results, then each of them. */
async function readTests(ask: Ask): Promise<TestResultRow[]> {
  const monitors: number[] = [];
  for (const base of GROUPS) {
    const support = engineOf(
      ((await ask([0x06, base], true)) ?? []).filter((a) => a.payload[0] === 0x46 && a.payload.length === 6),
    )?.payload;
    if (!support) break;
    const here = supportedPids(base, new DataView(support.buffer, support.byteOffset).getUint32(2));
    monitors.push(...here.filter((m) => m % 0x20 !== 0));
    if (!here.includes(base + 0x20)) break;
  }
  const rows: TestResultRow[] = [];
  for (const m of monitors.slice(0, MOST_TESTED)) {
    const a = engineOf(((await ask([0x06, m], true)) ?? []).filter((x) => x.payload[0] === 0x46));
    if (a) rows.push(...(decodeTestResults(a.payload.subarray(1)) ?? []).filter((r) => r.monitor === m));
  }
  return rows;
}

/** Which oxygen sensors are fitted, and which of them are wide-band. */
async function readSensors(ask: Ask): Promise<VehicleRecordData['sensors']> {
  const bytes = async (pid: number) =>
    engineOf(((await ask([0x01, pid], true)) ?? []).filter((a) => a.payload[0] === 0x41 && a.payload[1] === pid))
      ?.payload;
  const two = await bytes(0x13);
  const four = two ? undefined : await bytes(0x1d);
  const layout = two ?? four;
  if (!layout || layout.length < 3) return null;
  const wide = new Set<number>();
  const support = await bytes(0x20);
  if (support && support.length >= 6)
    for (const pid of supportedPids(0x20, new DataView(support.buffer, support.byteOffset).getUint32(2))) wide.add(pid);
  return oxygenSensors(layout[2]!, two ? 0x13 : 0x1d, wide);
}

async function readFreezeFrame(ask: Ask): Promise<VehicleRecordData['freezeFrame']> {
  const first = ((await ask([0x02, 0x02, 0x00], true)) ?? [])
    .flatMap((a) => a.decoded)
    .find((d) => d.name === 'freezeDtc');
  if (!first || first.value === 'P0000') return [];
  const out = [{ name: 'freezeDtc', value: first.value, unit: '' }];
  const support = engineOf(((await ask([0x02, 0x00, 0x00], true)) ?? []).filter((a) => a.payload[0] === 0x42))?.payload;
  if (!support || support.length < 7) return out;
  const pids = supportedPids(0, new DataView(support.buffer, support.byteOffset).getUint32(3)).filter(
    (p) => p !== 0x02 && p < 0x20,
  );
  for (const pid of pids) {
    for (const a of (await ask([0x02, pid, 0x00], true)) ?? []) {
      for (const d of a.decoded)
        if (d.name !== 'raw' && d.name !== 'negativeResponse') out.push({ name: d.name, value: d.value, unit: d.unit });
    }
  }
  return out;
}

/** One question with the answers it got, as hex digits: how a reading taken elsewhere travels. */
export interface HeardAnswer {
  asked: string;
  ecu: string;
  payload: string;
}

/** Answers that were heard elsewhere, as if they came now; what was not asked there is silence. */
export function replayed(heard: readonly HeardAnswer[]): Ask {
  const byQuestion = new Map<string, Answer[]>();
  for (const { asked, ecu, payload } of heard) {
    const bytes = fromHex(payload);
    if (!bytes || bytes.length === 0) continue;
    const list = byQuestion.get(asked.toUpperCase()) ?? [];
    list.push({ ecu: ecu.toUpperCase(), payload: bytes, decoded: decodeResponse(bytes) });
    byQuestion.set(asked.toUpperCase(), list);
  }
  return (payload) => Promise.resolve(byQuestion.get(toHex(payload).toUpperCase()) ?? []);
}

/** The other end of `replayed`: asks, and keeps what was heard. */
export function listening(ask: Ask): { ask: Ask; heard: HeardAnswer[] } {
  const heard: HeardAnswer[] = [];
  return {
    heard,
    ask: async (payload, engineOnly) => {
      const answers = (await ask(payload, engineOnly)) ?? [];
      for (const a of answers) heard.push({ asked: toHex(payload), ecu: a.ecu, payload: toHex(a.payload) });
      return answers;
    },
  };
}
