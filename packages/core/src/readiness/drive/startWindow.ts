import { isoOf, unixOf } from '../../time/index.ts';
import type { PlanCondition } from './plan.ts';

/** Conditions that begin to hold this close together decide together, min. [house] */
const TOGETHER_MIN = 10;

const secondsOf = (iso: string) => unixOf(iso) ?? Number.NaN;

/**
 * The conditions that a start waits for: the last that come to hold, and what comes at most ten minutes before; or those
 * that end before it and hold again then.
 */
export function decidedBy(conditions: readonly PlanCondition[], earliestStart: string | null): PlanCondition[] {
  if (earliestStart === null) return [];
  const start = secondsOf(earliestStart);
  const waits = conditions.filter((c) => c.state === 'not-yet' && c.holdsFrom !== null);
  return waits.some((c) => Math.abs(secondsOf(c.holdsFrom!) - start) < 60)
    ? waits.filter((c) => Math.abs(secondsOf(c.holdsFrom!) - start) <= 60 * TOGETHER_MIN)
    : conditions.filter((c) => c.holdsUntil !== null && secondsOf(c.holdsUntil) < start);
}

/**
 * The last moment (ISO 8601) at which a drive of so many minutes still fits before the first condition ends; null where
 * nothing that is known ends, and where it does not fit after the earliest start.
 */
export function lastStart(
  conditions: readonly PlanCondition[],
  earliestStart: string | null,
  minutes: number | null,
): string | null {
  const ends = conditions.flatMap((c) => (c.holdsUntil === null ? [] : [secondsOf(c.holdsUntil)]));
  if (earliestStart === null || ends.length === 0) return null;
  const last = Math.min(...ends) - 60 * (minutes ?? 0);
  return last < secondsOf(earliestStart) ? null : isoOf(Math.round(last)).replace('.000Z', 'Z');
}
