import 'reflect-metadata';
import type { Counters } from '@just-balance/core/link';
import type { MonitorStatus, TestResultRow } from '@just-balance/core/obd';
import { ArrayMaxSize, ArrayMinSize, IsArray, IsBoolean, IsIn, IsUUID, Matches } from 'class-validator';
import { Nested, Optional } from '../checks/index.ts';
import { PHASES, type Phase } from './phase.ts';

export class RecordRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
}

/** Hex digits: a question, which unit answered, its answer. */
class HeardDto {
  @Matches(/^([0-9A-F]{2}){1,7}$/i) asked!: string;
  @Matches(/^[0-9A-F]{3,8}$/i) ecu!: string;
  @Matches(/^([0-9A-F]{2}){1,600}$/i) payload!: string;
}

/** What a browser's own link heard: the server reads it as if it had asked itself. */
export class HeardRecordRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
  @IsArray() @ArrayMinSize(1) @ArrayMaxSize(400) @Nested(() => HeardDto, { each: true }) heard!: HeardDto[];
}

export class HandRecordRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
  @IsArray() @ArrayMaxSize(60) @Matches(/^[A-Z0-9 -]{3,40}$/i, { each: true }) stored!: string[];
  @IsArray() @ArrayMaxSize(60) @Matches(/^[A-Z0-9 -]{3,40}$/i, { each: true }) pending!: string[];
  @Optional() @IsArray() @ArrayMaxSize(60) @Matches(/^[A-Z0-9 -]{3,40}$/i, { each: true }) permanent?: string[];
  @IsBoolean() lampOn!: boolean;
}

export interface CodeView {
  code: string;
  state: 'stored' | 'pending' | 'permanent';
  text: string | null;
}

/** Codes, monitors and freeze frame as they stood: kept before anything may be cleared. */
export interface RecordView {
  id: string;
  phase: Phase;
  at: string;
  source: 'link' | 'hand';
  codes: CodeView[];
  lampOn: boolean;
  monitors: MonitorStatus | null;
  /** The same for this drive, PID 41; null where it was not read. */
  cycle: MonitorStatus | null;
  /** Results of on-board tests, service 06. */
  tests: TestResultRow[];
  counters: Counters;
  freezeFrame: { name: string; value: number | string; unit: string }[];
  vin: string | null;
  /** Oxygen sensors fitted, by PID 13 or 1D; null where that was not read. */
  sensors: { bank: number; sensor: number; wide: boolean }[] | null;
  warmupsSinceClear: number | null;
  distanceSinceClearKm: number | null;
}
