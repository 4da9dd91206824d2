import type { OperatingPoint } from '../diagnosis/index.ts';

/** What must hold before a guided capture counts. Every limit is common practice unless marked [house]. */
export interface CapturePoint {
  at: OperatingPoint;
  label: string;
  instruction: string;
  rpmLow: number;
  rpmHigh: number;
  needsWarm: boolean;
  needsClosedLoop: boolean;
  /** Engine speed and airflow stay within these shares of their mean (standard deviation). [house] */
  rpmSteadyShare: number;
  airflowSteadyShare: number;
  windowS: number;
}

/** Coolant counts as warm from here, °C. Common practice, no source. */
export const WARM_FROM_C = 80;

export const CAPTURE_POINTS: readonly CapturePoint[] = [
  {
    at: 'idle',
    label: 'Idle',
    instruction: 'Let it idle. Accessories off, foot off the pedal.',
    rpmLow: 450,
    rpmHigh: 1200,
    needsWarm: true,
    needsClosedLoop: true,
    rpmSteadyShare: 0.05,
    airflowSteadyShare: 0.04,
    windowS: 10,
  },
  {
    at: 'hold-2500',
    label: 'Hold 2,500',
    instruction: 'Hold about 2,500 rpm without load. Foot still.',
    rpmLow: 2000,
    rpmHigh: 3500,
    needsWarm: true,
    needsClosedLoop: true,
    rpmSteadyShare: 0.03,
    airflowSteadyShare: 0.04,
    windowS: 10,
  },
];

export function capturePoint(at: string): CapturePoint | undefined {
  return CAPTURE_POINTS.find((p) => p.at === at);
}
