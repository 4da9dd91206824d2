export {
  DRIVE_NEXT,
  type DriveAnswer,
  type DriveNext,
  driveChoices,
  driveTruth,
  scoreDrive,
} from './drives.ts';
export { LEVEL_LABELS, PRACTICE_LEVELS, type PracticeLevel } from './levels.ts';
export { type PracticeScenario, scenarioProblems } from './scenario.ts';
export { type PracticeAnswer, type PracticeMove, type PracticeScore, scorePractice } from './score.ts';
