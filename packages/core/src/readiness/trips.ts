/** Without a count of warm-ups a record this long after speaks for two trips, days. [house] */
const SURELY_DAYS = 2;
/** Two warm-ups take at least this long, days: fewer, and they are from before. [house] */
const LEAST_DAYS = 0.2;
const DAY_MS = 86_400_000;

/**
 * Whether a record shows two trips since a moment (ms since 1970): a pending code that is not in it stays away only then.
 * Common practice, no source.
 */
export function twoTripsSince(sinceMs: number, record: { atMs: number; warmupsSinceClear: number | null }): boolean {
  const days = (record.atMs - sinceMs) / DAY_MS;
  return (
    days >= SURELY_DAYS || (record.warmupsSinceClear !== null && record.warmupsSinceClear >= 2 && days > LEAST_DAYS)
  );
}
