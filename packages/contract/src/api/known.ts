import 'reflect-metadata';
import { OPERATING_POINTS, type OperatingPoint } from '@just-balance/core/case';
import { type KnownFigure, QUANTITIES, type Quantity } from '@just-balance/core/expected';
import { IsIn, IsNumber, IsString, IsUUID, Max, MaxLength, Min, MinLength } from 'class-validator';
import { Above } from '../checks/index.ts';

/** A figure that beats physics: for this vehicle, or known good of its engine family. */
export class KnownFigureRequest {
  @IsUUID() id!: string;
  @IsIn(['entered', 'shop']) layer!: 'entered' | 'shop';
  @IsIn(OPERATING_POINTS) at!: OperatingPoint;
  @IsIn(QUANTITIES) quantity!: Quantity;
  @IsNumber() @Min(-60) @Max(2000) low!: number;
  @IsNumber() @Min(-60) @Max(2000) @Above('low') high!: number;
  @IsString() @MinLength(2, { message: 'say where the figure comes from' }) @MaxLength(200) source!: string;
}

export interface KnownView extends KnownFigure {
  id: string;
  rev: number;
  by: string;
}
