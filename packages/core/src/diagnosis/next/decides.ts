import type { candidates } from './rankTests.ts';
import { SURE } from './sure.ts';

/** One test, or two after each other, and how likely one cause is sure afterwards, whichever it is. */
export interface Deciding {
  tests: readonly string[];
  minutes: number;
  /** 0 to 1. */
  chance: number;
}

/** From this chance on it is worth naming. [house] */
const FAIR = 0.3;
/** Two tests are named where they decide this much more often than either alone. [house] */
const MORE = 1.25;

/** Causes under this, tests that tell less than this, and more of them than this, are not gone through. [house] */
const COUNTS = 1e-3;
const TELLS_BITS = 0.03;
const MOST_TESTS = 12;

/**
 * What would still decide where no test is worth its minutes: the test, or the two, that leave one cause at `SURE` most
 * often. Null where none does in a fair share of such cars. Tests are taken as independent of each other given the cause.
 */
export function whatDecides({ tests, leading }: ReturnType<typeof candidates>): Deciding | null {
  const causes = leading.flatMap((w, f) => (w.probability >= COUNTS ? [f] : []));
  const prior = causes.map((f) => leading[f]!.probability);
  const open = tests
    .filter((t) => !t.blocked && t.bits >= TELLS_BITS)
    .sort((a, b) => b.bits - a.bits)
    .slice(0, MOST_TESTS)
    .map((t) => ({ ...t, likelihood: t.likelihood.map((row) => causes.map((f) => row[f]!)) }));
  /** How often one cause is sure after it; `and` goes through the results of a second test. */
  const chanceAfter = (
    rows: readonly (readonly number[])[],
    joint: readonly number[],
    and: typeof rows | null,
  ): number =>
    rows.reduce((sum, row) => {
      const after = joint.map((p, f) => p * row[f]!);
      if (and) return sum + chanceAfter(and, after, null);
      const z = after.reduce((a, b) => a + b, 0);
      return sum + (z > 0 && Math.max(...after) >= SURE * z ? z : 0);
    }, 0);
  const alone = open
    .map((t) => ({ tests: [t.row.id], minutes: t.minutes, chance: chanceAfter(t.likelihood, prior, null) }))
    .sort((a, b) => b.chance - a.chance || a.minutes - b.minutes);
  const [single] = alone;
  let best: Deciding | null = single && single.chance >= FAIR ? single : null;
  open.forEach((one, i) => {
    for (const other of open.slice(i + 1)) {
      const chance = chanceAfter(one.likelihood, prior, other.likelihood);
      if (chance < FAIR || chance < MORE * (single?.chance ?? 0) || chance <= (best?.chance ?? 0)) continue;
      best = { tests: [one.row.id, other.row.id], minutes: one.minutes + other.minutes, chance };
    }
  });
  return best;
}
