export { type ClearedAnswer, type ClearingSigns, clearedLately } from './cleared.ts';
export * from './drive/index.ts';
export { type Margin, type MonitorRow, marginWords, monitorPicture, provingMonitors } from './monitorPicture.ts';
export {
  allComplete,
  askRule,
  BEFORE_INSPECTION,
  EXTRA_TESTS,
  type ExtraTest,
  INSPECTION_RULES,
  type InspectionRule,
  type RuleAnswer,
  type RuleBand,
  type RuleExtra,
  type RuleQuestion,
  type RuleVehicles,
  ruleProblems,
} from './rules.ts';
export { type ReadRecord, type SettlesLine, settlesLines } from './settles.ts';
export { monitorOfCode, notYetJudged, twoTripsSince } from './trips.ts';
