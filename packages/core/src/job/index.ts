export { caseOfJob, type JobEvidence } from './caseOf.ts';
export {
  currentStation,
  type JobFacts,
  REQUIRED_POINTS,
  STATION_LABELS,
  STATIONS,
  type StationId,
  type StationView,
  stationViews,
} from './stations.ts';
