import 'reflect-metadata';
import type { Reading } from '@just-balance/core/case';
import { IsIn, IsUUID } from 'class-validator';
import { Nested } from '../checks/index.ts';
import { ReadingDto } from '../formats/index.ts';
import { PHASES, type Phase } from './phase.ts';

export class NewReadingRequest {
  @IsUUID() id!: string;
  @IsIn(PHASES) phase!: Phase;
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
