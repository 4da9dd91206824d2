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
export {
  besideFields,
  measuredFields,
  NAMES_CYLINDERS,
  resultInWords,
  type TestField,
  valuesInWords,
} from './testWords.ts';
export { eventProblem, TRAIL_KINDS, trailSentence } from './trail.ts';
