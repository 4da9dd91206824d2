import 'reflect-metadata';
import type { Reading } from '@just-balance/core/case';
import { IsIn, IsInt, IsNumber, IsString, IsUUID, Max, MaxLength, Min } from 'class-validator';
import { Nested, Optional } from '../checks/index.ts';
import { ReadingDto } from '../formats/index.ts';
import { PHASES, type Phase } from './phase.ts';

/** The part of a recording that a reading was taken from. */
export class StretchDto {
  @IsUUID() captureId!: string;
  @IsNumber() @Min(-1e9) @Max(1e9) fromS!: number;
  @IsNumber() @Min(-1e9) @Max(1e9) toS!: number;
  @Optional() @IsString() @MaxLength(200) doubtful?: string;
}

export class NewReadingRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
  /** Where it was not typed. */
  @Optional() @Nested(() => StretchDto) stretch?: StretchDto;
  @Nested(() => ReadingDto) reading!: ReadingDto;
}

/** A reading that was typed, put right. */
export class ReadingChangeRequest {
  @IsInt() @Min(1) rev!: number;
  @Nested(() => ReadingDto) reading!: ReadingDto;
}

export interface ReadingView {
  id: string;
  rev: number;
  phase: Phase;
  source: 'capture' | 'hand' | 'import';
  captureId: string | null;
  doubtful: string | null;
  at: string;
  reading: Reading;
}
