import type { KnownFigure } from '../expected/index.ts';
import type { Said } from '../units/index.ts';

/** The shapes of CONTRACT's diagnosis and settings, version 1. */

export type Mixture = 'lean' | 'rich' | 'crossing' | 'split' | 'balanced' | 'not-applicable' | 'undetermined';

/** A size with its range, in a unit. */
export interface Severity {
  value: number;
  low: number;
  high: number;
  unit: string;
}

/** A fault with its probability (0–1), its size, and what speaks for it. */
export interface Cause {
  fault: string;
  bank: 1 | 2 | null;
  probability: number;
  severity: Severity | null;
  because: Said[];
  against: Said[];
  /** For the leading causes: the results that would take most away from it, strongest first. */
  wouldChange?: MindChange[];
}

/** A test worth doing: what it promises in bits, what it costs in minutes. */
export interface NextTest {
  test: string;
  /** Additional bench minutes: less where what it needs is open already. */
  minutes: number;
  informationBits: number;
  why: Said;
  /** What has to be opened or set up for it, and the other tests worth doing while it is. */
  access?: string;
  together?: string[];
  /** The part to swap, where that is the test. */
  part?: string;
  /** The bank to do it on, where it is done on one at a time. */
  bank?: 1 | 2;
}

/** A result that would overturn a cause, and what would be left of it. */
export interface MindChange {
  test: string;
  outcome: string;
  /** The cause's probability after it. */
  left: number;
}

/**
 * Where a judgement stands: sure enough to work; to be confirmed by one test before a part is touched; the test that
 * gains most comes next; the engine is to be warmed up and read again; or what is there cannot tell.
 */
export type Standing =
  | { is: 'sure' | 'warm-up'; why: string }
  | {
      is: 'cannot-tell';
      why: string;
      /** Tests of this shop that would still decide in a fair share of such cars, one or two. */
      would?: readonly string[];
    }
  | { is: 'confirm' | 'test'; test: string; why: string };

/**
 * The judgement of a case: causes with their probabilities (together 1), what cannot be told apart, and by which test
 * it could.
 */
export interface Diagnosis {
  format: 'just-balance/diagnosis';
  version: 1;
  id: string;
  mixture: Mixture;
  banks: (1 | 2)[];
  causes: Cause[];
  pairs: { faults: [string, string]; probability: number }[];
  alsoPresent: { fault: string; probability: number }[];
  nextTests: NextTest[];
  standing: Standing;
  condemned: string[];
  cannotTellApart: string[][];
  warnings: Said[];
  /** The shape of the trims of each bank by the rules of thumb, beside what the arithmetic says. */
  shape: { bank: 1 | 2; word: string }[];
  /** The judgement in plain sentences, from the same terms. */
  paragraph: Said;
}

/** What a shop may set. Every field has a default; arithmetic never depends on the limits. */
export interface Settings {
  limits?: { watchPct?: number; actPct?: number };
  /** Bench minutes by test id. */
  minutes?: Record<string, number>;
  /** Tools the shop owns; absent: all. */
  tools?: string[];
  /** Hazards the shop allows; absent: all. */
  hazards?: string[];
  /** Samples a second of one channel that the tool in hand manages; absent: enough for every test. */
  toolHz?: number;
  /** Where the shop stands, m; a new job starts with it. `rule`: id of the inspection rule that holds there. */
  place?: { altitudeM?: number; rule?: string };
  /** What an hour and what parts cost, and the currency (ISO 4217); no part of a diagnosis. */
  labour?: { perHour: number; currency: string; parts?: Record<string, number> };
  /** What stands under the shop's name on its papers; no part of a diagnosis. */
  letterhead?: { does?: string; address?: string; phone?: string };
  /** Prior weights by fault id. */
  priors?: Record<string, number>;
  /** What the shop's own results say of a test: factors on how often it finds what is there, and alarms for nothing. */
  reliability?: Record<string, { hits: number; alarms: number }>;
  /** Figures that beat physics, for this vehicle or its family: airflow is held against them where there are any. */
  known?: readonly KnownFigure[];
}
