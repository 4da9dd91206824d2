export {
  betaShare,
  LEAST_FIGURES,
  type RobustBand,
  robustBand,
  type Share,
  type Spread,
  studentQuantile,
} from './intervals.ts';
export {
  type JobLesson,
  type Learned,
  type LearnedCause,
  type LearnedChance,
  type LearnedFigure,
  type LearnedTest,
  type LearningChoice,
  learn,
  learnedFigures,
  learnedSettings,
  PRIOR_STRENGTH,
  TEST_STRENGTH,
} from './learn.ts';
export { type Lesson, lessonOf } from './lesson.ts';
export { searchWords } from './searchWords.ts';
export { type Wait, waitsOf } from './waits.ts';
