import type { Sample } from '../link/index.ts';
import type { GuidedStatus } from './guided.ts';

/** A recording without conditions: everything counts until a person stops it. µs of the link's clock. */
export interface FreeState {
  readonly firstUs: number | null;
  readonly lastUs: number;
}

/** Before the first sample. */
export const FREE_START: FreeState = { firstUs: null, lastUs: 0 };

/** The recording with these samples: it only keeps from when to when they go, µs. */
export function record(state: FreeState, samples: readonly Sample[]): FreeState {
  let { firstUs, lastUs } = state;
  for (const s of samples) {
    firstUs ??= s.atUs;
    lastUs = Math.max(lastUs, s.atUs);
  }
  return { firstUs, lastUs };
}

/** A free recording as a capture: nothing is waited for, everything counts; `goodS` is its length in s. */
export function freeStatus({ firstUs, lastUs }: FreeState): GuidedStatus {
  const goodS = firstUs === null ? 0 : (lastUs - firstUs) / 1e6;
  return {
    state: 'capturing',
    conditions: [],
    goodS,
    wantedS: 0,
    reason: null,
    etaS: null,
    sentence: null,
    keepable: false,
  };
}
