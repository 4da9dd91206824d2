// Parameters

// Messages
export { type Decoded, decodeResponse, encodePid } from './decode.ts';
// Codes, monitors, identity
export { codeText, dtcBytes, dtcText } from './dtc.ts';
export { type LogDecoder, type LogRow, logDecoder } from './log.ts';
export { type LogBytes, logBytes } from './logBytes.ts';
export {
  decodeMonitors,
  encodeMonitors,
  MONITORS,
  type MonitorId,
  type MonitorState,
  type MonitorStatus,
} from './monitors.ts';
export { type Element, FUEL_SYSTEM_TEXT, FULL_SCALE, PIDS, type Pid, pidRow, QUANTUM } from './pids.ts';
export { type FittedSensor, oxygenSensors, supportBitmap, supportedPids } from './supported.ts';
export { decodeTestResults, monitorLabel, type TestResultRow } from './testResults.ts';
export { isVin, modelYear, vinCheckDigit } from './vin.ts';
