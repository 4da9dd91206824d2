import { solved } from './pins.ts';
import { BATTERY_NEGATIVE, type PinReadings, type PinsResult } from './readings.ts';

/** A pair of the connector to be read, red lead first. */
export interface Pair {
  red: string;
  black: string;
}

/** The pair to read first, and what to read after it: nothing more, the one pair, or one of several by what the first shows. */
export interface Settling {
  first: Pair;
  second: readonly Pair[];
}

/** What a pin may show of which nothing is known yet, V: between ground and reference, each a little other. [house] */
const guessV = (i: number) => 2.1 + 0.17 * i;

const isSettled = (r: PinsResult) => !r.ambiguous && r.nextPair === null;

/**
 * Whether one reading more, or two, would settle which pin is which, and which readings these are: each set of volts that
 * what was read leaves open is taken for the true one in turn, and read. Null where nothing is open, or two are too few.
 */
export function settlingPairs(given: PinReadings): Settling | null {
  const { result, ways } = solved(given);
  const first = result.nextPair;
  if (!first) return null;
  const second: Pair[] = [];
  for (const way of ways) {
    const volts = (name: string) =>
      name === BATTERY_NEGATIVE ? 0 : (way[given.pins.indexOf(name)] ?? guessV(given.pins.indexOf(name)));
    const after = (g: PinReadings, { red, black }: Pair): PinReadings => ({
      ...g,
      readings: [...g.readings, { red, black, volts: Math.abs(volts(red) - volts(black)), signed: false }],
    });
    const once = after(given, first);
    const next = solved(once).result;
    if (isSettled(next)) continue;
    if (!next.nextPair) return null;
    const { red, black } = next.nextPair;
    if (!isSettled(solved(after(once, next.nextPair)).result)) return null;
    if (!second.some((p) => p.red === red && p.black === black)) second.push({ red, black });
  }
  return { first: { red: first.red, black: first.black }, second };
}
