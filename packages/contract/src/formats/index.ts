export { CaseDto, COMPLAINTS, POINTS, ReadingDto, RecentWorkDto, TestResultDto, VehicleSpecDto } from './case.ts';
export { type ReadResult, readCase, readSettings, testProblems } from './read.ts';
