export {
  ACCESS,
  type AccessId,
  bankNamed,
  HAZARDS,
  NO_EVIDENCE,
  outcomeLabel,
  outcomesOf,
  RELIABILITY,
  SWAP_PARTS,
  TEST_BY_ID,
  TESTS,
  type TestRow,
  testLabel,
} from './benchTests.ts';
export { FAULT_BY_ID, FAULTS, type FaultRow, faultLabel, movesNoTrim, type Shape } from './faults.ts';
export {
  ABSENT_SHARE,
  COPY_POWER,
  HINTS,
  type HintRow,
  PENDING_POWER,
  QUIET_FACTOR,
  SILENT_FACTOR,
  WORK_HALF_DAYS,
} from './hints.ts';
export type { SignId } from './signs.ts';
