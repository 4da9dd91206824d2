import 'reflect-metadata';
import type { Settings } from '@just-balance/core/diagnosis';
import { QUANTITIES, type Quantity } from '@just-balance/core/expected';
import { Type } from 'class-transformer';
import {
  ArrayMaxSize,
  IsArray,
  IsBoolean,
  IsEmail,
  IsIn,
  IsInt,
  IsISO8601,
  IsNumber,
  IsObject,
  IsString,
  IsUUID,
  Matches,
  Max,
  MaxLength,
  Min,
  MinLength,
  Validate,
  ValidatorConstraint,
  type ValidatorConstraintInterface,
} from 'class-validator';
import { Above, Nested, Optional } from '../checks/index.ts';
import { COMPLAINTS, POINTS, ReadingDto, RecentWorkDto, TestResultDto, VehicleSpecDto } from '../formats/index.ts';

function NewPassword(): PropertyDecorator {
  const parts = [IsString(), MinLength(10, { message: 'a password of at least 10 characters' }), MaxLength(200)];
  return (target, key) => {
    for (const p of parts) p(target, key as string);
  };
}

export class SignInRequest {
  @IsEmail() @MaxLength(200) email!: string;
  @IsString() @MinLength(1) @MaxLength(200) password!: string;
}

export class SetupRequest {
  @IsString() @MaxLength(200) token!: string;
  @IsString() @MinLength(1) @MaxLength(120) shopName!: string;
  @IsString() @MinLength(1) @MaxLength(120) name!: string;
  @IsEmail() @MaxLength(200) email!: string;
  @NewPassword() password!: string;
}

/** What a person may be; each has its rights in the server's table. */
export const ROLE_NAMES = ['lead', 'technician', 'learner', 'read-only'] as const;
export type RoleName = (typeof ROLE_NAMES)[number];

export class NewPersonRequest {
  @IsUUID() id!: string;
  @IsString() @MinLength(1) @MaxLength(120) name!: string;
  @IsEmail() @MaxLength(200) email!: string;
  @IsIn(ROLE_NAMES) role!: RoleName;
}

export class PersonPatchRequest {
  @IsInt() @Min(1) rev!: number;
  @Optional() @IsString() @MinLength(1) @MaxLength(120) name?: string;
  @Optional() @IsIn(ROLE_NAMES) role?: RoleName;
  @Optional() @IsBoolean() disabled?: boolean;
}

/** Sets the password that a one-time link asks for. */
export class InvitationRequest {
  @IsString() @MinLength(20, { message: 'the link is not whole: open it again' }) @MaxLength(200) token!: string;
  @NewPassword() password!: string;
}

export class PasswordRequest {
  @IsString() @MinLength(1) @MaxLength(200) current!: string;
  @NewPassword() next!: string;
}

/** A vehicle as the shop knows it: the engine's facts plus what a person calls it. */
export class VehicleRequest extends VehicleSpecDto {
  @IsString() @MinLength(1) @MaxLength(80) label!: string;
  @Optional() @IsString() @MaxLength(120) note?: string;
  @Optional() @IsInt() @Min(1950) @Max(2100) year?: number;
  @Optional()
  @Matches(/^[A-HJ-NPR-Z0-9]{17}$/, { message: 'a VIN has 17 characters, without I, O and Q' })
  vin?: string;
  @Optional() @IsNumber() @Min(0) @Max(3_000_000) odometerKm?: number;
}

export const SITUATIONS = [
  'cold-start',
  'warming-up',
  'warm',
  'hot-restart',
  'idling',
  'ac-engaging',
  'pulling-away',
  'steady-speed',
  'hill-or-full-load',
  'letting-off',
  'after-refuelling',
  'wet-weather',
] as const;

/** In which situations one symptom shows. */
export class SymptomWhenDto {
  @IsIn(COMPLAINTS) symptom!: string;
  @IsArray() @ArrayMaxSize(SITUATIONS.length) @IsIn(SITUATIONS, { each: true }) situations!: string[];
}

export class ComplaintDto {
  @Optional()
  @IsArray()
  @ArrayMaxSize(20)
  @Nested(() => SymptomWhenDto, { each: true })
  when?: SymptomWhenDto[];
  /** Lamps other than the engine's. */
  @Optional() @IsString() @MaxLength(200) otherLamps?: string;
  @Optional() @IsString() @MaxLength(2000) story?: string;
  @Optional() @IsString() @MaxLength(200) noticedBy?: string;
  @IsArray() @ArrayMaxSize(20) @IsIn(COMPLAINTS, { each: true }) symptoms!: string[];
  @Optional()
  @IsArray()
  @ArrayMaxSize(20)
  @Nested(() => RecentWorkDto, { each: true })
  recentWork?: RecentWorkDto[];
}

