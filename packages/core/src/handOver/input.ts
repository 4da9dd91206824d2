import type { ProofJudgement } from '../proof/index.ts';
import type { TrimLimits } from '../trims/index.ts';
import type { UnitSystem } from '../units/index.ts';
import type { Clock } from './days.ts';
import type { HandOverJob } from './facts.ts';

/** What an hour of work costs in a shop, and parts by their names in small letters. `currency`: three letters (ISO 4217). */
export interface Labour {
  perHour: number;
  currency: string;
  parts?: Readonly<Record<string, number>>;
}

/** What stands under the shop's name on its papers, each line where it is set. */
export interface Letterhead {
  does?: string;
  address?: string;
  phone?: string;
}

/** The lines of a letterhead under the shop's name. */
export function letterheadLines(shop: string, { does, address, phone }: Letterhead = {}): string[] {
  const found = [address, phone].map((t) => t?.trim()).filter((t): t is string => Boolean(t));
  return [shop, ...[does?.trim() ?? '', found.join(' · ')].filter((t) => t !== '')];
}

/** All a document is written from. */
export interface HandOverInput {
  job: HandOverJob;
  /** The shop's name. */
  shop: string;
  letterhead?: Letterhead;
  /** The verdict on the repair; null where nothing was read after one. */
  proof: ProofJudgement | null;
  limits: TrimLimits;
  units: UnitSystem;
  /** Whose clock moments are told on; absent: UTC. */
  clock?: Clock;
  /** The shop's rate, and its own minutes of tests; absent: none. */
  labour?: Labour;
  minutes?: Readonly<Record<string, number>>;
}
