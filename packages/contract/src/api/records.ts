import 'reflect-metadata';
import type { MonitorStatus } from '@just-balance/core/obd';
import { ArrayMaxSize, IsArray, IsBoolean, IsIn, IsUUID, Matches } from 'class-validator';
import { Optional } from '../checks/index.ts';
import { PHASES, type Phase } from './phase.ts';

export class RecordRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
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
  freezeFrame: { name: string; value: number | string; unit: string }[];
  vin: string | null;
  /** Oxygen sensors fitted, by PID 13 or 1D; null where that was not read. */
  sensors: { bank: number; sensor: number; wide: boolean }[] | null;
  warmupsSinceClear: number | null;
  distanceSinceClearKm: number | null;
}
