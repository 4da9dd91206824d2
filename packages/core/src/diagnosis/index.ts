// Formats

export { beamShapes, type GhostShape } from './beam.ts';
// Weighing, next test, explanation
export { CORE_VERSION, diagnose } from './diagnose.ts';
// Evidence and forward model
export { type Evidence, faultLabel, gatherEvidence, HEALTHY_SD, pointLabel, resolveBanks } from './evidence.ts';
export { signed } from './explain.ts';
// Tables
export { canExist, FAULT_BY_ID, FAULTS, type FaultRow, movesNoTrim, type Shape } from './faults.ts';
export { type Effect, leakAt, predict } from './forward.ts';
export { HINTS } from './hints.ts';
export { informationBits, worthDoing } from './nextTest.ts';
export { ruleOf } from './paragraph.ts';
export type { Sign, SignId } from './signs.ts';
export {
  ACCESS,
  HAZARDS,
  NO_EVIDENCE,
  outcomeProbability,
  outcomesOf,
  RELIABILITY,
  SWAP_PARTS,
  TEST_BY_ID,
  TESTS,
  type TestRow,
} from './tests.ts';
export type {
  Ambient,
  BankKey,
  Case,
  Cause,
  CodeReading,
  Diagnosis,
  MindChange,
  Mixture,
  NextTest,
  O2Reading,
  OperatingPoint,
  Reading,
  RecentWork,
  Settings,
  Severity,
  TestResult,
  TrimReading,
  VehicleSpec,
} from './types.ts';
export { logSumExp, severityGrid, severityOf, type Weighed, weigh } from './weigh.ts';
export { type WhatIf, type WouldRead, whatIf } from './whatIf.ts';
