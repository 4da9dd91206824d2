export { type FoundPoint, findPoints, type RecordedEngine } from './find.ts';
export { FreeRecording } from './free.ts';
export { type Condition, GuidedCapture, type GuidedState, type GuidedStatus } from './guided.ts';
export { CAPTURE_POINTS, type CaptureKind, type CapturePoint, capturePoint, pointsFor, WARM_FROM_C } from './points.ts';
export { quantumOf, TOOL_PROFILES, type ToolAbility, type ToolProfile, toolProfile } from './tools.ts';
