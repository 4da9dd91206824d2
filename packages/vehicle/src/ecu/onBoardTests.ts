import type { MonitorId } from '@just-balance/core/obd';

/** One result of service 06 in the units it is sent in: raw = value / scale. SAE J1979 (from memory). */
export interface OnBoardResult {
  monitor: number;
  test: number;
  /** Unit-and-scaling identifier, and what one step of it is. */
  scaling: number;
  scale: number;
  value: number;
  low: number;
  high: number;
}

const LAMBDA = { scaling: 0x1e, scale: 0.0000305 };
const RATIO = { scaling: 0x04, scale: 0.001 };
const AMPERE = { scaling: 0x0e, scale: 0.001 };
const PASCAL = { scaling: 0xfe, scale: 0.25 };
const KPA = { scaling: 0x17, scale: 0.01 };
const COUNTS = { scaling: 0x24, scale: 1 };
const MOST = 65_535;

/** What the ECU found, per bank where the machine has two. */
export interface Found {
  banks: 1 | 2;
  /** Swing of λ before and behind the catalyst, and the least a healthy sensor shows. */
  up: readonly [number, number];
  down: readonly [number, number];
  leastSwing: number;
  heaterA: readonly [number, number];
  /** Vacuum reached in the tank, and what it lost in 5 and in 20 s, Pa. */
  tank: { reachedPa: number; lost5Pa: number; lost20Pa: number };
  /** Manifold pressure added when the valve opened, kPa; null with a turbo: there it is valve timing that is watched. */
  egrKPa: number | null;
  /** Boost reached over what was asked for, kPa below. */
  boostShortKPa: number;
}

/** Limits. [house] */
export const LIMITS = {
  downOverUp: 0.25,
  heaterA: [0.25, 3] as const,
  tankReachedPa: 1000,
  lost5Pa: 400,
  lost20Pa: 300,
  egrKPa: 0.8,
  boostShortKPa: 22,
} as const;

/** The rows a finished monitor leaves behind. A monitor without figures of its own leaves none. */
export function resultsOf(id: MonitorId, f: Found): OnBoardResult[] {
  const banks = ([0, 1] as const).slice(0, f.banks);
  switch (id) {
    case 'o2Sensor':
      return banks.map((b) => ({
        monitor: 0x01 + 4 * b,
        test: 0x80,
        ...LAMBDA,
        value: f.up[b],
        low: f.leastSwing,
        high: MOST * LAMBDA.scale,
      }));
    case 'catalyst':
      return banks.map((b) => ({
        monitor: 0x21 + b,
        test: 0x80,
        ...RATIO,
        value: f.up[b] > 0 ? f.down[b] / f.up[b] : 0,
        low: 0,
        high: LIMITS.downOverUp,
      }));
    case 'o2Heater':
      return banks.map((b) => ({
        monitor: 0x41 + 4 * b,
        test: 0x80,
        ...AMPERE,
        value: f.heaterA[b],
        low: LIMITS.heaterA[0],
        high: LIMITS.heaterA[1],
      }));
    case 'evap': {
      const { reachedPa, lost5Pa, lost20Pa } = f.tank;
      const reached = {
        monitor: 0x39,
        test: 0x80,
        ...PASCAL,
        value: reachedPa,
        low: LIMITS.tankReachedPa,
        high: 0x7fff * PASCAL.scale,
      };
      // What cannot be drawn down cannot be watched.
      if (reachedPa < LIMITS.tankReachedPa) return [reached];
      return [
        reached,
        { monitor: 0x3b, test: 0x80, ...PASCAL, value: lost5Pa, low: 0, high: LIMITS.lost5Pa },
        { monitor: 0x3c, test: 0x80, ...PASCAL, value: lost20Pa, low: 0, high: LIMITS.lost20Pa },
      ];
    }
    case 'egrVvt':
      if (f.egrKPa === null) return [];
      return [{ monitor: 0x31, test: 0x80, ...KPA, value: f.egrKPa, low: LIMITS.egrKPa, high: MOST * KPA.scale }];
    case 'boost':
      return [{ monitor: 0x85, test: 0x80, ...KPA, value: f.boostShortKPa, low: 0, high: LIMITS.boostShortKPa }];
    default:
      return [];
  }
}

/** Misfires counted since key-on, all cylinders; most allowed a thousand revolutions' worth. [house] */
export function misfireResult(counted: number): OnBoardResult {
  return { monitor: 0xa1, test: 0x0c, ...COUNTS, value: Math.min(MOST, Math.round(counted)), low: 0, high: 200 };
}

/** The nine bytes of a row. */
export function resultBytes(r: OnBoardResult): number[] {
  const raw = (v: number) => {
    const signed = r.scaling >= 0x80;
    const n = Math.round(v / r.scale);
    const bounded = signed ? Math.min(0x7fff, Math.max(-0x8000, n)) : Math.min(0xffff, Math.max(0, n));
    return [(bounded >> 8) & 0xff, bounded & 0xff];
  };
  return [r.monitor, r.test, r.scaling, ...raw(r.value), ...raw(r.low), ...raw(r.high)];
}

/** Discharge of a sharp-edged hole; free volume at an empty tank, m³; vapour that fuel gives off, Pa/s. [house] */
const HOLE_CD = 0.62;
const TANK_M3 = 0.055;
const VAPOUR_PA_PER_S = 1.5;
const PULL_PA = 2000;
const PULL_M3_PER_S = 0.00045;
const TEST_STEP_S = 0.05;

/** The tank drawn down through the purge valve and shut: an orifice into a volume, incompressible below 3 kPa. */
export function tankTest(leakMm2: number, fuelPct: number, baroKPa: number): Found['tank'] {
  const volume = TANK_M3 * Math.max(0.1, 1 - fuelPct / 100);
  const inflow = (pa: number) => HOLE_CD * leakMm2 * 1e-6 * Math.sqrt((2 * Math.max(0, pa)) / 1.19);
  let pa = 0;
  for (let t = 0; t < 40 && pa < PULL_PA; t += TEST_STEP_S) {
    const pull = PULL_M3_PER_S * Math.max(0, 1 - pa / (2 * PULL_PA));
    pa = Math.max(0, pa + (((pull - inflow(pa)) * baroKPa * 1000) / volume - VAPOUR_PA_PER_S) * TEST_STEP_S);
  }
  const reachedPa = pa;
  let lost5Pa = 0;
  for (let t = 0; t < 20; t += TEST_STEP_S) {
    pa = Math.max(0, pa - ((inflow(pa) * baroKPa * 1000) / volume + VAPOUR_PA_PER_S) * TEST_STEP_S);
    if (t < 5) lost5Pa = reachedPa - pa;
  }
  return { reachedPa, lost5Pa, lost20Pa: reachedPa - pa };
}
