import type { Said } from '../units/index.ts';
import type { RobustBand, Share, Spread } from './intervals.ts';
import type { JobOutcome } from './jobOutcome.ts';

/** An outcome with the job it comes from. */
export interface OutcomeOfJob {
  job: string;
  outcome: JobOutcome;
}

/** A figure of an engine family, from proven jobs. */
export interface LearnedFigure extends RobustBand {
  family: string;
  at: string;
  quantity: 'airflow' | 'manifold';
  baroKPa: number | null;
  /** Each car's, by `jobs`. */
  values: number[];
  jobs: string[];
}

/** How often a cause was the proven one. */
export interface LearnedCause extends Share {
  fault: string;
  count: number;
  /** Our own share of it. */
  ours: number;
  jobs: string[];
}

/** How often a test found what was there, or alarmed for nothing. */
export interface LearnedChance extends Share {
  yes: number;
  no: number;
  ours: number;
  jobs: string[];
}

/** How often a test was right, and how often it raised a false alarm. */
export interface LearnedTest {
  test: string;
  hits: LearnedChance;
  alarms: LearnedChance;
}

/** All a shop's jobs teach. */
export interface Learned {
  /** Outcomes counted, and those with a proven cause. */
  jobs: number;
  proven: number;
  figures: LearnedFigure[];
  causes: LearnedCause[];
  tests: LearnedTest[];
  cleanings: (Share & {
    part: string;
    source: string | null;
    held: number;
    failed: number;
    failedJobs: string[];
    jobs: string[];
  })[];
  minutesToCause: (Spread & { jobs: string[] }) | null;
  procedures: (Spread & { id: string; title: string; advised: number; each: number[]; jobs: string[] })[];
  /** Closed jobs with a repair that did not come back. */
  firstTime: (Share & { fixed: number; back: number; jobs: string[] }) | null;
  breaks: { what: string; count: number; jobs: string[] }[];
  drives: number;
  /** What of it is worth saying. */
  findings: Finding[];
}

/** What of it is used; nothing unless it is chosen. */
export interface LearningChoice {
  knownGood?: boolean;
  priors?: boolean;
  tests?: boolean;
}

/** Something the shop's own jobs say, as a sentence, with what it is counted from. */
export interface Finding {
  id: string;
  sentence: Said;
  /** What was counted. */
  behind: Said;
  /** How sure it is: sentences were picked from many, so only later jobs make one sure. */
  doubt: string;
  sure: boolean;
  /** What puts it to use; null where a person does. */
  uses: keyof LearningChoice | null;
  /** The jobs behind it, oldest first. */
  jobs: string[];
  picture: FindingPicture;
}

/** What is drawn beside the sentence. Shares of 1, minutes, or a figure of an engine in its own unit. */
export type FindingPicture =
  | { kind: 'shares'; rows: { label: string; yes: number; of: number }[] }
  | { kind: 'minutes'; rows: { label: string; minutes: number; note: string }[] }
  | { kind: 'band'; low: number; high: number; unit: 'g/s' | 'kPa'; values: number[] };
