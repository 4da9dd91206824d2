export { caseOfJob, type JobEvidence } from './caseOf.ts';
export {
  currentStation,
  type JobFacts,
  STATION_LABELS,
  STATIONS,
  type StationId,
  type StationView,
  stationViews,
} from './stations.ts';
