import 'reflect-metadata';
import { ArrayMaxSize, IsArray, IsIn, IsString, MaxLength } from 'class-validator';
import { Nested, Optional } from '../checks/index.ts';
import { COMPLAINTS, RecentWorkDto } from '../formats/index.ts';

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
