export { channelName } from './channelNames.ts';
export { type CodeInfo, type CodeKind, codeInfo, codeProblem, codeText } from './codes.ts';
export { canSay, type Decoded, decodeResponse, encodePid } from './decode.ts';
export { dtcBytes, dtcText } from './dtc.ts';
export { type LogDecoder, type LogValue, logDecoder, logLine } from './log/log.ts';
export { type LogBytes, logBytes } from './log/logBytes.ts';
export {
  CONTINUOUS_MONITORS,
  decodeMonitors,
  encodeMonitors,
  MONITORS,
  type MonitorId,
  type MonitorState,
  type MonitorStatus,
} from './monitors.ts';
export type { Element, Pid } from './pids/pidRows.ts';
export { FUEL_SYSTEM_TEXT, FULL_SCALE, PIDS, pidRow, QUANTUM } from './pids/pids.ts';
export { type FittedSensor, oxygenSensors, supportBitmap, supportedPids } from './supported.ts';
export { decodeTestResults, monitorLabel, readinessOf, type TestResultRow } from './testResults.ts';
export { isVin, modelYear, vinCheckDigit } from './vin.ts';
