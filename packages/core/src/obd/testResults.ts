import type { MonitorId } from './monitors.ts';

/**
 * Service 06 on CAN: results of on-board tests with their limits. SAE J1979 (from memory).
 *
 *   46, then groups of nine bytes: monitor, test, unit-and-scaling, value (2), least allowed (2), most allowed (2)
 */
export interface TestResultRow {
  monitor: number;
  test: number;
  label: string;
  unit: string;
  value: number;
  low: number;
  high: number;
  passed: boolean;
  /** How much of what is allowed was left, %: 0 at the limit, below 0 past it; null where no side is limited. */
  sparePct: number | null;
}

interface Scaling {
  unit: string;
  scale: number;
  offset?: number;
}
const s = (unit: string, scale: number, offset?: number): Scaling =>
  offset === undefined ? { unit, scale } : { unit, scale, offset };

/** Unit-and-scaling identifiers; from 80 on the value is signed. SAE J1979 appendix (from memory). */
const SCALINGS: Readonly<Record<number, Scaling>> = {
  1: s('', 1),
  2: s('', 0.1),
  3: s('', 0.01),
  4: s('', 0.001),
  5: s('', 0.0000305),
  6: s('', 0.000305),
  7: s('rpm', 0.25),
  8: s('km/h', 0.01),
  9: s('km/h', 1),
  10: s('mV', 0.122),
  11: s('V', 0.001),
  12: s('V', 0.01),
  13: s('mA', 1 / 256),
  14: s('A', 0.001),
  15: s('A', 0.01),
  16: s('ms', 1),
  17: s('ms', 100),
  18: s('s', 1),
  19: s('mΩ', 1),
  20: s('Ω', 1),
  21: s('kΩ', 1),
  22: s('°C', 0.1, -40),
  23: s('kPa', 0.01),
  24: s('kPa', 0.0117),
  25: s('kPa', 0.079),
  26: s('kPa', 1),
  27: s('kPa', 10),
  28: s('°', 0.01),
  29: s('°', 0.5),
  30: s('λ', 0.0000305),
  31: s('A/F', 0.05),
  32: s('', 1 / 256),
  33: s('mHz', 1),
  34: s('Hz', 1),
  35: s('kHz', 1),
  36: s('counts', 1),
  37: s('km', 1),
  38: s('mV/ms', 0.1),
  39: s('g/s', 0.01),
  40: s('g/s', 1),
  41: s('Pa/s', 0.25),
  42: s('kg/h', 0.001),
  43: s('switches', 1),
  44: s('g/cyl', 0.01),
  45: s('mg/stroke', 0.01),
  46: s('', 1),
  47: s('%', 0.01),
  48: s('%', 0.001526),
  49: s('L', 0.001),
  50: s('in', 0.0000305),
  51: s('λ', 0.00024414),
  52: s('min', 1),
  53: s('s', 0.01),
  54: s('g', 0.01),
  55: s('g', 0.1),
  56: s('g', 1),
  57: s('%', 0.01),
  129: s('', 1),
  130: s('', 0.1),
  131: s('', 0.01),
  132: s('', 0.001),
  133: s('', 0.0000305),
  134: s('', 0.000305),
  138: s('mV', 0.122),
  139: s('V', 0.001),
  140: s('V', 0.01),
  141: s('mA', 1 / 256),
  142: s('A', 0.001),
  144: s('s', 0.001),
  150: s('°C', 0.1),
  156: s('°', 0.01),
  157: s('°', 0.5),
  168: s('g/s', 1),
  169: s('Pa/s', 0.25),
  175: s('%', 0.01),
  176: s('%', 0.003052),
  177: s('mV/s', 2),
  252: s('kPa', 0.01),
  253: s('kPa', 0.001),
  254: s('Pa', 0.25),
};

const sensor = (n: number) => `bank ${Math.floor(n / 4) + 1} sensor ${(n % 4) + 1}`;

