import 'reflect-metadata';
import type { TestResult } from '@just-balance/core/case';
import { IsIn, IsUUID } from 'class-validator';
import { Nested, Optional } from '../checks/index.ts';
import { TestResultDto } from '../formats/index.ts';
import { PHASES, type Phase } from './phase.ts';

export class NewTestRequest {
  @IsUUID() id!: string;
  /** Of the car as it came in, or after a repair; where it is not said, as it came in. */
  @Optional() @IsIn(PHASES) phase?: Phase;
  @Nested(() => TestResultDto) test!: TestResultDto;
}

export interface TestView {
  id: string;
  rev: number;
  at: string;
  undone: boolean;
  by: string;
  phase: Phase;
  test: TestResult;
}
