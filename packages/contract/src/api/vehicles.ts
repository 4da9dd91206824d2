import 'reflect-metadata';
import type { DriveAttempt } from '@just-balance/core/readiness';
import {
  ArrayMaxSize,
  IsArray,
  IsBoolean,
  IsIn,
  IsInt,
  IsNumber,
  IsString,
  Matches,
  Max,
  MaxLength,
  Min,
  MinLength,
} from 'class-validator';
import { Nested, Optional } from '../checks/index.ts';
import { VehicleSpecDto } from '../formats/index.ts';

/** Boost the service information asks for, with what it is counted from. */
class BoostTargetDto {
  @IsNumber() @Min(0) @Max(800) kPa!: number;
  @IsIn(['absolute', 'gauge']) from!: 'absolute' | 'gauge';
}

/** One point of an airflow sensor's curve, from service information. */
export class CurvePointDto {
  @IsNumber() @Min(0) @Max(6) volts!: number;
  @IsNumber() @Min(0) @Max(2000) gps!: number;
}

/** An oxygen sensor that is fitted; bank 1 is the side of cylinder 1, sensor 1 stands before the catalyst. */
export class FittedSensorDto {
  @IsIn([1, 2]) bank!: number;
  @IsInt() @Min(1) @Max(4) sensor!: number;
  @IsBoolean() wide!: boolean;
}

/** A vehicle as the shop knows it: the engine's facts plus what a person calls it. */
export class VehicleRequest extends VehicleSpecDto {
  @IsString() @MinLength(1) @MaxLength(80) label!: string;
  @Optional() @IsString() @MaxLength(120) note?: string;
  /** Number plate, as it stands on the car. */
  @Optional() @IsString() @MinLength(1) @MaxLength(16) plate?: string;
  @Optional() @IsInt() @Min(1950) @Max(2100) year?: number;
  @Optional()
  @Matches(/^[A-HJ-NPR-Z0-9]{17}$/, { message: 'a VIN has 17 characters, without I, O and Q' })
  vin?: string;
  @Optional() @IsNumber() @Min(0) @Max(3_000_000) odometerKm?: number;
  @Optional() @IsNumber() @Min(1) @Max(2000) tankL?: number;
  /** What the tool calls the channel of the relative throttle. */
  @Optional() @IsString() @MaxLength(80) throttleChannel?: string;
  @Optional() @Nested(() => BoostTargetDto) boostTarget?: BoostTargetDto;
  /** Airflow over the sensor's signal, rising: for a tool or a meter that shows volts. */
  @Optional() @IsArray() @ArrayMaxSize(40) @Nested(() => CurvePointDto, { each: true }) airflowCurve?: CurvePointDto[];
  /** By hand, where the vehicle was not asked. */
  @Optional() @IsArray() @ArrayMaxSize(8) @Nested(() => FittedSensorDto, { each: true }) sensors?: FittedSensorDto[];
}

/** The whole card as it is to stand; `rev` is that of the vehicle. */
export class VehicleChangeRequest {
  @IsInt() @Min(1) rev!: number;
  @Nested(() => VehicleRequest) vehicle!: VehicleRequest;
}

export interface VehicleView extends VehicleRequest {
  id: string;
  rev: number;
}

/** One change of a vehicle's card: the fields that changed, as they stood and as they stand; null is not there. */
export interface VehicleChangeView {
  id: string;
  at: string;
  by: string;
  before: Record<string, unknown>;
  after: Record<string, unknown>;
}

/** Which vehicles of the shop are asked for. */
export class VehicleQuery {
  /** Words of its name, colour, plate or VIN, or of its jobs; the last one may be a beginning. */
  @Optional() @IsString() @MaxLength(200) q?: string;
  /** What the last page's `Link` header said. */
  @Optional() @IsString() @MaxLength(60) before?: string;
}

/** A drive kept in one of the vehicle's jobs. */
export interface KeptDrive {
  id: string;
  at: string;
  jobId: string;
  attempt: DriveAttempt;
}
