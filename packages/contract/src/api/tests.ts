import 'reflect-metadata';
import type { TestResult } from '@just-balance/core/case';
import { IsUUID } from 'class-validator';
import { Nested } from '../checks/index.ts';
import { TestResultDto } from '../formats/index.ts';

export class NewTestRequest {
  @IsUUID() id!: string;
  @Nested(() => TestResultDto) test!: TestResultDto;
}

export interface TestView {
  id: string;
  rev: number;
  at: string;
  undone: boolean;
  by: string;
  test: TestResult;
}
