import 'reflect-metadata';
import type { Counters } from '@just-balance/core/link';
import type { MonitorStatus, TestResultRow } from '@just-balance/core/obd';
import { type CodeKind, codeProblem, MONITORS, type MonitorId } from '@just-balance/core/obd';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsString,
  IsUUID,
  Matches,
  Max,
  MaxLength,
  Min,
  ValidateBy,
} from 'class-validator';
import { ByKey, Nested, Optional } from '../checks/index.ts';
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

/** Every one a code by its form; the first that is not is named. */
function Codes(): PropertyDecorator {
  const wrong = (v: unknown) =>
    (Array.isArray(v) ? v : []).map((c) => (typeof c === 'string' ? codeProblem(c) : 'a list of codes')).find(Boolean);
  const parts = [
    IsArray(),
    ArrayMaxSize(60),
    ValidateBy({
      name: 'codes',
      validator: { validate: (v) => !wrong(v), defaultMessage: (args) => wrong(args!.value) ?? '' },
    }),
  ];
  return (target, key) => {
    for (const p of parts) p(target, key as string);
  };
}

/** A value of the freeze frame as a tool shows it. */
export class FrozenDto {
  @IsString() @MaxLength(60) name!: string;
  @ValidateBy({
    name: 'value',
    validator: {
      validate: (v) => (typeof v === 'number' && Number.isFinite(v)) || (typeof v === 'string' && v.length <= 60),
      defaultMessage: () => 'a number or a short text',
    },
  })
  value!: number | string;
  @IsString() @MaxLength(20) unit!: string;
}

const HAND_MONITOR_STATES = ['complete', 'incomplete', 'unsupported'] as const;

/** What another tool shows, typed: as much of it as it shows. */
class HandRecordDto {
  @IsIn(PHASES) phase!: Phase;
  @Codes() stored!: string[];
  @Codes() pending!: string[];
  @Optional() @Codes() permanent?: string[];
  @IsBoolean() lampOn!: boolean;
  @Optional()
  @ByKey((k, v) =>
    !(k in MONITORS)
      ? 'is no monitor'
      : (HAND_MONITOR_STATES as readonly unknown[]).includes(v)
        ? null
        : `one of ${HAND_MONITOR_STATES.join(', ')}`,
  )
  monitors?: Partial<Record<MonitorId, (typeof HAND_MONITOR_STATES)[number]>>;
  @Optional() @IsArray() @ArrayMaxSize(60) @Nested(() => FrozenDto, { each: true }) freezeFrame?: FrozenDto[];
  @Optional() @IsInt() @Min(0) @Max(255) warmupsSinceClear?: number;
  @Optional() @IsNumber() @Min(0) @Max(65_535) distanceSinceClearKm?: number;
  @Optional() @IsInt() @Min(0) @Max(65_535) minutesSinceClear?: number;
  @Optional() @IsNumber() @Min(0) @Max(65_535) lampDistanceKm?: number;
}

export class HandRecordRequest extends HandRecordDto {
  @IsUUID() id!: string;
}

/** A record that was typed, put right: whole, as it is to stand. */
export class RecordChangeRequest extends HandRecordDto {
  @IsInt() @Min(1) rev!: number;
}

export interface CodeView {
  code: string;
  state: 'stored' | 'pending' | 'permanent';
  kind: CodeKind;
  text: string;
}

/** Codes, monitors and freeze frame as they stood: kept before anything may be cleared. */
export interface RecordView {
  id: string;
  rev: number;
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
