import 'reflect-metadata';
import { OPERATING_POINTS, type OperatingPoint } from '@just-balance/core/case';
import { IsIn, IsString, IsUUID, MaxLength } from 'class-validator';
import { Optional } from '../checks/index.ts';
import { PHASES, type Phase } from './phase.ts';

/** A recording without an operating point. */
export const FREE = 'free';

export class NewCaptureRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
  /** An operating point, or `free`: everything that comes, until it is stopped. */
  @IsIn([...OPERATING_POINTS, FREE]) at!: OperatingPoint | typeof FREE;
  /** Free only: this channel alone, as fast as the bus goes. */
  @Optional() @IsString() @MaxLength(40) only?: string;
}

export class CaptureCommand {
  @IsIn(['stop', 'again', 'keep-doubtful', 'pause', 'resume'])
  command!: 'stop' | 'again' | 'keep-doubtful' | 'pause' | 'resume';
}

export interface CaptureView {
  id: string;
  at: string;
  phase: Phase;
  state: 'running' | 'done' | 'stopped' | 'failed';
  source: 'link' | 'import';
  /** File name of an import. */
  name: string | null;
  startedAt: string;
  seconds: number;
  gaps: number;
}

export interface ConditionView {
  id: string;
  label: string;
  met: boolean;
  detail: string;
}

/** Where a guided capture stands, pushed with every committed second. */
export interface CaptureStatus {
  captureId: string;
  at: string;
  phase: Phase;
  state: 'waiting' | 'capturing' | 'refused' | 'done' | 'lost' | 'paused';
  conditions: ConditionView[];
  /** Seconds of good window so far, and wanted. */
  goodS: number;
  wantedS: number;
  reason: string | null;
  etaS: number | null;
  keptSeconds: number;
}
