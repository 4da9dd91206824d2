export { findPins } from './pins.ts';
export {
  BATTERY_NEGATIVE,
  BATTERY_POSITIVE,
  type PairReading,
  type Pin,
  type PinReadings,
  type PinRole,
  type PinsResult,
} from './readings.ts';
export { type Pair, type Settling, settlingPairs } from './settle.ts';
