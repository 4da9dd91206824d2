import { type Settings } from '@just-balance/core/diagnosis';
import { type JobOutcome, type LearnedFigure } from '@just-balance/core/shop';
import { Model } from 'sequelize';
import { type Define, flag, json, shopId, time, uuid } from './columns.ts';

/** What of the shop's learning is in use, worked out from all its lessons; see core's shop. */
export interface StoredLearning {
  at: string;
  jobs: number;
  settings: Pick<Settings, 'priors' | 'reliability'>;
  figures: LearnedFigure[];
}

export class JobOutcomeRow extends Model {
  declare jobId: string;
  declare shopId: string;
  declare createdAt: Date;
  declare leftOut: boolean;
  declare data: JobOutcome;
}

export function defineLearning(define: Define): void {
  define(
    JobOutcomeRow,
    'job_lesson',
    { jobId: { ...uuid, primaryKey: true }, shopId, createdAt: time, leftOut: flag, data: json },
    false,
  );
}
