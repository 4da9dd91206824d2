export {
  type BankReading,
  type Change,
  compareTrims,
  type MatchedCondition,
  matchConditions,
  type Proof,
  proofOf,
  STATES,
} from './compare.ts';
export { effectOf, leakToday, leakTodayWords } from './conditions.ts';
export { compareFigures, digitsOf, type FigureChange, insideLimit } from './figures.ts';
export { keyFigure, readingInWords } from './keyFigure.ts';
export { type PendingLine, pendingLine } from './pending.ts';
export { ROAD_TEST, type RoadSample, type RoadTest, roadSamples, roadTest } from './roadTest.ts';
export { newestOfEach, phaseNow, type Story, storyOf } from './story.ts';
export { bankTotals } from './totals.ts';
export {
  changeWords,
  judgeProof,
  type ProofInput,
  type ProofJudgement,
  type ProofVerdict,
  weakened,
} from './verdict.ts';
