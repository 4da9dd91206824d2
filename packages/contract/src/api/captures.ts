import 'reflect-metadata';
import type { GuidedStatus } from '@just-balance/core/capture';
import { OPERATING_POINTS, type OperatingPoint } from '@just-balance/core/case';
import { type Said } from '@just-balance/core/units';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBase64,
  IsIn,
  IsInt,
  IsString,
  IsUUID,
  Max,
  MaxLength,
  Min,
} from 'class-validator';
import { ByKey, MostEntries, Nested, Optional } from '../checks/index.ts';
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
  detail: Said;
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
  /** Of a lost one: the adapter is there, and the vehicle says nothing. */
  silent?: boolean;
  etaS: number | null;
  /** What it waits for, as one sentence; null while it captures or is over. */
  sentence: Said | null;
  /** Nothing but warmth is missing: what is steady can be kept as doubtful. */
  keepable: boolean;
  keptSeconds: number;
}

/** A capture's status as screens are told it. */
export function captureStatus(
  capture: { id: string; at: string; phase: Phase },
  s: GuidedStatus,
  keptSeconds: number,
): CaptureStatus {
  return {
    captureId: capture.id,
    at: capture.at,
    phase: capture.phase,
    state: s.state,
    reason: s.reason,
    etaS: s.etaS,
    sentence: s.sentence,
    keepable: s.keepable,
    keptSeconds,
    conditions: s.conditions.map(({ id, label, met, detail }) => ({ id, label, met, detail })),
    goodS: Math.round(s.goodS * 10) / 10,
    wantedS: s.wantedS,
  };
}

/** Begins the way up of a capture that a browser's own link has recorded. */
export class OfflineCaptureRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
  @IsIn([...OPERATING_POINTS, FREE]) at!: OperatingPoint | typeof FREE;
}

/** The most samples one second may hold: ten times what a full bus gives. [house] */
const MOST_A_SECOND = 20_000;
const MAX_OFFSET_MS = 60_000;

/** What is wrong with one channel of a second; null when nothing is. */
function secondProblem(channel: string, list: unknown): string | null {
  if (!/^[\w.:-]{1,60}$/.test(channel)) return 'a channel is named by at most 60 letters and digits';
  if (!Array.isArray(list) || list.length > MOST_A_SECOND) return `a list of at most ${MOST_A_SECOND} samples`;
  for (const s of list as unknown[]) {
    if (!Array.isArray(s) || s.length !== 2) return 'each sample is [ms after the second began, value]';
    const [ms, value] = s as [unknown, unknown];
    if (typeof ms !== 'number' || !(ms >= 0 && ms <= MAX_OFFSET_MS)) return 'ms after the second began: 0 to 60,000';
    const ok = typeof value === 'number' ? Number.isFinite(value) : typeof value === 'string' && value.length <= 100;
    if (!ok) return 'a value is a finite number or a short text';
  }
  return null;
}

function asideProblem(why: string, frames: unknown): string | null {
  if (!/^[0-9A-F]{3,8}: .{1,100}$/.test(why)) return 'a unit, a colon and the reason';
  return Number.isInteger(frames) && (frames as number) > 0 ? null : 'how many frames: a whole number';
}

/** What was on the bus in a second, as a device keeps it. */
class OfflineBusDto {
  /** `packFrames` from the second's own time on, deflated, base64. */
  @IsBase64() @MaxLength(800_000) frames!: string;
  /** Frames that came and are not kept. */
  @IsInt() @Min(0) @Max(1_000_000) lost!: number;
}

class OfflineSecondDto {
  /** Wall-clock time of its first sample, ms since 1970. */
  @IsInt() @Min(1_500_000_000_000) @Max(4_000_000_000_000) atMs!: number;
  @ByKey(secondProblem) data!: Record<string, [number, number | string][]>;
  @Optional()
  @Nested(() => OfflineBusDto)
  bus?: OfflineBusDto;
}

/** Seconds in order, from number `from` on; the same again changes nothing. */
export class OfflineSecondsRequest {
  @IsInt() @Min(0) @Max(1_000_000) from!: number;
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(60)
  @Nested(() => OfflineSecondDto, { each: true })
  seconds!: OfflineSecondDto[];
}

class OfflineEventDto {
  /** How many seconds stood before it. */
  @IsInt() @Min(0) @Max(1_000_000) after!: number;
  @IsIn(['again', 'interrupted']) kind!: 'again' | 'interrupted';
}

/** Reasons for which frames may be set aside. [house] */
const MOST_REASONS = 60;

export class OfflineEndRequest {
  /** Frames that did not count while it ran, by “unit: reason”; absent from devices that do not count them. */
  @Optional()
  @MostEntries(MOST_REASONS)
  @ByKey(asideProblem)
  setAside?: Record<string, number>;
  /** How many seconds there are in all: it ends only once they are up. */
  @IsInt() @Min(0) @Max(1_000_000) seconds!: number;
  @IsIn(['stop', 'keep-doubtful']) how!: 'stop' | 'keep-doubtful';
  @IsArray() @ArrayMaxSize(1000) @Nested(() => OfflineEventDto, { each: true }) events!: OfflineEventDto[];
}

/** How many seconds are committed: what came before that number may go on the device. */
export interface OfflineAnswer {
  committed: number;
}
