import type { Ambient, VehicleSpec } from '../case/index.ts';
import { stationPressure } from '../expected/index.ts';
import { PLANS, type PollingPlan, planAlone } from '../link/index.ts';
import type { GuidedSetup } from './conditions.ts';
import { FREE_START, type FreeState, freeStatus, record } from './free.ts';
import {
  GUIDED_START,
  type GuidedEvent,
  type GuidedState,
  type GuidedStatus,
  guide,
  guidedSetup,
  guidedStatus,
} from './guided.ts';
import { capturePoint } from './points.ts';

/** What a capture is of and where it stands: at an operating point, or everything until it is stopped. */
export type CaptureRun = GuidedRun | { setup: null; state: FreeState };
/** A capture at an operating point. */
export interface GuidedRun {
  setup: GuidedSetup;
  state: GuidedState;
}

/** Of the vehicle and the place, what a capture needs. */
export interface CapturedEngine {
  vehicle: { banks?: 1 | 2 | undefined } & Pick<VehicleSpec, 'metering' | 'fuel'>;
  ambient: Ambient;
}

/** A capture as it begins. @param at An operating point; anything else is a free recording. */
export function beginRun(at: string, { vehicle, ambient }: CapturedEngine): CaptureRun {
  const point = capturePoint(at);
  if (!point) return { setup: null, state: FREE_START };
  const { baroKPa } = stationPressure(ambient);
  const metered = vehicle.metering !== 'speed-density';
  return {
    setup: guidedSetup(point, { banks: vehicle.banks ?? 1, metered, fuel: vehicle.fuel, baroKPa }),
    state: GUIDED_START,
  };
}

/** A capture takes what happened to it. Of a free recording only samples matter. */
export function followRun(run: CaptureRun, event: GuidedEvent): CaptureRun {
  if (run.setup) return { ...run, state: guide(run.setup, run.state, event)[0] };
  return event.kind === 'samples' ? { ...run, state: record(run.state, event.samples) } : run;
}

/** Where it stands, whichever kind it is. */
export function runStatus(run: CaptureRun): GuidedStatus {
  return run.setup ? guidedStatus(run.setup, run.state) : freeStatus(run.state);
}

/** Before the first second of any capture. */
export const NOT_BEGUN: GuidedStatus = {
  state: 'waiting',
  reason: null,
  etaS: null,
  sentence: 'Waiting for the first values.',
  keepable: false,
  conditions: [],
  goodS: 0,
  wantedS: 0,
};

/**
 * What the bus is asked for during a capture.
 *
 * @param only Of a free recording: this channel alone.
 * @throws Error where no parameter carries that channel.
 */
export function planOf(at: string, only?: string): PollingPlan {
  const point = capturePoint(at);
  if (point) return PLANS[point.plan];
  return only === undefined ? PLANS.road : planAlone(only);
}
