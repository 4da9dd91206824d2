/** What comes within so long of its press was pressed at a tablet that had the shop, ms. [house] */
const AT_ONCE_MS = 2000;

/** An event of a run, as far as its place among the others goes: all in ms since 1970. */
export interface Placed {
  atMs: number;
  orderMs: number | null;
  by: string;
}

/**
 * Where an event that comes now stands among those that are there: by its arrival where it comes at once, after all of
 * them; else by its own moment (null), but never before what the same person did before it and what was placed by its arrival.
 */
export function placeOf(e: Pick<Placed, 'atMs' | 'by'>, nowMs: number, there: readonly Placed[]): number | null {
  const placeMs = (x: Placed) => x.orderMs ?? x.atMs;
  const after = (those: readonly Placed[], leastMs: number) =>
    those.reduce((most, x) => Math.max(most, placeMs(x) + 1), leastMs);
  if (nowMs - e.atMs <= AT_ONCE_MS)
    return after(
      // What an archive brought may be of any year.
      there.filter((x) => placeMs(x) <= nowMs + AT_ONCE_MS),
      nowMs,
    );
  const mine = there.filter((x) => x.by === e.by && x.orderMs !== null && x.atMs <= e.atMs);
  const placed = after(mine, e.atMs);
  return placed === e.atMs ? null : placed;
}
