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
export {
  type Learned,
  type LearnedCause,
  type LearnedChance,
  type LearnedFigure,
  type LearnedTest,
  type LearningChoice,
  learn,
  learnedFigures,
  learnedSettings,
  type OutcomeOfJob,
  PRIOR_STRENGTH,
  TEST_STRENGTH,
} from './learn.ts';
export { type JobOrder, ordersOf } from './orders.ts';
export { searchWords } from './searchWords.ts';
export { type Wait, waitsOf } from './waits.ts';
