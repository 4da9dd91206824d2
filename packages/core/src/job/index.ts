export { caseOfJob, type JobEvidence } from './caseOf.ts';
export {
  besideFields,
  measuredFields,
  NAMES_CYLINDERS,
  resultInWords,
  type TestField,
  valuesInWords,
} from './testWords.ts';
export { eventProblem, settingsInWords, TRAIL_KINDS, trailSentence } from './trail.ts';
