/**
 * Readiness monitors in PID 01 and 41. SAE J1979 (from memory).
 *
 *   A  m ccccccc        lamp, number of codes
 *   B  0 iii d sss      incomplete, d = 1 compression ignition, supported (misfire, fuel system, comprehensive)
 *   C  supported        D  incomplete (same bits)
 */
export const MONITORS = {
  misfire: 'Misfire',
  fuelSystem: 'Fuel system',
  comprehensive: 'Comprehensive',
  catalyst: 'Catalyst',
  heatedCatalyst: 'Heated catalyst',
  evap: 'EVAP',
  secondaryAir: 'Secondary air',
  acOrGpf: 'A/C or particulate filter',
  o2Sensor: 'Oxygen sensor',
  o2Heater: 'Oxygen sensor heater',
  egrVvt: 'EGR or VVT',
  nmhc: 'NMHC catalyst',
  noxScr: 'NOx or SCR',
  boost: 'Boost pressure',
  exhaustGasSensor: 'Exhaust gas sensor',
  dpf: 'Particulate filter',
} as const;

/** A monitor of service 01 parameters 01 and 41 (SAE J1979). */
export type MonitorId = keyof typeof MONITORS;
/** Whether a monitor is there, and has run to its end since codes were cleared. */
export type MonitorState = 'complete' | 'incomplete' | 'unsupported';

/** Monitors that run all the time the engine does (SAE J1979). */
export const CONTINUOUS_MONITORS: readonly MonitorId[] = ['misfire', 'fuelSystem', 'comprehensive'];
const SPARK: readonly (MonitorId | null)[] = [
  'catalyst',
  'heatedCatalyst',
  'evap',
  'secondaryAir',
  'acOrGpf',
  'o2Sensor',
  'o2Heater',
  'egrVvt',
];
const COMPRESSION: readonly (MonitorId | null)[] = [
  'nmhc',
  'noxScr',
  null,
  'boost',
  null,
  'exhaustGasSensor',
  'dpf',
  'egrVvt',
];

/** All monitors of an engine, with lamp and count of codes. */
export interface MonitorStatus {
  lampOn: boolean;
  codeCount: number;
  ignition: 'spark' | 'compression';
  monitors: { id: MonitorId; state: MonitorState }[];
}

/** Decode the four bytes of PID 01 (or 41, where byte A is reserved). Throws RangeError on fewer than four bytes. */
export function decodeMonitors(bytes: Uint8Array): MonitorStatus {
  if (bytes.length < 4) throw new RangeError(`monitor status needs 4 bytes, got ${bytes.length}`);
  const [a, b, c, d] = bytes as unknown as [number, number, number, number];
  const compression = (b & 0x08) !== 0;
  const state = (supported: boolean, incomplete: boolean): MonitorState =>
    !supported ? 'unsupported' : incomplete ? 'incomplete' : 'complete';
  const monitors = CONTINUOUS_MONITORS.map((id, i) => ({
    id,
    state: state((b & (1 << i)) !== 0, (b & (0x10 << i)) !== 0),
  }));
  (compression ? COMPRESSION : SPARK).forEach((id, i) => {
    if (id) monitors.push({ id, state: state((c & (1 << i)) !== 0, (d & (1 << i)) !== 0) });
  });
  return { lampOn: (a & 0x80) !== 0, codeCount: a & 0x7f, ignition: compression ? 'compression' : 'spark', monitors };
}

/** The inverse, for the simulated vehicle and for round-trip tests. */
export function encodeMonitors(status: MonitorStatus): Uint8Array {
  const compression = status.ignition === 'compression';
  const out = new Uint8Array(4);
  out[0] = (status.lampOn ? 0x80 : 0) | (status.codeCount & 0x7f);
  out[1] = compression ? 0x08 : 0;
  const order = compression ? COMPRESSION : SPARK;
  for (const m of status.monitors) {
    const k = CONTINUOUS_MONITORS.indexOf(m.id);
    const i = order.indexOf(m.id);
    if (k >= 0) {
      if (m.state !== 'unsupported') out[1]! |= 1 << k;
      if (m.state === 'incomplete') out[1]! |= 0x10 << k;
    } else if (i >= 0) {
      if (m.state !== 'unsupported') out[2]! |= 1 << i;
      if (m.state === 'incomplete') out[3]! |= 1 << i;
    }
  }
  return out;
}