/** What a monitor identifier stands for. SAE J1979 appendix (from memory). */
export function monitorLabel(monitor: number): string {
  const within = (low: number, high: number) => monitor >= low && monitor <= high;
  if (within(0x01, 0x10)) return `Oxygen sensor, ${sensor(monitor - 1)}`;
  if (within(0x21, 0x24)) return `Catalyst, bank ${monitor - 0x20}`;
  if (within(0x31, 0x34)) return `EGR, bank ${monitor - 0x30}`;
  if (within(0x35, 0x38)) return `Variable valve timing, bank ${monitor - 0x34}`;
  if (within(0x39, 0x3c)) return ['EVAP, cap off', 'EVAP, 2.3 mm', 'EVAP, 1.0 mm', 'EVAP, 0.5 mm'][monitor - 0x39]!;
  if (monitor === 0x3d) return 'Purge flow';
  if (within(0x41, 0x50)) return `Oxygen sensor heater, ${sensor(monitor - 0x41)}`;
  if (within(0x61, 0x64)) return `Heated catalyst, bank ${monitor - 0x60}`;
  if (within(0x71, 0x74)) return `Secondary air ${monitor - 0x70}`;
  if (within(0x81, 0x84)) return `Fuel system, bank ${monitor - 0x80}`;
  if (within(0x85, 0x86)) return `Boost pressure, bank ${monitor - 0x84}`;
  if (within(0x90, 0x91)) return `NOx adsorber, bank ${monitor - 0x8f}`;
  if (within(0x98, 0x99)) return `NOx catalyst, bank ${monitor - 0x97}`;
  if (monitor === 0xa1) return 'Misfire, all cylinders';
  if (within(0xa2, 0xad)) return `Misfire, cylinder ${monitor - 0xa1}`;
  if (within(0xb0, 0xb1)) return `Particulate filter, bank ${monitor - 0xaf}`;
  return `Monitor ${hex2(monitor)}`;
}

/** The readiness monitor that leaves results under this identifier; null where the standard names none. SAE J1979 (from memory). */
export function readinessOf(monitor: number): MonitorId | null {
  const row = READINESS.find(([low, high]) => monitor >= low && monitor <= high);
  return row ? row[2] : null;
}

const READINESS: readonly (readonly [low: number, high: number, MonitorId])[] = [
  [0x01, 0x10, 'o2Sensor'],
  [0x21, 0x24, 'catalyst'],
  [0x31, 0x38, 'egrVvt'],
  [0x39, 0x3d, 'evap'],
  [0x41, 0x50, 'o2Heater'],
  [0x61, 0x64, 'heatedCatalyst'],
  [0x71, 0x74, 'secondaryAir'],
  [0x81, 0x84, 'fuelSystem'],
  [0x85, 0x86, 'boost'],
  [0x90, 0x91, 'noxScr'],
  [0x98, 0x99, 'noxScr'],
  [0xa1, 0xad, 'misfire'],
  [0xb0, 0xb1, 'dpf'],
];

/** Standard tests of an oxygen sensor and of misfire. SAE J1979 appendix (from memory). */
const TESTS: Readonly<Record<number, string>> = {
  1: 'rich to lean threshold',
  2: 'lean to rich threshold',
  3: 'low voltage for switch time',
  4: 'high voltage for switch time',
  5: 'rich to lean switch time',
  6: 'lean to rich switch time',
  7: 'least voltage',
  8: 'most voltage',
  9: 'time between transitions',
  10: 'period',
  11: 'misfires, average of ten drives',
  12: 'misfires, last or this drive',
};

const hex2 = (n: number) => n.toString(16).toUpperCase().padStart(2, '0');

/** Room to the nearer limit, as a share of it where only one side is limited, of half the window where both are. */
function sparePct(value: number, low: number | null, high: number | null): number | null {
  const share = (room: number, of: number) => (of === 0 ? null : Math.round((100 * room) / Math.abs(of)));
  if (low === null && high === null) return null;
  if (low === null) return share(high! - value, high!);
  if (high === null) return share(value - low, low);
  return share(Math.min(value - low, high - value), (high - low) / 2);
}

/** Decode the body of a service 06 answer (without 46). Null where the length does not fit: the caller keeps it raw. */
export function decodeTestResults(body: Uint8Array): TestResultRow[] | null {
  if (body.length === 0 || body.length % 9 !== 0) return null;
  const rows: TestResultRow[] = [];
  for (let at = 0; at < body.length; at += 9) {
    const [monitor, test, id] = [body[at]!, body[at + 1]!, body[at + 2]!];
    const scaling = SCALINGS[id] ?? s(`unit ${hex2(id)}`, 1);
    const signed = id >= 0x80;
    const read = (k: number) => {
      const raw = body[at + k]! * 256 + body[at + k + 1]!;
      const n = signed && raw >= 0x8000 ? raw - 0x10000 : raw;
      return Number((n * scaling.scale + (scaling.offset ?? 0)).toPrecision(12));
    };
    const [value, low, high] = [read(3), read(5), read(7)];
    // A limit at the end of the range, or a least of 0, limits nothing. Common practice, no source.
    const raw = (k: number) => body[at + k]! * 256 + body[at + k + 1]!;
    const leastOpen = low === 0 || raw(5) === (signed ? 0x8000 : 0);
    const mostOpen = raw(7) === (signed ? 0x7fff : 0xffff);
    const name = TESTS[test] ?? `test ${hex2(test)}`;
    rows.push({
      monitor,
      test,
      label: `${monitorLabel(monitor)}: ${name}`,
      unit: scaling.unit,
      value,
      low,
      high,
      passed: value >= low && value <= high,
      sparePct: sparePct(value, leastOpen ? null : low, mostOpen ? null : high),
    });
  }
  return rows;
}
