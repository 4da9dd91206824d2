import 'reflect-metadata';
import type { Reading } from '@just-balance/core/case';
import { IsIn, IsInt, IsUUID, Min } from 'class-validator';
import { Nested } from '../checks/index.ts';
import { ReadingDto } from '../formats/index.ts';
import { PHASES, type Phase } from './phase.ts';

export class NewReadingRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
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
