import 'reflect-metadata';
import type {
  DriveAnswer,
  DriveNext,
  PracticeAnswer,
  PracticeLevel,
  PracticeMove,
  PracticeScenario,
  PracticeScore,
} from '@just-balance/core/practice';
import type { DriveProcedure, DriveReview } from '@just-balance/core/readiness';
import { type Said } from '@just-balance/core/units';
import { IsBoolean, IsIn, IsNumber, IsObject, IsString, IsUUID, Max, MaxLength, Min } from 'class-validator';
import { Optional } from '../checks/index.ts';

/** A practice car as it stands in the list: what its driver says, not what is wrong with it. */
export interface ScenarioView {
  id: string;
  title: string;
  level: PracticeLevel;
  story: string;
  /** Of the asker's first try at it, 0 to 100: later ones know what is wrong. */
  points: number | null;
}

export class NewAttemptRequest {
  @IsUUID() id!: string;
  /** One of ours, or the next of an exam. */
  @Optional() @IsString() @MaxLength(60) scenario?: string;
  /** From a file. */
  @Optional() @IsObject() file?: Record<string, unknown>;
  @IsBoolean() hints!: boolean;
  @Optional() @IsUUID() exam?: string;
}

/** Points that a practice car can be read at. */
export const PRACTICE_POINTS = ['idle', 'hold-2500', 'road-load'] as const;

export class AskRequest {
  @IsUUID() id!: string;
  @IsIn(['reading', 'test']) kind!: 'reading' | 'test';
  @IsString() @MaxLength(40) what!: string;
  @Optional() @IsIn([1, 2]) bank?: 1 | 2;
}

export class AnswerRequest {
  @IsString() @MaxLength(60) fault!: string;
  @Optional() @IsString() @MaxLength(60) second?: string;
  @Optional() @IsNumber() @Min(-1e5) @Max(1e5) size?: number;
  @IsIn(['clean', 'replace', 'repair', 'nothing']) remedy!: PracticeScenario['remedy'];
}

export class DriveAnswerRequest {
  /** `before:` and a condition of the procedure, or `step:` and a step. */
  @IsString() @MaxLength(80) what!: string;
  /** From the start of the drive, s. */
  @Optional() @IsNumber() @Min(0) @Max(36_000) second?: number;
  @IsIn(['rest', 'change', 'again']) next!: DriveNext;
}

/** A drive that came back with something open. */
export interface PracticeDrive {
  procedure: DriveProcedure;
  /** As the car stood before the key. */
  before: { soakHours: number | null; fuelPct: number | null; airC: number | null; altitudeM: number | null };
  /** A row a second, s from the start. */
  time: number[];
  channels: { id: string; unit: string; values: number[] }[];
  open: { before: string[]; after: string[] };
  /** Told once it is answered. */
  review: DriveReview | null;
}

/** A try. What is wrong with the car stands in it once it is answered, in an exam once the exam is over. */
export interface AttemptView {
  id: string;
  /** Null for a drive: there is no car to ask. */
  job: string | null;
  by: string;
  at: string;
  title: string;
  level: PracticeLevel;
  scenario: string;
  hints: boolean;
  exam: { id: string; place: number; of: number; over: boolean } | null;
  minutes: number;
  /** What the car can be asked, with the minutes of each. */
  asks: { kind: 'reading' | 'test'; what: string; label: string; minutes: number; perBank: boolean; done: boolean }[];
  moves: (Pick<PracticeMove, 'kind' | 'what' | 'bank' | 'minutes' | 'showed'> & Partial<PracticeMove>)[];
  answer: PracticeAnswer | null;
  score: PracticeScore | null;
  faults: PracticeScenario['faults'] | null;
  /** What always taking the best next test would have done. */
  bestPath: { what: string; minutes: number; showed: Said }[] | null;
  drive: PracticeDrive | null;
  driveAnswer: DriveAnswer | null;
  /** Over: named, or given up for no points. */
  answered: boolean;
  gaveUp: boolean;
  signed: { by: string; at: string } | null;
}

export type AttemptLine = Pick<
  AttemptView,
  | 'id'
  | 'job'
  | 'by'
  | 'at'
  | 'title'
  | 'level'
  | 'scenario'
  | 'hints'
  | 'exam'
  | 'minutes'
  | 'answered'
  | 'gaveUp'
  | 'signed'
> & {
  total: number | null;
  /** The person's first at this car; of a later one what is wrong was known. */
  counts: boolean;
};
