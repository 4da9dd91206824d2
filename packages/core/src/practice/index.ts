export {
  LEVEL_LABELS,
  PRACTICE_LEVELS,
  PRACTICE_SCENARIOS,
  type PracticeLevel,
  type PracticeScenario,
  scenarioProblems,
} from './scenario.ts';
export { type PracticeAnswer, type PracticeMove, type PracticeScore, scorePractice } from './score.ts';
