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
  IsOptional,
  IsString,
  IsUUID,
  Matches,
  Max,
  MaxLength,
  Min,
  MinLength,
  ValidateNested,
} from 'class-validator';
import { COMPLAINTS, POINTS, ReadingDto, RecentWorkDto, TestResultDto, VehicleSpecDto } from '../formats/index.ts';

export class SignInRequest {
  @IsEmail() @MaxLength(200) email!: string;
  @IsString() @MinLength(1) @MaxLength(200) password!: string;
}

export class SetupRequest {
  @IsString() @MaxLength(200) token!: string;
  @IsString() @MinLength(1) @MaxLength(120) shopName!: string;
  @IsString() @MinLength(1) @MaxLength(120) name!: string;
  @IsEmail() @MaxLength(200) email!: string;
  @IsString() @MinLength(10, { message: 'a password of at least 10 characters' }) @MaxLength(200) password!: string;
}

/** A vehicle as the shop knows it: the engine's facts plus what a person calls it. */
export class VehicleRequest extends VehicleSpecDto {
  @IsString() @MinLength(1) @MaxLength(80) label!: string;
  @IsOptional() @IsString() @MaxLength(120) note?: string;
  @IsOptional() @IsInt() @Min(1950) @Max(2100) year?: number;
  @IsOptional()
  @Matches(/^[A-HJ-NPR-Z0-9]{17}$/, { message: 'a VIN has 17 characters, without I, O and Q' })
  vin?: string;
  @IsOptional() @IsNumber() @Min(0) @Max(3_000_000) odometerKm?: number;
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
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(20)
  @ValidateNested({ each: true })
  @Type(() => SymptomWhenDto)
  when?: SymptomWhenDto[];
  /** Lamps other than the engine's. */
  @IsOptional() @IsString() @MaxLength(200) otherLamps?: string;
  @IsOptional() @IsString() @MaxLength(2000) story?: string;
  @IsOptional() @IsString() @MaxLength(200) noticedBy?: string;
  @IsArray() @ArrayMaxSize(20) @IsIn(COMPLAINTS, { each: true }) symptoms!: string[];
  @IsOptional()
  @IsArray()
  @ArrayMaxSize(20)
  @ValidateNested({ each: true })
  @Type(() => RecentWorkDto)
  recentWork?: RecentWorkDto[];
}

export class AmbientRequest {
  @IsOptional() @IsNumber() @Min(40) @Max(115) baroKPa?: number;
  @IsOptional() @IsNumber() @Min(-60) @Max(70) airC?: number;
}

export class NewJobRequest {
  @IsUUID() id!: string;
  @IsUUID() vehicleId!: string;
  @ValidateNested() @Type(() => VehicleRequest) vehicle!: VehicleRequest;
  @ValidateNested() @Type(() => ComplaintDto) complaint!: ComplaintDto;
  @IsOptional() @ValidateNested() @Type(() => AmbientRequest) ambient?: AmbientRequest;
  @IsOptional() @IsString() @MaxLength(120) adapter?: string;
}

export class JobPatchRequest {
  @IsInt() @Min(1) rev!: number;
  @IsOptional() @ValidateNested() @Type(() => ComplaintDto) complaint?: ComplaintDto;
  @IsOptional() @ValidateNested() @Type(() => AmbientRequest) ambient?: AmbientRequest;
  @IsOptional() @IsString() @MaxLength(120) adapter?: string;
  @IsOptional() @IsIn(['open', 'parked', 'closed']) status?: 'open' | 'parked' | 'closed';
}

export const PHASES = ['before', 'after'] as const;
export type Phase = (typeof PHASES)[number];

export class NewReadingRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
  @ValidateNested() @Type(() => ReadingDto) reading!: ReadingDto;
}

export class NewTestRequest {
  @IsUUID() id!: string;
  @ValidateNested() @Type(() => TestResultDto) test!: TestResultDto;
}

/** A figure that beats physics: for this vehicle, or known good of its engine family. */
export class KnownFigureRequest {
  @IsUUID() id!: string;
  @IsIn(['entered', 'shop']) layer!: 'entered' | 'shop';
  @IsIn(POINTS) at!: string;
  @IsIn(QUANTITIES) quantity!: Quantity;
  @IsNumber() @Min(-60) @Max(2000) low!: number;
  @IsNumber() @Min(-60) @Max(2000) high!: number;
  @IsString() @MinLength(2, { message: 'say where the figure comes from' }) @MaxLength(200) source!: string;
}

