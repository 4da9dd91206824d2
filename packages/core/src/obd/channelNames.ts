import { PIDS } from './pids/pids.ts';

/** Channels as a sentence names them. */
const SPOKEN: Readonly<Record<string, string>> = {
  rpm: 'engine speed',
  vss: 'road speed',
  ect: 'coolant',
  iat: 'intake air',
  maf: 'airflow',
  map: 'manifold pressure',
  tp: 'throttle',
  tpRel: 'relative throttle',
  load: 'calculated load',
  fuelLevel: 'fuel level',
  ambient: 'outside air',
  baro: 'barometric pressure',
  vbat: 'supply voltage',
};

let labels: ReadonlyMap<string, string> | null = null;

/** What a channel is called within a sentence; its id only where no parameter carries it. */
export function channelName(id: string): string {
  labels ??= new Map(PIDS.flatMap((p) => p.elements.map((e) => [e.id, e.label] as const)));
  return SPOKEN[id] ?? labels.get(id)?.toLowerCase() ?? id;
}
