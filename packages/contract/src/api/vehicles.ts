import 'reflect-metadata';
import { IsInt, IsNumber, IsString, Matches, Max, MaxLength, Min, MinLength } from 'class-validator';
import { Optional } from '../checks/index.ts';
import { VehicleSpecDto } from '../formats/index.ts';

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

export interface VehicleView extends VehicleRequest {
  id: string;
  rev: number;
}
