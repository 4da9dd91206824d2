export {
  ACCESS,
  type AccessId,
  bankNamed,
  fitsEngine,
  HAZARDS,
  hasTool,
  type Measure,
  MOST_ODDS,
  NO_EVIDENCE,
  outcomeFits,
  outcomesOf,
  SWAP_LABELS,
  SWAP_PARTS,
  speaksFor,
  TEST_BY_ID,
  TESTS,
  type TestRow,
  testLabel,
} from './benchTests.ts';
export { CONDEMNS, faultsSeen } from './condemns.ts';
export {
  FAULT_BY_ID,
  FAULTS,
  type FaultRow,
  faultLabel,
  moves,
  movesNoTrim,
  type Shape,
  sizeFigure,
} from './faults.ts';
export { COPY_POWER, HINTS, type HintRow, PENDING_POWER, WORK_HALF_DAYS } from './hints.ts';
export { type EngineKind, engineHas } from './needs.ts';
export { DIESEL_SMOKES, NO_REASON, NOTICES, type NoticeRow } from './notices.ts';
export { outcomeLabel, severalCanBe, standTogether, TEST_GROUPS } from './outcomes.ts';
export { RESULTS, type ResultRow } from './results.ts';
export { SCATTER } from './scatter.ts';
export { SIGN_TEST, type SignId } from './signs.ts';
