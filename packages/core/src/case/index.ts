export type {
  Ambient,
  BankKey,
  Case,
  CodeReading,
  O2Reading,
  OperatingPoint,
  ReadFigure,
  Reading,
  RecentWork,
  TestResult,
  TrimReading,
  VehicleSpec,
} from './case.ts';
export { OPERATING_POINTS, PART_MAKES, READ_FIGURES } from './case.ts';
export { complaintLabel, pointLabel } from './labels.ts';
export {
  fuelPressureLimits,
  limitOf,
  limitsWith,
  OWN_VALUES,
  type OwnValue,
  throttleLimit,
  torqueOf,
} from './ownValues.ts';
export { PARTS, type PartRow, partLabel, partNames, partOf } from './parts.ts';
