export { luckOfOne, luckOfTwo } from './chance.ts';
export {
  betaShare,
  LEAST_FIGURES,
  type RobustBand,
  robustBand,
  type Share,
  type Spread,
  studentQuantile,
} from './intervals.ts';
export { type JobOutcome, jobOutcome } from './jobOutcome.ts';
export { LANE_LABELS, LANES, type Lane, laneOf } from './lanes.ts';
export { learn, learnedFigures, learnedSettings, PRIOR_STRENGTH, TEST_STRENGTH } from './learn.ts';
export type {
  Finding,
  FindingPicture,
  Learned,
  LearnedCause,
  LearnedChance,
  LearnedFigure,
  LearnedTest,
  LearningChoice,
  OutcomeOfJob,
} from './learned.ts';
export { type JobOrder, ordersOf } from './orders.ts';
export { searchWords } from './searchWords.ts';
export { type Wait, waitsOf } from './waits.ts';
