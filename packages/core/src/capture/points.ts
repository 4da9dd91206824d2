import type { OperatingPoint } from '../case/index.ts';
import { engineHas } from '../catalogue/index.ts';
import type { PlanId } from '../link/index.ts';

/** How a capture closes: a steady window, or the moment of something that passes (its peak, or a short hold). */
export type CaptureKind = 'steady' | 'peak';

/** What must hold before a guided capture counts. Every limit is common practice unless marked [house]. */
export interface CapturePoint {
  at: OperatingPoint;
  label: string;
  instruction: string;
  kind: CaptureKind;
  rpmLow: number;
  rpmHigh: number;
  /** Coolant at least warm, or not above this, °C; absent: any. */
  needsWarm: boolean;
  coldBelowC?: number;
  needsClosedLoop: boolean;
  /** Road speed, km/h; absent: standing or any. */
  speedLowKmh?: number;
  /** Manifold pressure of this share of station pressure at least: the pull really is one. */
  loadAbove?: number;
  /** Where the vehicle says its speed, it stands. */
  stands?: true;
  /** A pull on the road or on rollers: where a diesel says its speed, its wheels turn; where it says its pedal, it is down. */
  pulls?: true;
  /** Pedal let go at speed: manifold pressure below this share of station pressure. */
  loadBelow?: number;
  /** Engine speed and airflow stay within these shares of their mean (standard deviation). [house] */
  rpmSteadyShare: number;
  airflowSteadyShare: number;
  windowS: number;
  /** Closed-loop trims taken here are evidence. */
  trims: boolean;
  /** Takes a driver and a passenger: the driver is never asked to look or touch. */
  road: boolean;
  plan: PlanId;
}

/** Coolant counts as warm from here, °C. Common practice, no source. */
export const WARM_FROM_C = 80;

const STEADY = {
  kind: 'steady',
  needsWarm: true,
  needsClosedLoop: true,
  rpmSteadyShare: 0.05,
  airflowSteadyShare: 0.04,
  windowS: 10,
  trims: true,
  road: false,
  plan: 'mixture',
} as const;

/**
 * The operating points that are captured, with the conditions of each: rpm, km/h, °C, the length of the window in s
 * and how steady it must be. Common practice, no source, where a row names none.
 */
