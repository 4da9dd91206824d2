import { oxygenSensors, supportedPids } from '../obd/index.ts';
import type { Answer } from './requester.ts';
import type { Ask } from './vehicleRecord.ts';

/** What a vehicle says of itself, before anybody types it. Null: not said. */
export interface VehicleIdentity {
  /** Service 09, 02. */
  vin: string | null;
  /** PID 51; null for fuels the product does not judge. */
  fuel: 'petrol' | 'diesel' | null;
  /** The same as the vehicle names it. */
  fuelName: string | null;
  /** PID 1C. */
  standard: string | null;
  /** PID 13 or 1D. */
  sensors: { bank: number; sensor: number; wide: boolean }[] | null;
  /** By the sensors, else by the trims it answers for. */
  banks: 1 | 2 | null;
  /** By which of airflow (10) and manifold pressure (0B) it answers for; with both it is a guess. */
  metering: 'maf' | 'speed-density' | 'both' | null;
}

const engineOf = (answers: readonly Answer[] | null) => (answers ?? []).find((a) => a.ecu === '7E8') ?? answers?.[0];

/** Ask a vehicle what it is. Null when it does not answer at all. */
export async function identifyVehicle(ask: Ask): Promise<VehicleIdentity | null> {
  const supported = new Set<number>();
  for (const base of [0x00, 0x20, 0x40]) {
    const p = engineOf(await ask([0x01, base], true))?.payload;
    if (p?.[0] !== 0x41 || p.length < 6) break;
    for (const pid of supportedPids(base, new DataView(p.buffer, p.byteOffset).getUint32(2))) supported.add(pid);
    if (!supported.has(base + 0x20)) break;
  }
  if (supported.size === 0) return null;
  const said = async (payload: readonly number[], name: string) => {
    const d = engineOf(await ask(payload, true))?.decoded.find((x) => x.name === name);
    return d ? String(d.value) : null;
  };
  const layoutPid = supported.has(0x13) ? 0x13 : supported.has(0x1d) ? 0x1d : null;
  const layout = layoutPid === null ? undefined : engineOf(await ask([0x01, layoutPid], true))?.payload;
  const sensors = layout && layout.length >= 3 ? oxygenSensors(layout[2]!, layoutPid!, supported) : null;
  const fuelName = supported.has(0x51) ? await said([0x01, 0x51], 'fuelType') : null;
  const [maf, map] = [supported.has(0x10), supported.has(0x0b)];
  return {
    vin: await said([0x09, 0x02], 'vin'),
    fuel: fuelName === 'petrol' || fuelName === 'diesel' ? fuelName : null,
    fuelName,
    standard: supported.has(0x1c) ? await said([0x01, 0x1c], 'obdStandard') : null,
    sensors,
    banks: sensors && sensors.length > 0 ? (sensors.some((s) => s.bank === 2) ? 2 : 1) : supported.has(0x08) ? 2 : 1,
    metering: maf && map ? 'both' : maf ? 'maf' : map ? 'speed-density' : null,
  };
}
