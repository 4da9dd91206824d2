import { BATTERY_NEGATIVE, type Pin, type PinReadings, type PinsResult } from './readings.ts';
import { type Edge, groupsOf, onFloating, type Solution, unusual } from './solve.ts';

/** Usual levels by so much more, as a share of a misreading, make the one reading doubtful that stands against them. [house] */
export const DOUBTFUL = 0.04;

/** So many pins with usual levels say by themselves where the battery's negative is. [house] */
const LEVELS_CHECK = 3;

/**
 * The only reading that ties the pins to the battery, where by it their levels are less usual than without it: whether it
 * was misread nothing can say but another one. Null where it is none of this.
 */
export function loneAnchor(
  given: PinReadings,
  edges: readonly Edge[],
  best: Solution,
  fixed: ReadonlyMap<number, number>,
): { index: number; next: PinsResult['nextPair']; without: (number | null)[] } | null {
  const ties = edges.filter(
    (e) => best.signs.has(e.index) && (fixed.has(e.a) || fixed.has(e.b)) && !onFloating(e, best.floating),
  );
  const [tie] = ties;
  if (ties.length !== 1 || !tie) return null;
  const read = given.pins.map((_, i) => best.volts[i]).filter((v): v is number => v != null);
  if (read.length < LEVELS_CHECK) return null;
  const low = Math.min(...read);
  const without = best.volts.map((v) => (v === null ? null : v - low));
  if (unusual(best.volts, given) - unusual(without, given) < DOUBTFUL) return null;
  const tied = [tie.a, tie.b];
  const pin = given.pins
    .map((_, i) => i)
    .filter((i) => best.volts[i] != null && !tied.includes(i))
    .sort((a, b) => best.volts[a]! - best.volts[b]!)[0];
  const next =
    pin === undefined
      ? null
      : { red: given.pins[pin]!, black: BATTERY_NEGATIVE, why: 'one reading alone ties all of them to the battery' };
  return { index: tie.index, next, without };
}

/** Whether the pair of a reading that is left out has another one that counts. */
export function readAgain(index: number, { readings }: PinReadings, outliers: readonly number[]): boolean {
  const { red, black } = readings[index]!;
  return readings.some(
    (r, i) => !outliers.includes(i) && ((r.red === red && r.black === black) || (r.red === black && r.black === red)),
  );
}

/** The pair whose reading would settle most; null when nothing would change. */
export function nextPair(
  given: PinReadings,
  edges: readonly Edge[],
  best: Solution,
  rival: Solution | null,
  pins: readonly Pin[],
  anchored: boolean,
): PinsResult['nextPair'] {
  const read = (a: string, b: string) =>
    given.readings.some((r) => (r.red === a && r.black === b) || (r.red === b && r.black === a));
  if (rival) {
    // Where the two sets of signs differ most in what the meter would show.
    let most: { red: string; black: string; by: number } | null = null;
    const candidates = [...given.pins.filter((_, i) => pins[i]!.volts !== null), BATTERY_NEGATIVE];
    const level = (s: Solution, name: string) =>
      name === BATTERY_NEGATIVE ? 0 : (s.volts[given.pins.indexOf(name)] ?? null);
    for (const [i, red] of candidates.entries())
      for (const black of candidates.slice(i + 1)) {
        if (read(red, black)) continue;
        const [a, b, c, d] = [level(best, red), level(best, black), level(rival, red), level(rival, black)];
        if (a === null || b === null || c === null || d === null) continue;
        const by = Math.abs(Math.abs(a - b) - Math.abs(c - d));
        if (by > 0.3 && (!most || by > most.by)) most = { red, black, by };
      }
    if (most) return { red: most.red, black: most.black, why: 'tells the two sets of signs apart' };
  }
  const outlier = best.outliers.find((i) => !readAgain(i, given, best.outliers));
  if (outlier !== undefined) {
    const r = given.readings[outlier]!;
    return { red: r.red, black: r.black, why: 'disagrees with all the others: read it again' };
  }
  const grounded = pins.find((p) => p.role === 'ground') ?? pins.find((p) => p.volts !== null) ?? pins[0];
  if (!anchored && grounded)
    return { red: grounded.pin, black: BATTERY_NEGATIVE, why: 'anchors all of them to battery negative' };
  const unread = pins.find((p) => p.role === 'unknown' && p.volts === null);
  if (unread) return { red: unread.pin, black: BATTERY_NEGATIVE, why: 'this pin is not known yet' };
  return unchecked(given, edges, best, read);
}

/** A pair across the first reading that alone ties some pins to the rest: it has nothing to be checked by. */
function unchecked(
  given: PinReadings,
  edges: readonly Edge[],
  best: Solution,
  read: (a: string, b: string) => boolean,
): PinsResult['nextPair'] {
  const n = best.volts.length;
  const names = [...given.pins, BATTERY_NEGATIVE];
  const used = edges.filter((e) => best.signs.has(e.index));
  const whole = groupsOf(n, used);
  for (const bridge of used) {
    const group = groupsOf(
      n,
      used.filter((e) => e !== bridge),
    );
    if (group[bridge.a] === group[bridge.b]) continue;
    // The one against the battery: levels of several pins check it, see `loneAnchor`.
    const pinsBehind = given.pins.filter((_, i) => group[i] === group[Math.min(bridge.a, bridge.b)]).length;
    if (Math.max(bridge.a, bridge.b) >= given.pins.length && pinsBehind >= LEVELS_CHECK) continue;
    // From the side without the battery to it, else to any pin of the other side.
    for (const to of names.toReversed())
      for (const pin of given.pins) {
        const [i, k] = [given.pins.indexOf(pin), names.indexOf(to)];
        if (i === k || whole[i] !== whole[k] || group[i] === group[k] || read(pin, to)) continue;
        const alone = used.filter((e) => e.a === i || e.b === i).length === 1;
        const why = alone
          ? 'hangs on one reading: a second one checks it'
          : `reading ${bridge.index + 1} alone ties a part to the rest: a second one checks it`;
        return { red: pin, black: to, why };
      }
  }
  return null;
}
