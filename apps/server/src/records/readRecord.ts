import { toHex } from '@just-balance/core/can';
import type { Answer } from '@just-balance/core/link';
import { oxygenSensors, supportedPids } from '@just-balance/core/obd';
import type { VehicleRecord } from '../database/models.ts';

type Ask = (payload: readonly number[]) => Promise<Answer[] | null>;

const ENGINE = '7E8';

const CODE_SERVICES = [
  [0x03, 'stored'],
  [0x07, 'pending'],
  [0x0a, 'permanent'],
] as const;

/**
 * Read everything that clearing would wipe: codes, lamp, monitors, freeze frame, counters, and the VIN.
 * Null when the vehicle does not answer the monitor question at all: nothing half-read is kept.
 */
export async function readRecord(ask: Ask, phase: 'before' | 'after'): Promise<VehicleRecord['data'] | null> {
  const values = async (payload: readonly number[]) => ((await ask(payload)) ?? []).flatMap((a) => a.decoded);
  // Several units answer; the monitors that count are the engine's, 7E8 where it is among them (ISO 15765-4).
  const all = ((await ask([0x01, 0x01])) ?? []).filter((a) => a.payload[0] === 0x41 && a.payload.length >= 6);
  const status = all.find((a) => a.ecu === ENGINE) ?? all[0];
  if (!status) return null;
  const monitorBytes = toHex(status.payload.subarray(2, 6));
  const codes: VehicleRecord['data']['codes'] = [];
  for (const [service, state] of CODE_SERVICES) {
    for (const d of await values([service])) if (d.name === 'dtc') codes.push({ code: String(d.value), state });
  }
  const number = async (pid: number) => {
    const d = (await values([0x01, pid])).find((x) => typeof x.value === 'number');
    return typeof d?.value === 'number' ? d.value : null;
  };
  const vin = (await values([0x09, 0x02])).find((d) => d.name === 'vin');
  return {
    phase,
    source: 'link',
    codes,
    lampOn: (status.payload[2]! & 0x80) !== 0,
    monitorBytes,
    freezeFrame: await readFreezeFrame(ask),
    vin: vin ? String(vin.value) : null,
    sensors: await readSensors(ask),
    warmupsSinceClear: await number(0x30),
    distanceSinceClearKm: await number(0x31),
  };
}

/** Which oxygen sensors are fitted, and which of them are wide-band. */
async function readSensors(ask: Ask) {
  const bytes = async (pid: number) => {
    const answers = ((await ask([0x01, pid])) ?? []).filter((a) => a.payload[0] === 0x41 && a.payload[1] === pid);
    return (answers.find((a) => a.ecu === ENGINE) ?? answers[0])?.payload;
  };
  const two = await bytes(0x13);
  const four = two ? undefined : await bytes(0x1d);
  const layout = two ?? four;
  if (!layout || layout.length < 3) return null;
  const wide = new Set<number>();
  for (const base of [0x20] as const) {
    const support = await bytes(base);
    if (support && support.length >= 6)
      for (const pid of supportedPids(base, new DataView(support.buffer, support.byteOffset).getUint32(2)))
        wide.add(pid);
  }
  return oxygenSensors(layout[2]!, two ? 0x13 : 0x1d, wide);
}

async function readFreezeFrame(ask: Ask): Promise<VehicleRecord['data']['freezeFrame']> {
  const first = ((await ask([0x02, 0x02, 0x00])) ?? []).flatMap((a) => a.decoded).find((d) => d.name === 'freezeDtc');
  if (!first || first.value === 'P0000') return [];
  const out = [{ name: 'freezeDtc', value: first.value, unit: '' }];
  const supports = ((await ask([0x02, 0x00, 0x00])) ?? []).filter((a) => a.payload[0] === 0x42);
  const support = (supports.find((a) => a.ecu === ENGINE) ?? supports[0])?.payload;
  if (!support || support.length < 7) return out;
  const pids = supportedPids(0, new DataView(support.buffer, support.byteOffset).getUint32(3)).filter(
    (p) => p !== 0x02 && p < 0x20,
  );
  for (const pid of pids) {
    for (const a of (await ask([0x02, pid, 0x00])) ?? []) {
      for (const d of a.decoded)
        if (d.name !== 'raw' && d.name !== 'negativeResponse') out.push({ name: d.name, value: d.value, unit: d.unit });
    }
  }
  return out;
}
