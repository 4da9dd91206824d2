export { CAUTIONS, type CautionRow, cautionsFor, PRECEDENCE, WORK_STEPS } from './cautions.ts';
export {
  AFTERWARDS,
  type Answer,
  PROCEDURE_KINDS,
  type Procedure,
  type ProcedureKind,
  type ProcedureStep,
  procedureProblems,
  STEP_KINDS,
  type StepKind,
  type StopRule,
} from './format.ts';
export {
  type DirtFound,
  goesBackOn,
  inOrder,
  type OffItem,
  type RunState,
  runState,
  type StepResult,
  type Timer,
  timerLeftS,
} from './run.ts';
export type { Happened, HappenedKind, RunEvent, TakenOff } from './runEvents.ts';
export { SHIPPED_PROCEDURES } from './shipped/index.ts';
