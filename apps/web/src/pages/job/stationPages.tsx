import type { StationId } from '@just-balance/core/standing';
import type { ComponentType } from 'react';
import type { StationProps } from '../../job/frame/station.ts';
import { later } from '../../ui/later.tsx';

const wait = <p className="m-0 text-soft">Opening the station…</p>;

/** What each station is drawn by. */
export const PAGES: Record<StationId, ComponentType<StationProps>> = {
  complaint: later(async () => (await import('../../stations/complaint/ComplaintStation.tsx')).ComplaintStation, wait),
  readings: later(async () => (await import('../../stations/readings/ReadingsStation.tsx')).ReadingsStation, wait),
  balance: later(async () => (await import('../../stations/balance/BalanceStation.tsx')).BalanceStation, wait),
  service: later(async () => (await import('../../stations/service/ServiceStation.tsx')).ServiceStation, wait),
  prove: later(async () => (await import('../../stations/prove/ProveStation.tsx')).ProveStation, wait),
  readiness: later(async () => (await import('../../stations/readiness/ReadinessStation.tsx')).ReadinessStation, wait),
  'hand-over': later(async () => (await import('../../stations/handOver/HandOverStation.tsx')).HandOverStation, wait),
};
