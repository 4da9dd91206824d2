import {
  type DriveAnswer,
  type PracticeAnswer,
  type PracticeMove,
  type PracticeScenario,
  type PracticeScore,
} from '@just-balance/core/practice';
import { type Said } from '@just-balance/core/units';
import { DataTypes } from 'sequelize';
import { type Define, id, json, Owned, rev, shopId, text, uuid } from './columns.ts';

/** One try at a practice car. */
export class PracticeAttempt extends Owned {
  /** Of an exam: which exam, and which car of it. */
  declare place: string | null;
  declare rev: number;
  declare accountId: string;
  declare by: string;
  /** Null for a drive that is only looked at. */
  declare jobId: string | null;
  declare data: AttemptData;
}

export interface AttemptData {
  scenario: PracticeScenario;
  hints: boolean;
  /** The exam it belongs to. */
  exam: string | null;
  /** What it was drawn by, and how many there are in it; absent in those of a fixed list of three. */
  drawn?: { seed: number; of: number };
  moves: PracticeMove[];
  answer: PracticeAnswer | null;
  driveAnswer?: DriveAnswer | null;
  /** Ended without an answer. */
  gaveUp?: true;
  score: PracticeScore | null;
  /** What always taking the best next test would have done. */
  bestPath?: { what: string; minutes: number; showed: Said }[];
  signed: { by: string; at: string } | null;
}

export function definePractice(define: Define): void {
  define(PracticeAttempt, 'practice_attempt', {
    place: { type: DataTypes.STRING(80) },
    id,
    shopId,
    rev,
    accountId: uuid,
    by: text(120),
    jobId: { type: DataTypes.CHAR(36) },
    data: json,
  });
}
