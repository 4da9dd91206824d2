import 'reflect-metadata';
import { MONITORS, type MonitorId } from '@just-balance/core/obd';
import {
  type Band,
  BEFORE_CONDITIONS,
  BEFORE_INSPECTION,
  type BeforeCondition,
  type CarState,
  type CoolingPoint,
  type DriveAttempt,
  type DriveProcedure,
  type DriveStep,
  type ForecastPoint,
  type Stretch,
} from '@just-balance/core/readiness';
import { unixOf } from '@just-balance/core/time';
import { type Said } from '@just-balance/core/units';
import {
  ArrayMaxSize,
  ArrayMinSize,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsObject,
  IsString,
  IsUUID,
  Matches,
  Max,
  MaxLength,
  Min,
  ValidateBy,
  ValidateIf,
} from 'class-validator';
import { ID, ID_MESSAGE, Nested, Optional, Sentence, Words } from '../checks/index.ts';

const LARGEST = 1e6;

function Bound(): PropertyDecorator {
  const parts = [IsNumber(), Min(-LARGEST), Max(LARGEST)];
  return (target, key) => {
    for (const p of parts) p(target, key as string);
  };
}

/** An ISO 8601 time with its zone. */
function Moment(): PropertyDecorator {
  return ValidateBy({
    name: 'moment',
    validator: {
      validate: (v) => typeof v === 'string' && unixOf(v) !== null,
      defaultMessage: () => 'an ISO 8601 time with its zone, such as 2026-01-31T06:00:00Z',
    },
  });
}

class BandDto implements Band {
  @Words(40) channel!: string;
  @Optional() @Bound() low?: number;
  @Optional() @Bound() high?: number;
  @Words(20) unit!: string;
  @Optional() @IsBoolean() ifKnown?: boolean;
}

class StretchDto implements Stretch {
  @Optional() @IsArray() @ArrayMaxSize(12) @Nested(() => BandDto, { each: true }) hold?: BandDto[];
  @Optional() @IsNumber() @Min(0) @Max(86_400) seconds?: number;
  @Optional() @Nested(() => BandDto) until?: BandDto;
  @Optional() @IsBoolean() standing?: boolean;
  @Optional() @IsBoolean() engineOff?: boolean;
  @Optional() @IsBoolean() unseen?: boolean;
}

class StepDto extends StretchDto implements DriveStep {
  @Matches(ID, { message: ID_MESSAGE }) @MaxLength(60) id!: string;
  @Sentence(500) says!: Said;
  @Optional() @IsArray() @ArrayMaxSize(16) @IsString({ each: true }) finishes?: DriveStep['finishes'];
  @Optional() @IsNumber() @Min(0) @Max(3600) graceSeconds?: number;
  @Optional() @IsNumber() @Min(0) @Max(LARGEST) smooth?: number;
  @Optional() @IsBoolean() repeatable?: boolean;
  @Optional() @IsArray() @ArrayMaxSize(60) @IsString({ each: true }) after?: string[];
  @Optional() @IsBoolean() inAll?: boolean;
  @Optional()
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(20)
  @Nested(() => StretchDto, { each: true })
  phases?: StretchDto[];
}

class BeforeDto implements BeforeCondition {
  @IsIn(BEFORE_CONDITIONS) id!: BeforeCondition['id'];
  @Optional() @Bound() low?: number;
  @Optional() @Bound() high?: number;
  @Optional() @Words(20) unit?: string;
  @Optional() @IsArray() @ArrayMaxSize(60) @IsString({ each: true }) codes?: string[];
  @Optional() @IsArray() @ArrayMaxSize(60) @IsString({ each: true }) steps?: string[];
}

/** `just-balance/drive-procedure`, version 1. Unknown keys are ignored. */
export class DriveProcedureDto implements DriveProcedure {
  format!: 'just-balance/drive-procedure';
  version!: 1;
  @Matches(ID, { message: ID_MESSAGE }) @MaxLength(60) id!: string;
  @Words(120) title!: string;
  @Words(300) source!: string;
  @IsArray() @ArrayMaxSize(20) @Nested(() => BeforeDto, { each: true }) before!: BeforeDto[];
  @IsArray() @ArrayMinSize(1) @ArrayMaxSize(60) @Nested(() => StepDto, { each: true }) steps!: StepDto[];
  @Optional() @IsNumber() @Min(0.1) @Max(1440) totalMinutes?: number;
  @Optional() @IsInt() @Min(1) @Max(20) drives?: number;
  @Optional() @IsNumber() @Min(0) @Max(1440) minutes?: number;
}

