export {
  CaseDto,
  COMPLAINTS,
  READING_RANGES,
  ReadingDto,
  RecentWorkDto,
  TestResultDto,
  VehicleSpecDto,
} from './case.ts';
export type { ReadResult } from './head.ts';
export { readPins } from './pins.ts';
export { readCase, readSettings, testProblems } from './read.ts';
export { SettingsDto } from './settings.ts';
