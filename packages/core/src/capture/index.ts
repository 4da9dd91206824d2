export type { Condition, GuidedSetup } from './conditions.ts';
export { type FoundPoint, findPoints, type RecordedEngine } from './find.ts';
export { FREE_START, type FreeState, freeStatus, record } from './free.ts';
export {
  GUIDED_START,
  type GuidedAction,
  type GuidedEvent,
  type GuidedState,
  type GuidedStatus,
  guide,
  guidedSetup,
  guidedStatus,
  windowOf,
} from './guided.ts';
export { CAPTURE_POINTS, type CaptureKind, type CapturePoint, capturePoint, pointsFor, WARM_FROM_C } from './points.ts';
export {
  beginRun,
  type CapturedEngine,
  type CaptureRun,
  followRun,
  type GuidedRun,
  NOT_BEGUN,
  planOf,
  runStatus,
} from './run.ts';
export { LONGEST_STRETCH_S, readingOfStretch } from './stretch.ts';
export { quantumOf, TOOL_PROFILES, type ToolAbility, type ToolProfile, toolProfile } from './tools.ts';
export { flagsOf, readingOf } from './windowReading.ts';
