export { betaCdf, betaQuantile } from './beta.ts';
export { CAUTIONS, type CautionRow, cautionsFor, PRECEDENCE, WORK_STEPS } from './cautions.ts';
export {
  type Chance,
  CLEANABLE,
  type CleanablePart,
  type CleaningCounts,
  type CleaningState,
  type CleanOrReplace,
  type CleanOrReplaceTerms,
  chanceOfHolding,
  cleanablePart,
  cleanOrReplace,
  startingTerms,
  type Way,
} from './cleanOrReplace.ts';
export { DIRT_SOURCES, type DirtSource, dirtSource } from './dirt.ts';
export { disputeSaid, notedSaid, wordSaid } from './disputes.ts';
export { answersFor, type Found, foundGood, foundIn, knownAnswer } from './finds.ts';
export {
  AFTERWARDS,
  type Answer,
  type Finds,
  type FirstOfAll,
  type Leads,
  PROCEDURE_KINDS,
  type Procedure,
  type ProcedureKind,
  type ProcedureStep,
  procedureProblems,
  STEP_KINDS,
  type StepKind,
  type StopRule,
  tightened,
} from './format.ts';
export { against, LIES, leadsOf, limitsOf, measuredWords, type StepLimits } from './limits.ts';
export { LIVE_CONDITIONS, type LiveCondition, type LiveTick, liveTicks } from './liveConditions.ts';
export { minutesLeft, waitingMinutes } from './minutesLeft.ts';
export { goesBackOn, type OpenAtEnd, openAtEnd } from './openAtEnd.ts';
export { isOpen as orderIsOpen, orderSaid, type PartOrder } from './orders.ts';
export { type Placed, placeOf } from './place.ts';
export {
  missingTools,
  NOT_DONE,
  type PlanInput,
  type Proposal,
  servicePlan,
  suits,
} from './plan.ts';
export { inOrder, runState, timerLeftS } from './run.ts';
export {
  type Happened,
  type HappenedKind,
  ORDER_STATES,
  type OrderState,
  type RunEvent,
  type TakenOff,
} from './runEvents.ts';
export type { DirtFound, Dispute, Mishap, OffItem, RunState, StepResult, StepWord, Timer } from './runState.ts';
export { SHIPPED_PROCEDURES } from './shipped/index.ts';
export { asks, plainDone, SHORT_REASON, shortLines } from './short.ts';
export { type TorqueDoubt, torqueDoubt } from './torque.ts';
export {
  cleanedInVain,
  cleaningsOf,
  type PartDecision,
  REPAIR_WORKS,
  type RepairWork,
  WORK_OF_KIND,
  workText,
} from './works.ts';