export class AmbientRequest {
  @Optional() @IsNumber() @Min(40) @Max(115) baroKPa?: number;
  @Optional() @IsNumber() @Min(-60) @Max(70) airC?: number;
}

export class NewJobRequest {
  @IsUUID() id!: string;
  @IsUUID() vehicleId!: string;
  @Nested(() => VehicleRequest) vehicle!: VehicleRequest;
  @Nested(() => ComplaintDto) complaint!: ComplaintDto;
  @Optional() @Nested(() => AmbientRequest) ambient?: AmbientRequest;
  @Optional() @IsString() @MaxLength(120) adapter?: string;
}

export class JobPatchRequest {
  @IsInt() @Min(1) rev!: number;
  @Optional() @Nested(() => ComplaintDto) complaint?: ComplaintDto;
  @Optional() @Nested(() => AmbientRequest) ambient?: AmbientRequest;
  @Optional() @IsString() @MaxLength(120) adapter?: string;
  @Optional() @IsIn(['open', 'parked', 'closed']) status?: 'open' | 'parked' | 'closed';
}

/** Which jobs, and from where on: `before` is what the last page's `Link` header said. */
export class JobListQuery {
  @Optional() @IsIn(['open', 'closed', 'all']) status?: 'open' | 'closed' | 'all';
  @Optional() @IsIn(['mine', 'everyone']) whose?: 'mine' | 'everyone';
  @Optional() @IsString() @MaxLength(60) before?: string;
  @Optional() @Type(() => Number) @IsInt() @Min(1) @Max(200) limit?: number;
}

/** What a stored row that cannot be read should have held. */
export class MendRequest {
  @IsObject() data!: Record<string, unknown>;
}

export const PHASES = ['before', 'after'] as const;
export type Phase = (typeof PHASES)[number];

export class NewReadingRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
  @Nested(() => ReadingDto) reading!: ReadingDto;
}

export class NewTestRequest {
  @IsUUID() id!: string;
  @Nested(() => TestResultDto) test!: TestResultDto;
}

/** A figure that beats physics: for this vehicle, or known good of its engine family. */
export class KnownFigureRequest {
  @IsUUID() id!: string;
  @IsIn(['entered', 'shop']) layer!: 'entered' | 'shop';
  @IsIn(POINTS) at!: (typeof POINTS)[number];
  @IsIn(QUANTITIES) quantity!: Quantity;
  @IsNumber() @Min(-60) @Max(2000) low!: number;
  @IsNumber() @Min(-60) @Max(2000) @Above('low') high!: number;
  @IsString() @MinLength(2, { message: 'say where the figure comes from' }) @MaxLength(200) source!: string;
}

export class UndoRequest {
  @IsInt() @Min(1) rev!: number;
  @IsBoolean() undone!: boolean;
}

export class NewRepairRequest {
  @IsUUID() id!: string;
  @IsString() @MinLength(1) @MaxLength(500) text!: string;
  @Optional() @IsString() @MaxLength(60) fault?: string;
  @Optional() @IsString() @MaxLength(200) part?: string;
  @IsIn(['relearn', 'reset']) school!: 'relearn' | 'reset';
}

/** A recording without an operating point. */
export const FREE = 'free';

export class NewCaptureRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
  /** An operating point, or `free`: everything that comes, until it is stopped. */
  @IsIn([...POINTS, FREE]) at!: (typeof POINTS)[number] | typeof FREE;
  /** Free only: this channel alone, as fast as the bus goes. */
  @Optional() @IsString() @MaxLength(40) only?: string;
}

/** What reading a file gave: kept with the import, so that a partial one says what was left out. */
export class ImportSummary {
  @IsInt() @Min(0) rows!: number;
  @IsInt() @Min(0) problemCount!: number;
  @IsArray() @ArrayMaxSize(50) @IsString({ each: true }) @MaxLength(300, { each: true }) problems!: string[];
  @IsArray() @ArrayMaxSize(500) @IsString({ each: true }) @MaxLength(300, { each: true }) leftOut!: string[];
}

export class NewImportRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
  @IsString() @MinLength(1) @MaxLength(200) name!: string;
  @Optional() @IsISO8601() @MaxLength(40) startedAt?: string;
  @Nested(() => ImportSummary) summary!: ImportSummary;
}

/** One channel's place in an import, in the address beside its bytes. */
export class ColumnQuery {
  @Type(() => Number) @IsInt() @Min(0) @Max(999) part!: number;
  @IsString() @MaxLength(20) unit!: string;
  @Optional() @Type(() => Number) @IsNumber() @Min(0) quantum?: number;
}

