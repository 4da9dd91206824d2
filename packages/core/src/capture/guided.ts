import { SEA_LEVEL_KPA } from '../gas/index.ts';
import type { Sample } from '../link/index.ts';
import { type Said } from '../units/index.ts';
import {
  type Condition,
  conditionsOf,
  type GuidedSetup,
  onlyNotWarm,
  snapWithoutPressure,
  waitingFor,
  warmEtaS,
} from './conditions.ts';
import type { CapturePoint } from './points.ts';
import { robust } from './robust.ts';
import { Growing, SILENCE, type Signals, since } from './signals.ts';

/**
 * The guided capture as a pure transition: it waits for its conditions, opens the window by itself, closes it after
 * `windowS` good seconds, and refuses a window that wandered. Nothing here reads a clock or keeps anything.
 */
export interface GuidedState {
  readonly step: 'waiting' | 'capturing' | 'refused' | 'done';
  readonly signals: Signals;
  /** Where the open or the closed window begins, s of the samples' clock. */
  readonly windowFromS: number | null;
  /** Windows that were whole and not steady. */
  readonly wanders: number;
  /** Of a refusal. */
  readonly reason: string | null;
}

/** What may happen to a guided capture. */
export type GuidedEvent =
  /** One committed batch, in time order. Only remembered once done or refused. */
  | { kind: 'samples'; samples: readonly Sample[] }
  /** The link was lost, or somebody paused: the window starts again, nothing of the gap counts. */
  | { kind: 'interrupted' }
  /** After a refusal: try again. */
  | { kind: 'again' };

/** What is to be done about it. */
export type GuidedAction =
  | { kind: 'open' }
  /** The window is whole and steady: its reading is to be kept. */
  | { kind: 'keep' }
  | { kind: 'refuse'; reason: string };

/** Where a capture stands, for a screen. Times in s. */
export interface GuidedStatus {
  state: GuidedState['step'];
  conditions: Condition[];
  goodS: number;
  wantedS: number;
  reason: string | null;
  /** Seconds until the coolant is warm, where it rises; null when unknown. */
  etaS: number | null;
  /** What it waits for, as one sentence; null while it captures or is over. */
  sentence: Said | null;
  /** Nothing but warmth is missing: what is steady can be kept as doubtful. */
  keepable: boolean;
}

/** A window that wandered this often is refused instead of tried again by itself. [house] */
const TRIES_BEFORE_REFUSAL = 3;

/** What is common, where nothing else is said: one bank of a petrol engine at sea level, everything reported. */
export function guidedSetup(
  point: CapturePoint,
  engine: Partial<Omit<GuidedSetup, 'point'>> & Pick<GuidedSetup, 'metered'>,
): GuidedSetup {
  return { banks: 1, fuel: 'petrol', baroKPa: SEA_LEVEL_KPA, unreported: new Set(), ...engine, point };
}

/** Nothing heard, nothing waited for yet. */
export const GUIDED_START: GuidedState = {
  step: 'waiting',
  signals: SILENCE,
  windowFromS: null,
  wanders: 0,
  reason: null,
};

/** What follows from an event, and what is to be done about it. */
export function guide(setup: GuidedSetup, state: GuidedState, event: GuidedEvent): [GuidedState, GuidedAction[]] {
  switch (event.kind) {
    case 'again':
      return [{ ...state, step: 'waiting', windowFromS: null, wanders: 0, reason: null }, []];
    case 'interrupted':
      if (state.step === 'done') return [state, []];
      return [{ ...state, step: 'waiting', windowFromS: null, signals: { ...state.signals, series: new Map() } }, []];
    case 'samples': {
      const signals = new Growing(state.signals);
      const actions: GuidedAction[] = [];
      let next: GuidedState = { ...state, signals };
      const advance = () => {
        const [after, does] = advanced(setup, next);
        next = after;
        actions.push(...does);
      };
      for (const s of event.samples) {
        signals.add(s);
        // What passes in a moment is looked for at every pressure sample, not once a batch.
        if (setup.point.kind === 'peak' && s.channel === 'map') advance();
      }
      advance();
      return [{ ...next, signals: signals.done() }, actions];
    }
  }
}

function advanced(setup: GuidedSetup, state: GuidedState): [GuidedState, GuidedAction[]] {
  if (state.step === 'done' || state.step === 'refused') return [state, []];
  const { point } = setup;
  const { signals } = state;
  const snapped = snapWithoutPressure(setup, signals);
  if (snapped !== null) return [{ ...state, step: 'done', windowFromS: snapped }, [{ kind: 'open' }, { kind: 'keep' }]];
  if (!conditionsOf(setup, signals).every((c) => c.met)) return [{ ...state, step: 'waiting', windowFromS: null }, []];
  const fromS = state.windowFromS ?? signals.nowS;
  const opened: GuidedAction[] = state.windowFromS === null ? [{ kind: 'open' }] : [];
  if (signals.nowS - fromS < point.windowS) return [{ ...state, step: 'capturing', windowFromS: fromS }, opened];
  const reason = point.kind === 'peak' ? null : wander(setup, signals, fromS);
  if (reason === null) return [{ ...state, step: 'done', windowFromS: fromS }, [...opened, { kind: 'keep' }]];
  const wanders = state.wanders + 1;
  if (wanders < TRIES_BEFORE_REFUSAL) return [{ ...state, step: 'waiting', windowFromS: null, wanders }, opened];
  return [{ ...state, step: 'refused', windowFromS: null, wanders, reason }, [...opened, { kind: 'refuse', reason }]];
}

/** Why a whole window is not good enough; null when it is. */
function wander(setup: GuidedSetup, signals: Signals, fromS: number): string | null {
  const { point } = setup;
  const off = point.rpmHigh === 0;
  const metered = setup.metered && !off;
  const air = robust(since(signals, metered ? 'maf' : 'map', fromS));
  if (air && air.sd / air.mean > point.airflowSteadyShare)
    return `${metered ? 'airflow' : 'manifold pressure'} wandered ${((100 * air.sd) / air.mean).toFixed(0)} %`;
  if (off) return air ? null : 'no manifold pressure in the window';
  const rpm = robust(since(signals, 'rpm', fromS));
  if (!rpm) return 'no engine speed in the window';
  if (rpm.sd / rpm.mean > point.rpmSteadyShare)
    return `engine speed wandered ${((100 * rpm.sd) / rpm.mean).toFixed(0)} %`;
  return null;
}

/** Where the window lies, s of the samples' clock; null while none is open. */
export function windowOf(state: GuidedState): { fromS: number; toS: number } | null {
  return state.windowFromS === null ? null : { fromS: state.windowFromS, toS: state.signals.nowS };
}

/** Where it stands, for people. */
export function guidedStatus(setup: GuidedSetup, state: GuidedState): GuidedStatus {
  const { windowS } = setup.point;
  const open = state.windowFromS === null ? 0 : state.signals.nowS - state.windowFromS;
  const conditions = conditionsOf(setup, state.signals);
  const waits = state.step === 'waiting';
  return {
    state: state.step,
    conditions,
    sentence: waits ? waitingFor(setup, state.signals, conditions) : null,
    keepable: waits && setup.point.kind === 'steady' && onlyNotWarm(state.signals, conditions),
    goodS: state.step === 'done' ? windowS : Math.min(open, windowS),
    wantedS: windowS,
    reason: state.reason,
    etaS: warmEtaS(setup, state.signals),
  };
}
