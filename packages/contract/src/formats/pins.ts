import 'reflect-metadata';
import { BATTERY_NEGATIVE, BATTERY_POSITIVE, type PairReading, type PinReadings } from '@just-balance/core/electrical';
import {
  ArrayMaxSize,
  ArrayMinSize,
  ArrayUnique,
  IsArray,
  IsBoolean,
  IsNumber,
  IsString,
  Matches,
  Max,
  MaxLength,
  Min,
} from 'class-validator';
import { dtoProblems, type FieldError, Nested, Optional, SHAPE_BOUNDS, shapeProblem } from '../checks/index.ts';
import { headProblem, type ReadResult } from './head.ts';

class PairReadingDto implements PairReading {
  @IsString() @MaxLength(20) red!: string;
  @IsString() @MaxLength(20) black!: string;
  @IsNumber() @Min(-60) @Max(60) volts!: number;
  @IsBoolean() signed!: boolean;
}

/** `just-balance/pins`: voltmeter readings between pairs of a connector's pins. */
class PinsDto {
  @IsArray()
  @ArrayMinSize(1)
  @ArrayMaxSize(24)
  @ArrayUnique({ message: 'each pin once' })
  @Matches(/^(?!battery[+-]$)\S{1,20}$/, { each: true, message: 'names of pins, without spaces' })
  pins!: string[];
  @Optional() @IsNumber() @Min(0) @Max(60) batteryV?: number;
  @Optional() @IsBoolean() running?: boolean;
  @IsArray() @ArrayMaxSize(100) @Nested(() => PairReadingDto, { each: true }) readings!: PairReadingDto[];
}

/** A parsed JSON value as pair readings: valid, or every problem with its field. Unknown fields are ignored. */
export function readPins(json: unknown): ReadResult<PinReadings> {
  const head = headProblem(json, 'just-balance/pins');
  if (head) return { ok: false, errors: [head] };
  const shape = shapeProblem(json, SHAPE_BOUNDS);
  if (shape) return { ok: false, errors: [shape] };
  const errors = dtoProblems(PinsDto, json);
  if (errors.length > 0) return { ok: false, errors };
  const { pins, batteryV, running, readings } = json as PinsDto;
  const known = [...pins, BATTERY_NEGATIVE, BATTERY_POSITIVE];
  const problems: FieldError[] = readings.flatMap((r, i) => [
    ...(['red', 'black'] as const)
      .filter((lead) => !known.includes(r[lead]))
      .map((lead) => ({
        field: `readings[${i}].${lead}`,
        message: `"${r[lead]}" is no pin: ${known.join(', ')}`,
      })),
    ...(r.red === r.black ? [{ field: `readings[${i}].black`, message: 'both leads on one pin' }] : []),
  ]);
  if (problems.length > 0) return { ok: false, errors: problems };
  return {
    ok: true,
    value: { pins, readings, running: running ?? false, ...(batteryV === undefined ? {} : { batteryV }) },
  };
}