export class MarkDto {
  @IsString() @MinLength(1) @MaxLength(60) at!: string;
  @IsNumber() @Min(-1e9) @Max(1e9) from!: number;
  @IsNumber() @Min(-1e9) @Max(1e9) to!: number;
}

export class ImportedReadingDto {
  @IsUUID() id!: string;
  @Optional() @IsString() @MaxLength(200) doubtful?: string;
  @Nested(() => ReadingDto) reading!: ReadingDto;
}

@ValidatorConstraint({ name: 'partCounts' })
class PartCounts implements ValidatorConstraintInterface {
  validate(value: unknown) {
    return Object.values((value ?? {}) as object).every((n) => Number.isInteger(n) && n >= 1 && n <= 1000);
  }
  defaultMessage() {
    return 'every channel with the number of its parts, 1 to 1,000';
  }
}

/** Closes an import: the parts of every channel that must be there, marks, and the readings taken from it. */
export class FinishImportRequest {
  @IsObject() @Validate(PartCounts) parts!: Record<string, number>;
  @IsArray() @ArrayMaxSize(200) @Nested(() => MarkDto, { each: true }) marks!: MarkDto[];
  @IsArray()
  @ArrayMaxSize(40)
  @Nested(() => ImportedReadingDto, { each: true })
  readings!: ImportedReadingDto[];
}

export class CaptureCommand {
  @IsIn(['stop', 'again', 'keep-doubtful', 'pause', 'resume'])
  command!: 'stop' | 'again' | 'keep-doubtful' | 'pause' | 'resume';
}

export class RecordRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
}

export class AcknowledgeRequest {
  @IsUUID() id!: string;
  @IsString() @MaxLength(60) caution!: string;
  @IsString() @MaxLength(60) step!: string;
}

export class HandRecordRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
  @IsArray() @ArrayMaxSize(60) @Matches(/^[A-Z0-9 -]{3,40}$/i, { each: true }) stored!: string[];
  @IsArray() @ArrayMaxSize(60) @Matches(/^[A-Z0-9 -]{3,40}$/i, { each: true }) pending!: string[];
  @Optional() @IsArray() @ArrayMaxSize(60) @Matches(/^[A-Z0-9 -]{3,40}$/i, { each: true }) permanent?: string[];
  @IsBoolean() lampOn!: boolean;
}

export class ShopSettingsRequest {
  @IsInt() @Min(1) rev!: number;
  @IsObject() settings!: Settings;
}

export const BAY_COMMANDS = [
  'key',
  'koeo',
  'idle',
  'hold',
  'speed',
  'full-load',
  'snap',
  'coast',
  'fault',
  'repair',
  'warm',
  'cold',
  'soak',
  'settle',
  'vehicle',
  'ambient',
  'rate',
  'step',
  'script',
  'degrade',
  'test',
  'pins',
] as const;

/** How bad the simulated link is. */
export class DegradationDto {
  @Optional() @IsNumber() @Min(0) @Max(0.5) dropShare?: number;
  @Optional() @IsNumber() @Min(0) @Max(0.5) corruptShare?: number;
  @Optional() @IsNumber() @Min(0) @Max(500) delayMs?: number;
  @Optional() @IsBoolean() brownOut?: boolean;
}

/** What the bay panel may do to a simulated vehicle. */
export class BayCommand {
  @IsIn(BAY_COMMANDS) command!: (typeof BAY_COMMANDS)[number];
  @Optional() @IsString() @MaxLength(40) fault?: string;
  @Optional() @IsNumber() @Min(-100) @Max(50_000) severity?: number;
  @Optional() @IsIn([1, 2]) faultBank?: 1 | 2;
  @Optional() @IsBoolean() also?: boolean;
  @Optional() @IsBoolean() on?: boolean;
  @Optional() @IsBoolean() ac?: boolean;
  @Optional() @IsNumber() @Min(0) @Max(7000) rpm?: number;
  @Optional() @IsNumber() @Min(0) @Max(200) kmh?: number;
  @Optional() @IsNumber() @Min(0) @Max(500) hours?: number;
  @Optional() @IsString() @MaxLength(40) vehicle?: string;
  @Optional() @IsNumber() @Min(40) @Max(115) baroKPa?: number;
  @Optional() @IsNumber() @Min(-500) @Max(6000) altitudeM?: number;
  @Optional() @IsNumber() @Min(-60) @Max(70) airC?: number;
  @Optional() @IsNumber() @Min(0) @Max(100) rate?: number;
  @Optional() @IsNumber() @Min(0) @Max(3600) seconds?: number;
  @Optional() @IsString() @MaxLength(40) test?: string;
  @Optional() @IsString() @MaxLength(40) script?: string;
  @Optional() @Nested(() => DegradationDto) degradation?: DegradationDto;
}
