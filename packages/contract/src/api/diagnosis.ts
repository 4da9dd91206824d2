import 'reflect-metadata';
import type { Case } from '@just-balance/core/case';
import type { Diagnosis } from '@just-balance/core/diagnosis';
import { Type } from 'class-transformer';
import { IsInt, Max, Min } from 'class-validator';
import { Optional } from '../checks/index.ts';

export interface StoredDiagnosis {
  id: string;
  at: string;
  coreVersion: string;
  input: Case;
  output: Diagnosis;
}

export class DiagnosisQuery {
  /** Only so many of the newest; still oldest first. */
  @Optional() @Type(() => Number) @IsInt() @Min(1) @Max(100) newest?: number;
}
