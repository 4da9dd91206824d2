export { type AttemptTotals, attemptOf, attemptTotals, type DriveAttempt, distanceKm } from './attempts.ts';
export { type CoachSample, type CoachState, coachSample, coachStart, type Lapse, stepProgress } from './coach.ts';
export {
  boundsText,
  type CarState,
  type ConditionMet,
  conditionsMet,
  NAMES as CONDITION_NAMES,
  tenths,
} from './conditions.ts';
export {
  type Band,
  BEFORE_CONDITIONS,
  type BeforeCondition,
  type BeforeId,
  type DriveProcedure,
  type DriveStep,
  driveProblems,
  type Stretch,
  stretchesOf,
} from './format.ts';
export { type CoachNow, coachNow } from './now.ts';
export { type LeftOut, type LostCondition, lostConditions } from './onTheWay.ts';
export {
  airWindows,
  COOLING_H,
  type CoolingPoint,
  coolingConstant,
  coolingHours,
  type DrivePlan,
  type ForecastPoint,
  forecastWindows,
  type PlanCondition,
  type PlanRequest,
  planDrive,
} from './plan.ts';
export {
  carBeforeDrive,
  channelsOf,
  type DriveReview,
  driveSamples,
  heardSamples,
  reviewDrive,
  reviewOf,
  type StepReview,
} from './review.ts';
export { SCHOOLS, type SharedCondition, sharedConditions } from './schools.ts';
export { DRIVE_PROCEDURES, driveProcedure } from './shipped.ts';
export { carAtKeyOn, type KeyOn, type StartCheck, type StartRow, startCheck } from './start.ts';
export { decidedBy, lastStart } from './startWindow.ts';
export { tonight } from './tonight.ts';
export { bandInOwnUnit } from './units.ts';
export { carFromValues, neededSteps, stepWords, wantedConditions } from './wanted.ts';