export const CAPTURE_POINTS: readonly CapturePoint[] = [
  {
    ...STEADY,
    at: 'koeo',
    label: 'Key on, engine off',
    instruction: 'Key on, engine off. Nothing else.',
    rpmLow: 0,
    rpmHigh: 0,
    needsWarm: false,
    needsClosedLoop: false,
    airflowSteadyShare: 0.03,
    windowS: 3,
    trims: false,
    plan: 'pressure',
  },
  {
    ...STEADY,
    at: 'cold-idle',
    label: 'Cold idle',
    instruction: 'Start it cold and let it idle. Foot off the pedal.',
    rpmLow: 450,
    rpmHigh: 2000,
    needsWarm: false,
    coldBelowC: 50,
    needsClosedLoop: false,
    rpmSteadyShare: 0.08,
    airflowSteadyShare: 0.08,
  },
  {
    ...STEADY,
    at: 'idle',
    label: 'Idle',
    instruction: 'Let it idle. Accessories off, foot off the pedal.',
    rpmLow: 450,
    rpmHigh: 1200,
  },
  {
    ...STEADY,
    at: 'idle-ac',
    label: 'Idle with A/C',
    instruction: 'Air conditioning on, let it idle.',
    rpmLow: 450,
    rpmHigh: 1300,
    airflowSteadyShare: 0.06,
  },
  {
    ...STEADY,
    at: 'hold-2500',
    label: 'Hold 2,500',
    instruction: 'Hold about 2,500 rpm without load. Foot still.',
    rpmLow: 2000,
    rpmHigh: 3500,
    rpmSteadyShare: 0.03,
  },
  {
    ...STEADY,
    at: 'snap',
    label: 'Snap throttle',
    instruction: 'From idle: floor it for half a second, let go.',
    kind: 'peak',
    rpmLow: 450,
    rpmHigh: 7000,
    needsClosedLoop: false,
    loadAbove: 0.8,
    stands: true,
    windowS: 0.2,
    trims: false,
    plan: 'snap',
  },
  {
    ...STEADY,
    at: 'road-load',
    label: 'Road load',
    instruction: 'Two people: steady speed on a level road, the passenger holds the tablet.',
    rpmLow: 1100,
    rpmHigh: 3800,
    speedLowKmh: 40,
    rpmSteadyShare: 0.04,
    airflowSteadyShare: 0.08,
    road: true,
    plan: 'road',
  },
  {
    ...STEADY,
    at: 'full-load',
    label: 'Full-load pull',
    instruction:
      'Two people: floor it in a middle gear from low speed, where it is safe and legal. A dynamometer is best.',
    kind: 'peak',
    rpmLow: 2200,
    rpmHigh: 6500,
    needsClosedLoop: false,
    loadAbove: 0.88,
    pulls: true,
    windowS: 2,
    trims: false,
    road: true,
    plan: 'pull',
  },
  {
    ...STEADY,
    at: 'boost',
    label: 'Boost',
    instruction: 'Two people: floor it until it boosts, where it is safe and legal.',
    kind: 'peak',
    rpmLow: 1800,
    rpmHigh: 6500,
    needsClosedLoop: false,
    loadAbove: 1.15,
    pulls: true,
    windowS: 2,
    trims: false,
    road: true,
    plan: 'pull',
  },
  {
    ...STEADY,
    at: 'decel',
    label: 'Deceleration',
    instruction: 'Two people: from road speed, foot off the pedal, in gear.',
    kind: 'peak',
    rpmLow: 1200,
    rpmHigh: 4500,
    needsClosedLoop: false,
    speedLowKmh: 30,
    loadBelow: 0.36,
    windowS: 2,
    trims: false,
    road: true,
    plan: 'road',
  },
];

const BY_POINT = new Map<string, CapturePoint>(CAPTURE_POINTS.map((p) => [p.at, p]));

/** The point of this name; undefined where nothing of that name is captured. */
export function capturePoint(at: string): CapturePoint | undefined {
  return BY_POINT.get(at);
}

/** Which points a complaint asks for beside idle and the hold. Common practice, no source. */
const ASKED_BY: readonly { symptom: string; points: readonly OperatingPoint[] }[] = [
  { symptom: 'low-power', points: ['road-load', 'full-load'] },
  { symptom: 'limp-mode', points: ['road-load', 'full-load'] },
  { symptom: 'hesitation', points: ['snap', 'road-load'] },
  { symptom: 'surge', points: ['road-load'] },
  { symptom: 'high-consumption', points: ['road-load'] },
  { symptom: 'stall', points: ['idle-ac'] },
  { symptom: 'stall-after-start', points: ['cold-idle'] },
  { symptom: 'hard-start-cold', points: ['koeo', 'cold-idle'] },
];

/** The points a job asks for, in the order they are taken: what the engine is decides first, then what it does. */
export function pointsFor(
  vehicle: { fuel: string; metering: string; induction?: string },
  symptoms: readonly string[],
): OperatingPoint[] {
  const wanted = new Set<OperatingPoint>(['idle', 'hold-2500']);
  // A pressure sensor is held against the air outside first: nothing else shows so cheaply that it is off.
  if (engineHas(['map'], vehicle, 1)) wanted.add('koeo');
  if (vehicle.fuel === 'diesel') for (const p of ['koeo', 'full-load'] as const) wanted.add(p);
  for (const a of ASKED_BY) if (symptoms.includes(a.symptom)) for (const p of a.points) wanted.add(p);
  if (vehicle.induction === 'turbo' && wanted.has('full-load')) wanted.add('boost');
  return CAPTURE_POINTS.map((p) => p.at).filter((at) => wanted.has(at));
}
