export {
  CaseDto,
  COMPLAINTS,
  READING_RANGES,
  ReadingDto,
  RecentWorkDto,
  TestResultDto,
  VehicleSpecDto,
} from './case.ts';
export { type ReadResult, readCase, readSettings, testProblems } from './read.ts';
export { SettingsDto } from './settings.ts';
