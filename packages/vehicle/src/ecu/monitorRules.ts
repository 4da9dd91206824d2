import type { MonitorId } from '@just-balance/core/obd';

/** Inclusive; null is open. */
type Within = readonly [low: number | null, high: number | null];

/** Under which conditions a monitor runs, and for how long it must see them. Everything given must hold at once. */
export interface Enabling {
  id: MonitorId;
  needS: number;
  /** At key-on: coolant at most this warm, and this close to the intake air, °C: how an ECU tells a soak. */
  startBelowC?: number;
  startToAirC?: number;
  airC?: Within;
  baroFromKPa?: number;
  fuelPct?: Within;
  coolantC?: Within;
  intakeC?: Within;
  kmh?: Within;
  rpm?: Within;
  /** Since the engine started, s. */
  runS?: Within;
  standing?: true;
  /** Speed steady for some seconds. */
  steady?: true;
  closed?: true;
  /** Pedal up, rolling. */
  lifted?: true;
  cut?: true;
  /** Pressure above atmosphere in the charge pipe. */
  boosted?: true;
  /** Fuel lies still in the tank. */
  stillFuel?: true;
  /** No load at idle: air conditioning off. */
  unloaded?: true;
  /** Counts only once the general denominator of this drive is met. */
  general?: true;
  /** On how many drives it must have seen them. */
  drives?: number;
}

export type MonitorStyle = 'cruise' | 'stations' | 'general' | 'diesel';

/** 8,000 ft by the standard atmosphere, kPa. */
const HIGHEST_KPA = 75.3;

const cruise: readonly Enabling[] = [
  { id: 'o2Heater', needS: 40, runS: [60, null] },
  { id: 'o2Sensor', needS: 90, kmh: [55, 115], steady: true, closed: true, coolantC: [70, null] },
  { id: 'egrVvt', needS: 12, kmh: [40, 115], steady: true, closed: true, coolantC: [60, null] },
  { id: 'catalyst', needS: 150, kmh: [55, 115], steady: true, closed: true, coolantC: [75, null] },
  { id: 'secondaryAir', needS: 30, startBelowC: 40, runS: [5, 120] },
  {
    id: 'evap',
    needS: 420,
    startBelowC: 40,
    startToAirC: 7,
    airC: [4, 38],
    baroFromKPa: HIGHEST_KPA,
    fuelPct: [15, 85],
    kmh: [50, 90],
    stillFuel: true,
    runS: [null, 1800],
  },
];

/** Every monitor at a station of its own. */
const stations: readonly Enabling[] = [
  { id: 'o2Heater', needS: 100, rpm: [1900, 2600], coolantC: [75, null] },
  { id: 'o2Sensor', needS: 150, kmh: [64, 75], steady: true, closed: true, coolantC: [75, null] },
  { id: 'catalyst', needS: 150, kmh: [75, 90], steady: true, closed: true, coolantC: [75, null] },
  { id: 'egrVvt', needS: 4, kmh: [5, null], lifted: true, coolantC: [75, null] },
  { id: 'secondaryAir', needS: 60, startBelowC: 40, standing: true, rpm: [1300, 1650] },
  {
    id: 'evap',
    needS: 1000,
    standing: true,
    unloaded: true,
    rpm: [400, 1100],
    coolantC: [null, 102],
    intakeC: [null, 46],
    fuelPct: [24, 76],
    stillFuel: true,
  },
];

/** Whatever the road gives, once the general denominator is met. */
const general: readonly Enabling[] = [
  { id: 'o2Heater', needS: 40, runS: [60, null], general: true },
  { id: 'o2Sensor', needS: 90, kmh: [40, 130], closed: true, coolantC: [70, null], general: true },
  { id: 'catalyst', needS: 100, kmh: [40, 130], steady: true, closed: true, coolantC: [75, null], general: true },
  { id: 'egrVvt', needS: 4, kmh: [5, null], lifted: true, coolantC: [70, null], general: true },
  { id: 'secondaryAir', needS: 30, startBelowC: 40, runS: [5, 120] },
  { ...cruise.find((m) => m.id === 'evap')!, needS: 360, kmh: [40, 110], runS: [null, 2400], drives: 2 },
];

const diesel: readonly Enabling[] = [
  { id: 'nmhc', needS: 240, kmh: [55, null], coolantC: [70, null] },
  { id: 'noxScr', needS: 300, kmh: [55, null], coolantC: [70, null] },
  { id: 'boost', needS: 20, kmh: [30, null], boosted: true },
  { id: 'exhaustGasSensor', needS: 90, kmh: [40, null], coolantC: [60, null] },
  { id: 'dpf', needS: 300, kmh: [70, null], coolantC: [75, null] },
  { id: 'egrVvt', needS: 12, kmh: [20, null], cut: true, coolantC: [70, null] },
];

/** How cars differ; a car has one style. Figures [house], of the order practitioners meet. */
export const MONITOR_RULES: Readonly<Record<MonitorStyle, readonly Enabling[]>> = {
  cruise,
  stations,
  general,
  diesel,
};

/** The general denominator: in one drive. CCR title 13 § 1968.2 (from memory). */
export const GENERAL = {
  runS: 600,
  fastKmh: 40,
  fastS: 300,
  idleS: 30,
  airFromC: -7,
  baroFromKPa: HIGHEST_KPA,
} as const;