export class CarStateDto implements CarState {
  @Optional() @Moment() engineOffSince?: string | null;
  @Optional() @Moment() startedAt?: string;
  @Optional() @IsNumber() @Min(-60) @Max(250) coolantC?: number;
  @Optional() @IsNumber() @Min(-60) @Max(250) intakeC?: number;
  @Optional() @IsNumber() @Min(-60) @Max(70) ambientC?: number;
  @Optional() @IsNumber() @Min(-500) @Max(9000) altitudeM?: number;
  @Optional() @IsNumber() @Min(0) @Max(100) fuelPct?: number;
  @Optional() @IsNumber() @Min(1) @Max(2000) tankL?: number;
  @Optional() @IsNumber() @Min(0.1) @Max(200) consumptionLPer100Km?: number;
  @Optional() @IsIn(['on', 'off']) lamp?: 'on' | 'off';
  @Optional() @IsArray() @ArrayMaxSize(200) @IsString({ each: true }) codes?: string[];
  @Optional() @IsNumber() @Min(0) @Max(60) batteryV?: number;
  @Optional() @IsArray() @ArrayMaxSize(16) @IsString({ each: true }) incomplete?: string[];
}

class ForecastPointDto implements ForecastPoint {
  @Moment() at!: string;
  @IsNumber() @Min(-80) @Max(70) airC!: number;
}

class CoolingPointDto implements CoolingPoint {
  @Moment() at!: string;
  @IsNumber() @Min(-60) @Max(250) coolantC!: number;
}

/** `just-balance/drive-plan-request`, version 1. */
export class PlanRequestDto {
  /** One of ours by its id, or a whole drive procedure. */
  @ValidateBy({
    name: 'procedure',
    validator: {
      validate: (v) => (typeof v === 'string' && v !== '') || (typeof v === 'object' && v !== null),
      defaultMessage: () => 'the id of a drive procedure, or a whole one',
    },
  })
  procedure!: string | object;
  @Moment() now!: string;
  @IsObject() @Nested(() => CarStateDto) state!: CarStateDto;
  @Optional()
  @IsArray()
  @ArrayMaxSize(2000)
  @Nested(() => ForecastPointDto, { each: true })
  forecast?: ForecastPointDto[];
  @Optional()
  @IsArray()
  @ArrayMaxSize(200)
  @Nested(() => CoolingPointDto, { each: true })
  cooling?: CoolingPointDto[];
}

/** What a person typed for a plan: kept with the job. */
export class PlanEntry {
  @Words(60) procedure!: string;
  @IsObject() @Nested(() => CarStateDto) state!: CarStateDto;
  @IsArray() @ArrayMaxSize(2000) @Nested(() => ForecastPointDto, { each: true }) forecast!: ForecastPointDto[];
  @IsArray() @ArrayMaxSize(200) @Nested(() => CoolingPointDto, { each: true }) cooling!: CoolingPointDto[];
  /** Where the speed asked for is safe and lawful, in a person's words. */
  @Optional() @IsString() @MaxLength(120) road?: string;
}

class BrokeDto {
  @Words(60) what!: string;
  @Sentence(500, { empty: true }) reason!: Said;
  @ValidateIf((o: BrokeDto) => o.atS !== null) @IsNumber() @Min(0) @Max(1e6) atS!: number | null;
}

/** One drive, as it counts for the vehicle. */
export class DriveEntry implements DriveAttempt {
  @Words(60) procedure!: string;
  @IsIn(['complete', 'incomplete', 'failed']) result!: DriveAttempt['result'];
  @IsArray() @ArrayMaxSize(60) @IsString({ each: true }) @MaxLength(60, { each: true }) done!: string[];
  @IsArray() @ArrayMaxSize(300) @Nested(() => BrokeDto, { each: true }) broke!: BrokeDto[];
  @IsNumber() @Min(0) @Max(10_000) distanceKm!: number;
  @IsNumber() @Min(0) @Max(10_000) minutes!: number;
  @IsString() @MaxLength(120) road!: string;
  @ValidateIf((o: DriveEntry) => o.stillOpen !== null)
  @IsArray()
  @ArrayMaxSize(16)
  @IsIn(Object.keys(MONITORS), { each: true })
  stillOpen!: MonitorId[] | null;
  /** The recording it was read from. */
  @Optional() @IsUUID() capture?: string;
}

/** What was looked at before an inspection. */
export class InspectionEntry {
  @IsArray()
  @ArrayMaxSize(30)
  @IsIn(
    BEFORE_INSPECTION.map((b) => b.id),
    { each: true },
  )
  seen!: string[];
}
