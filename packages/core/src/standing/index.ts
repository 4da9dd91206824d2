export { type JobStanding, type Proven, standingOf } from './standing.ts';
export { STATION_LABELS, STATIONS, type StationId, type StationView } from './stations.ts';
export { type WorkUnderWay, workUnderWay } from './work.ts';
