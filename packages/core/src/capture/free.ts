import type { Sample } from '../link/index.ts';
import type { GuidedStatus } from './guided.ts';

/** A recording without conditions: everything counts until a person stops it. µs of the link's clock. */
export interface FreeState {
  readonly firstUs: number | null;
  readonly lastUs: number;
}

export const FREE_START: FreeState = { firstUs: null, lastUs: 0 };

export function record(state: FreeState, samples: readonly Sample[]): FreeState {
  let { firstUs, lastUs } = state;
  for (const s of samples) {
    firstUs ??= s.atUs;
    lastUs = Math.max(lastUs, s.atUs);
  }
  return { firstUs, lastUs };
}

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
