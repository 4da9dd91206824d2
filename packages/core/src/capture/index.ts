export { type Condition, GuidedCapture, type GuidedState, type GuidedStatus } from './guided.ts';
export { CAPTURE_POINTS, type CapturePoint, capturePoint, WARM_FROM_C } from './points.ts';
