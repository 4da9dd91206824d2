import type { StationId } from '@just-balance/core/standing';
import { type ComponentType, lazy } from 'react';
import type { StationProps } from '../../job/station.ts';

type Page = ComponentType<StationProps>;

const LOADS: Record<StationId, () => Promise<Page>> = {
  complaint: async () => (await import('../../stations/complaint/ComplaintStation.tsx')).ComplaintStation,
  readings: async () => (await import('../../stations/readings/ReadingsStation.tsx')).ReadingsStation,
  balance: async () => (await import('../../stations/balance/BalanceStation.tsx')).BalanceStation,
  service: async () => (await import('../../stations/service/ServiceStation.tsx')).ServiceStation,
  prove: async () => (await import('../../stations/prove/ProveStation.tsx')).ProveStation,
  readiness: async () => (await import('../../stations/readiness/ReadinessStation.tsx')).ReadinessStation,
  'hand-over': async () => (await import('../../stations/handOver/HandOverStation.tsx')).HandOverStation,
};

const later = (id: StationId) => lazy(async () => ({ default: await LOADS[id]() }));

/** What each station is drawn by; it comes when the station is first opened. */
export const PAGES: Record<StationId, Page> = {
  complaint: later('complaint'),
  readings: later('readings'),
  balance: later('balance'),
  service: later('service'),
  prove: later('prove'),
  readiness: later('readiness'),
  'hand-over': later('hand-over'),
};

/**
 * Brings the stations not yet opened, one after another, once the page has nothing else to do: the next one opens at
 * once, and all of them without the server. One that does not come now is asked for again when it is opened.
 *
 * @returns What stops it.
 */
export function bringTheRest(): () => void {
  const left = Object.values(LOADS);
  let stopped = false;
  const next = () => {
    const load = left.shift();
    if (!load || stopped) return;
    load()
      .catch(() => {})
      .finally(() => whenIdle(next));
  };
  whenIdle(next);
  return () => {
    stopped = true;
  };
}

/** Not every browser says when it is idle. */
function whenIdle(then: () => void) {
  if ('requestIdleCallback' in globalThis) requestIdleCallback(then, { timeout: 4_000 });
  else setTimeout(then, 500);
}
