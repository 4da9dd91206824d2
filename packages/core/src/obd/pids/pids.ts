import { el, hex, narrow, one, PCT, type Pid, temp, trim, wide } from './pidRows.ts';
import { LATER_PIDS } from './pidsLater.ts';

export type { Pid } from './pidRows.ts';

/** Fuel system status, PID 03. SAE J1979 (from memory). */
export const FUEL_SYSTEM_TEXT: Record<number, string> = {
  0: 'not reported',
  1: 'open loop, not yet warm',
  2: 'closed loop',
  4: 'open loop, load or deceleration',
  8: 'open loop, system fault',
  16: 'closed loop, one sensor faulty',
};

/** OBD requirement, PID 1C: the rows met most. SAE J1979 (from memory). */
const OBD_STANDARD: Record<number, string> = {
  1: 'OBD II (CARB)',
  2: 'OBD (EPA)',
  3: 'OBD and OBD II',
  6: 'EOBD',
  7: 'EOBD and OBD II',
};
/** Fuel type, PID 51. SAE J1979 (from memory). */
const FUEL_TYPE: Record<number, string> = { 1: 'petrol', 2: 'methanol', 3: 'ethanol', 4: 'diesel', 5: 'LPG', 6: 'CNG' };

/** The parameters that are read, by number. SAE J1979-DA. */
export const PIDS: readonly Pid[] = [
  ...[0x00, 0x20, 0x40, 0x60, 0x80, 0xa0].map((p) =>
    one(p, 4, hex(`supported${p.toString(16).padStart(2, '0').toUpperCase()}`, 'Supported PIDs', 4)),
  ),
  one(0x01, 4, hex('monitorStatus', 'Monitor status since codes cleared', 4)),
  one(0x02, 2, hex('freezeDtc', 'Code that stored the freeze frame', 2)),
  {
    pid: 0x03,
    length: 2,
    name: 'Fuel system status',
    elements: [
      el('fuelSys1', 'Fuel system 1 status', '', { kind: 'enum', texts: FUEL_SYSTEM_TEXT }),
      el('fuelSys2', 'Fuel system 2 status', '', { at: 1, kind: 'enum', texts: FUEL_SYSTEM_TEXT }),
    ],
  },
  one(0x04, 1, el('load', 'Calculated load', '%', { scale: PCT })),
  one(0x05, 1, temp('ect', 'Engine coolant temperature')),
  one(0x06, 1, trim('stft1', 'Short term fuel trim, bank 1')),
  one(0x07, 1, trim('ltft1', 'Long term fuel trim, bank 1')),
  one(0x08, 1, trim('stft2', 'Short term fuel trim, bank 2')),
  one(0x09, 1, trim('ltft2', 'Long term fuel trim, bank 2')),
  one(0x0a, 1, el('fuelPressure', 'Fuel rail pressure (gauge)', 'kPa', { scale: 3 })),
  one(0x0b, 1, el('map', 'Intake manifold absolute pressure', 'kPa')),
  one(0x0c, 2, el('rpm', 'Engine speed', 'rpm', { bytes: 2, scale: 0.25 })),
  one(0x0d, 1, el('vss', 'Vehicle speed', 'km/h')),
  one(0x0e, 1, el('sparkAdv', 'Ignition timing advance', '°', { scale: 0.5, offset: -64 })),
  one(0x0f, 1, temp('iat', 'Intake air temperature')),
  one(0x10, 2, el('maf', 'Mass air flow', 'g/s', { bytes: 2, scale: 0.01 })),
  one(0x11, 1, el('tp', 'Absolute throttle position', '%', { scale: PCT })),
  one(0x12, 1, hex('secondaryAir', 'Commanded secondary air status', 1)),
  one(0x13, 1, hex('o2sLocation', 'O2 sensors present, two banks', 1)),
  narrow(0x14, 1, 1),
  narrow(0x15, 1, 2),
  narrow(0x16, 1, 3),
  narrow(0x17, 1, 4),
  narrow(0x18, 2, 1),
  narrow(0x19, 2, 2),
  narrow(0x1a, 2, 3),
  narrow(0x1b, 2, 4),
  one(0x1c, 1, el('obdStandard', 'OBD requirement', '', { kind: 'enum', texts: OBD_STANDARD })),
  one(0x1d, 1, hex('o2sLocation4', 'O2 sensors present, four banks', 1)),
  one(0x1e, 1, hex('auxiliaryInput', 'Auxiliary input status', 1)),
  one(0x1f, 2, el('runTime', 'Run time since engine start', 's', { bytes: 2 })),
  one(0x21, 2, el('distanceMil', 'Distance with lamp on', 'km', { bytes: 2 })),
  one(0x22, 2, el('railRelative', 'Fuel rail pressure, manifold-referenced', 'kPa', { bytes: 2, scale: 0.079 })),
  one(0x23, 2, el('railGauge', 'Fuel rail pressure, direct injection', 'kPa', { bytes: 2, scale: 10 })),
  wide(0x24, 1, 1, 'V'),
  wide(0x25, 1, 2, 'V'),
  wide(0x26, 1, 3, 'V'),
  wide(0x27, 1, 4, 'V'),
  wide(0x28, 2, 1, 'V'),
  wide(0x29, 2, 2, 'V'),
  wide(0x2a, 2, 3, 'V'),
  wide(0x2b, 2, 4, 'V'),
  one(0x2c, 1, el('egrCommanded', 'Commanded EGR', '%', { scale: PCT })),
  one(0x2d, 1, trim('egrError', 'EGR error')),
  one(0x2e, 1, el('purge', 'Commanded evaporative purge', '%', { scale: PCT })),
  one(0x2f, 1, el('fuelLevel', 'Fuel level', '%', { scale: PCT })),
  one(0x30, 1, el('warmups', 'Warm-ups since codes cleared', '')),
  one(0x31, 2, el('distanceClear', 'Distance since codes cleared', 'km', { bytes: 2 })),
  one(0x32, 2, el('evapPressure', 'EVAP system vapor pressure', 'Pa', { bytes: 2, scale: 0.25, signed: true })),
  one(0x33, 1, el('baro', 'Barometric pressure', 'kPa')),
  wide(0x34, 1, 1, 'mA'),
  wide(0x35, 1, 2, 'mA'),
  wide(0x36, 1, 3, 'mA'),
  wide(0x37, 1, 4, 'mA'),
  wide(0x38, 2, 1, 'mA'),
  wide(0x39, 2, 2, 'mA'),
  wide(0x3a, 2, 3, 'mA'),
  wide(0x3b, 2, 4, 'mA'),
  one(0x3c, 2, el('catTemp11', 'Catalyst temperature, bank 1 sensor 1', '°C', { bytes: 2, scale: 0.1, offset: -40 })),
  one(0x3d, 2, el('catTemp21', 'Catalyst temperature, bank 2 sensor 1', '°C', { bytes: 2, scale: 0.1, offset: -40 })),
  one(0x3e, 2, el('catTemp12', 'Catalyst temperature, bank 1 sensor 2', '°C', { bytes: 2, scale: 0.1, offset: -40 })),
  one(0x3f, 2, el('catTemp22', 'Catalyst temperature, bank 2 sensor 2', '°C', { bytes: 2, scale: 0.1, offset: -40 })),
  one(0x41, 4, hex('monitorStatusCycle', 'Monitor status this drive cycle', 4)),
  one(0x42, 2, el('vbat', 'Control module voltage', 'V', { bytes: 2, scale: 0.001 })),
  one(0x43, 2, el('loadAbs', 'Absolute load', '%', { bytes: 2, scale: PCT })),
  one(0x44, 2, el('lambdaCmd', 'Commanded lambda', 'λ', { bytes: 2, scale: 2 / 65536 })),
  one(0x45, 1, el('tpRel', 'Relative throttle position', '%', { scale: PCT })),
  one(0x46, 1, temp('ambient', 'Ambient air temperature')),
  one(0x47, 1, el('tpB', 'Absolute throttle position B', '%', { scale: PCT })),
  one(0x48, 1, el('tpC', 'Absolute throttle position C', '%', { scale: PCT })),
  one(0x49, 1, el('app', 'Accelerator pedal position D', '%', { scale: PCT })),
  one(0x4a, 1, el('appE', 'Accelerator pedal position E', '%', { scale: PCT })),
  one(0x4b, 1, el('appF', 'Accelerator pedal position F', '%', { scale: PCT })),
  one(0x4c, 1, el('tpCmd', 'Commanded throttle actuator', '%', { scale: PCT })),
  one(0x4d, 2, el('timeMil', 'Time run with lamp on', 'min', { bytes: 2 })),
  one(0x4e, 2, el('timeClear', 'Time since codes cleared', 'min', { bytes: 2 })),
  one(0x51, 1, el('fuelType', 'Fuel type', '', { kind: 'enum', texts: FUEL_TYPE })),
  one(0x52, 1, el('ethanol', 'Ethanol fuel', '%', { scale: PCT })),
  one(0x5c, 1, temp('oilTemp', 'Engine oil temperature')),
  one(0x5e, 2, el('fuelRate', 'Engine fuel rate', 'L/h', { bytes: 2, scale: 0.05 })),
  ...LATER_PIDS,
];

const BY_PID = new Map(PIDS.map((p) => [p.pid, p]));

/** The row of a service 01 parameter, or undefined when the table has none. */
export function pidRow(pid: number): Pid | undefined {
  return BY_PID.get(pid);
}

/** The greatest value a channel's bytes can carry: a signal that stands there is pegged. */
export const FULL_SCALE: ReadonlyMap<string, number> = new Map(
  PIDS.flatMap((p) =>
    p.elements
      .filter((e) => !e.kind && !e.signed)
      .map((e) => [e.id, (256 ** e.bytes - 1) * e.scale + e.offset] as const),
  ),
);

/** The step of a channel's bytes, in the channel's unit: nothing finer than it was ever said. */
export const QUANTUM: ReadonlyMap<string, number> = new Map(
  PIDS.flatMap((p) => p.elements.filter((e) => !e.kind).map((e) => [e.id, e.scale] as const)),
);
