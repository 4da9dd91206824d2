import type { DriverAction } from './driver.ts';

/** A stretch of a drive: what the driver does, or the engine off, for how many seconds. */
export interface Stretch {
  action: DriverAction | { do: 'off' };
  s: number;
}

/** How a car stands before the key is turned. */
export interface Before {
  soakHours?: number;
  fuelLevelPct?: number;
  airC?: number;
  altitudeM?: number;
}

/** A drive as a list of stretches, for a bay. */
export interface RoadScript {
  id: string;
  label: string;
  before?: Before;
  steps: readonly Stretch[];
}

const speed = (kmh: number, s: number): Stretch => ({ action: { do: 'speed', kmh }, s });
const idle = (s: number): Stretch => ({ action: { do: 'idle' }, s });
const hold = (rpm: number, s: number): Stretch => ({ action: { do: 'hold', rpm }, s });
const coast = (s: number): Stretch => ({ action: { do: 'coast' }, s });
const off = (s: number): Stretch => ({ action: { do: 'off' }, s });

/** As a long soak leaves it. */
const SOAKED: Before = { soakHours: 14, fuelLevelPct: 61, airC: 16, altitudeM: 180 };
const CRUISE: readonly Stretch[] = [idle(24), speed(66.5, 960), coast(10), idle(20)];
const STATIONS: readonly Stretch[] = [
  hold(1450, 1080),
  idle(12),
  off(14),
  hold(2250, 150),
  idle(20),
  speed(69, 230),
  speed(82, 240),
  speed(30, 20),
  idle(230),
  speed(66, 40),
  coast(40),
  idle(14),
  off(14),
  idle(1240),
  off(14),
];
const GENERAL: readonly Stretch[] = [
  idle(45),
  speed(72, 240),
  coast(14),
  speed(58, 180),
  coast(30),
  speed(86, 130),
  coast(20),
  idle(40),
];

/** The same drive with one thing wrong, and what. */
export interface BrokenScript extends RoadScript {
  of: 'cruise' | 'stations' | 'general';
  breaks: string;
}

const broken = (
  of: BrokenScript['of'],
  breaks: string,
  label: string,
  change: { before?: Before; steps?: readonly Stretch[] },
): BrokenScript => {
  const sound = OBEYING.find((s) => s.id === of)!;
  return {
    id: `${of}-without-${breaks}`,
    label,
    of,
    breaks,
    before: { ...sound.before, ...change.before },
    steps: change.steps ?? sound.steps,
  };
};

/** Drives that obey each of the shipped procedures. */
export const OBEYING: readonly RoadScript[] = [
  { id: 'cruise', label: 'Steady cruise, as asked', before: SOAKED, steps: CRUISE },
  { id: 'stations', label: 'Seven stations, as asked', before: { ...SOAKED, fuelLevelPct: 70 }, steps: STATIONS },
  { id: 'general', label: 'General drive, as asked', before: SOAKED, steps: GENERAL },
];

/** Drives that each break one condition. */
export const BROKEN: readonly BrokenScript[] = [
  broken('cruise', 'soak', 'Steady cruise, soak too short', { before: { soakHours: 5 } }),
  broken('cruise', 'ambient', 'Steady cruise, too hot a day', { before: { airC: 40 } }),
  broken('cruise', 'altitude', 'Steady cruise, too high up', { before: { altitudeM: 2700 } }),
  broken('cruise', 'fuel-level', 'Steady cruise, tank too full', { before: { fuelLevelPct: 91 } }),
  broken('cruise', 'idle', 'Steady cruise, off at once', { steps: [idle(6), ...CRUISE.slice(1)] }),
  broken('cruise', 'speed', 'Steady cruise, slowed down half way', {
    steps: [idle(24), speed(66.5, 420), speed(48, 45), speed(66.5, 420), coast(10), idle(20)],
  }),
  broken('cruise', 'steady', 'Steady cruise, slowed down and home too soon', {
    steps: [idle(24), speed(66.5, 214), speed(48, 45), speed(66.5, 206), coast(10), idle(20)],
  }),
  broken('stations', 'fuel-level', 'Seven stations, tank nearly empty', { before: { fuelLevelPct: 11 } }),
  broken('stations', 'coolant-start', 'Seven stations, started warm', { before: { soakHours: 0.6 } }),
  broken('stations', 'speed', 'Seven stations, never at catalyst speed', {
    steps: STATIONS.map((s) => (s.action.do === 'speed' && s.action.kmh === 82 ? speed(72, s.s) : s)),
  }),
  broken('general', 'ambient', 'General drive, too cold a day', { before: { airC: -12 } }),
  broken('general', 'idle', 'General drive, never at rest', {
    steps: [idle(12), ...GENERAL.slice(1, -1), idle(10)],
  }),
  broken('general', 'cruise', 'General drive, all in town', {
    steps: [idle(45), speed(34, 420), coast(10), speed(36, 200), idle(40)],
  }),
];

/** Drives of our own. */
export const ROAD_SCRIPTS: readonly RoadScript[] = [
  {
    id: 'round-the-block',
    label: 'Round the block',
    steps: [speed(42, 60), coast(12), speed(50, 60), idle(30)],
  },
  {
    id: 'long-cruise',
    label: 'Long cruise',
    steps: [idle(45), speed(66, 620), coast(20), speed(82, 260), coast(25), idle(60)],
  },
  {
    id: 'hill',
    label: 'Up the hill',
    steps: [speed(60, 40), { action: { do: 'full-load', rpm: 3600 }, s: 12 }, coast(15), idle(20)],
  },
  ...OBEYING,
  ...BROKEN,
];