export class UndoRequest {
  @IsInt() @Min(1) rev!: number;
  @IsBoolean() undone!: boolean;
}

export class NewRepairRequest {
  @IsUUID() id!: string;
  @IsString() @MinLength(1) @MaxLength(500) text!: string;
  @IsOptional() @IsString() @MaxLength(60) fault?: string;
  @IsOptional() @IsString() @MaxLength(200) part?: string;
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
  @IsOptional() @IsString() @MaxLength(40) only?: string;
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
  @IsOptional() @IsISO8601() @MaxLength(40) startedAt?: string;
  @ValidateNested() @Type(() => ImportSummary) summary!: ImportSummary;
}

/** One channel's place in an import, in the address beside its bytes. */
export class ColumnQuery {
  @Type(() => Number) @IsInt() @Min(0) @Max(999) part!: number;
  @IsString() @MaxLength(20) unit!: string;
  @IsOptional() @Type(() => Number) @IsNumber() @Min(0) quantum?: number;
}

export class MarkDto {
  @IsString() @MinLength(1) @MaxLength(60) at!: string;
  @IsNumber() @Min(-1e9) @Max(1e9) from!: number;
  @IsNumber() @Min(-1e9) @Max(1e9) to!: number;
}

export class ImportedReadingDto {
  @IsUUID() id!: string;
  @IsOptional() @IsString() @MaxLength(200) doubtful?: string;
  @ValidateNested() @Type(() => ReadingDto) reading!: ReadingDto;
}

/** Closes an import: the parts of every channel that must be there, marks, and the readings taken from it. */
export class FinishImportRequest {
  @IsObject() parts!: Record<string, number>;
  @IsArray() @ArrayMaxSize(200) @ValidateNested({ each: true }) @Type(() => MarkDto) marks!: MarkDto[];
  @IsArray()
  @ArrayMaxSize(40)
  @ValidateNested({ each: true })
  @Type(() => ImportedReadingDto)
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
  @IsOptional() @IsArray() @ArrayMaxSize(60) @Matches(/^[A-Z0-9 -]{3,40}$/i, { each: true }) permanent?: string[];
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
  @IsOptional() @IsNumber() @Min(0) @Max(0.5) dropShare?: number;
  @IsOptional() @IsNumber() @Min(0) @Max(0.5) corruptShare?: number;
  @IsOptional() @IsNumber() @Min(0) @Max(500) delayMs?: number;
  @IsOptional() @IsBoolean() brownOut?: boolean;
}

/** What the bay panel may do to a simulated vehicle. */
export class BayCommand {
  @IsIn(BAY_COMMANDS) command!: (typeof BAY_COMMANDS)[number];
  @IsOptional() @IsString() @MaxLength(40) fault?: string;
  @IsOptional() @IsNumber() @Min(-100) @Max(50_000) severity?: number;
  @IsOptional() @IsIn([1, 2]) faultBank?: 1 | 2;
  @IsOptional() @IsBoolean() also?: boolean;
  @IsOptional() @IsBoolean() on?: boolean;
  @IsOptional() @IsBoolean() ac?: boolean;
  @IsOptional() @IsNumber() @Min(0) @Max(7000) rpm?: number;
  @IsOptional() @IsNumber() @Min(0) @Max(200) kmh?: number;
  @IsOptional() @IsNumber() @Min(0) @Max(500) hours?: number;
  @IsOptional() @IsString() @MaxLength(40) vehicle?: string;
  @IsOptional() @IsNumber() @Min(40) @Max(115) baroKPa?: number;
  @IsOptional() @IsNumber() @Min(-500) @Max(6000) altitudeM?: number;
  @IsOptional() @IsNumber() @Min(-60) @Max(70) airC?: number;
  @IsOptional() @IsNumber() @Min(0) @Max(100) rate?: number;
  @IsOptional() @IsNumber() @Min(0) @Max(3600) seconds?: number;
  @IsOptional() @IsString() @MaxLength(40) test?: string;
  @IsOptional() @IsString() @MaxLength(40) script?: string;
  @IsOptional() @ValidateNested() @Type(() => DegradationDto) degradation?: DegradationDto;
}
