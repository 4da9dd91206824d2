import 'reflect-metadata';
import type { Learned, LearningChoice } from '@just-balance/core/shop';
import { IsBoolean, IsString, Matches, MaxLength } from 'class-validator';
import { Optional } from '../checks/index.ts';

export interface LearnedView {
  learned: Learned;
  choice: LearningChoice;
  /** What is weighed with now, and from how many proven jobs; null where nothing is chosen. */
  inUse: { at: string; jobs: number } | null;
  /** Jobs that are left out of all of it. */
  leftOut: { job: string; label: string; at: string }[];
}

export class LearnedQuery {
  @Optional() @Matches(/^(priors|tests)(,(priors|tests))?$/, { message: 'priors, tests or both' }) use?: string;
}

export class LeaveOutRequest {
  @IsBoolean() leftOut!: boolean;
  @Optional() @IsString() @MaxLength(300) reason?: string;
}
