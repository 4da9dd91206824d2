export {
  BATTERY_NEGATIVE,
  BATTERY_POSITIVE,
  findPins,
  type PairReading,
  type Pin,
  type PinReadings,
  type PinRole,
  type PinsResult,
} from './pins.ts';
