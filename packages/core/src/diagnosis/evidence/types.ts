import { type CodeReading, type OperatingPoint, type RecentWork, type VehicleSpec } from '../../case/index.ts';
import { type EngineKind, type TestRow } from '../../catalogue/index.ts';
import type { Said } from '../../units/index.ts';
import { type Sign } from './signs.ts';
import { type MeasuredSize } from './sizes.ts';
export interface TrimEvidence {
  at: OperatingPoint;
  /** Index of the point among the evidence's points. */
  point: number;
  bank: 1 | 2;
  totalPct: number;
  /** How far it wandered within its window, %; of a reading taken by eye what an eye misses. */
  wanderedPct: number;
  /** Own noise, without the healthy spread. */
  sd: number;
  pegged: boolean;
}

export interface PointEvidence {
  at: OperatingPoint;
  rpm: number;
  /** What the ECU meters: measured, or estimated (then `estimated`). */
  airflowGps: number;
  estimated: boolean;
  mapKPa: number;
  iatC: number;
  /** ln(measured airflow / expected by speed-density), where both are there. */
  airflowLog: number | null;
  /** Standard deviation of airflowLog in healthy engines; what all points of one share of it. */
  airflowSd: number;
  /** What the expected airflow was taken from. */
  airflowFrom: 'physics' | 'entered' | 'shop';
  /** The manifold pressure was read, not taken from common practice. */
  pressureRead: boolean;
  rpmRead: boolean;
  /** The signal was there but far below what any running engine draws; airflowGps is the estimate. */
  airflowDead: boolean;
  trims: TrimEvidence[];
}

export interface TestEvidence {
  row: TestRow;
  outcome: string;
  bank: 1 | 2 | null;
  /** The part swapped, where that is the test. */
  part: string | null;
  detail: Said;
  /** Fuel pressure over what it should be, less 1, where both were given. */
  figure?: number;
}

/** A case as the weighing needs it: gathered once, in metric units, each figure with its spread. */
export interface Evidence {
  vehicle: VehicleSpec;
  /** The vehicle with the sensors that it must have, by what was read of it. */
  engine: EngineKind;
  banks: 1 | 2;
  baroKPa: number;
  airC: number;
  ethanolCalibratedPct: number;
  railKPa: number;
  /** Closed-loop points ordered by airflow. */
  points: PointEvidence[];
  /** All their trims, in the same order. */
  trims: TrimEvidence[];
  idleFlowGps: number;
  idleMapKPa: number;
  /** Airflow taken as road load: the flow at which fuel delivery severities are stated. */
  roadFlowGps: number;
  fullLoad: { ratio: number; lean: number | null } | null;
  koeoDifferenceKPa: number | null;
  tests: TestEvidence[];
  /** The airflow signal stands near nothing on a running engine: a dead signal, not airflow. */
  airflowDead: boolean;
  codes: readonly CodeReading[] | null;
  complaints: readonly string[];
  /** Each with the part it names, where it names one. */
  work: readonly (RecentWork & { id: string | null })[];
  /** What readings show beside trims. */
  signs: readonly Sign[];
  /** Sizes read off directly. */
  sizes: readonly MeasuredSize[];
  warnings: Said[];
}
