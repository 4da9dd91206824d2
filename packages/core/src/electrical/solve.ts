import { leastSquares } from './leastSquares.ts';
import { GROUND_V, type PinReadings, REFERENCE, SUPPLY_LOW_V } from './readings.ts';

/** Standard deviation of a reading on the 20 V range: half a per cent and two digits. [house] */
export const READING_SD = (v: number) => 0.02 + 0.005 * Math.abs(v);

/** A reading this many deviations off what the others say disagrees. [house] */
const DISAGREES = 4;

/** Misreadings that are searched for at most. */
const MOST_OUTLIERS = 2;

/** What a floating pin costs against one misreading: of two faulty readings at one pin the pin is likelier. [house] */
const FLOATING_COST = 1.5;

/** Volts that no pin of a sensor shows. [house] */
const LEAST_V = -0.5;
const MOST_V = 15.5;

/** Sets of signs that are kept at most for one choice of what to leave out: beyond, too little was read to tell. */
const MOST_SETS = 1024;

/** A reading between two nodes (pins by index, then the two posts): volts(a) − volts(b). */
export interface Edge {
  index: number;
  a: number;
  b: number;
  volts: number;
  sd: number;
  signed: boolean;
}

/** Volts of the connected nodes by one set of signs; what it leaves unexplained. */
export interface Solution {
  volts: (number | null)[];
  /** By edge that was used. */
  signs: Map<number, number>;
  outliers: number[];
  floating: number[];
  /** Of misreadings and floating pins alone. */
  charge: number;
  cost: number;
}

/** Whether a reading hangs on a pin that is taken for floating. */
export const onFloating = (e: Edge, floating: readonly number[]) => floating.includes(e.a) || floating.includes(e.b);

/** Solutions from the cheapest on: fewest misreadings and floating pins, then the most usual levels. */
export function search(
  n: number,
  edges: readonly Edge[],
  fixed: ReadonlyMap<number, number>,
  given: PinReadings,
): Solution[] {
  const out: Solution[] = [];
  const pinsRead = given.pins.map((_, i) => i).filter((i) => edges.filter((e) => e.a === i || e.b === i).length >= 2);
  const indexes = edges.map((e) => e.index);
  let cheapest = Number.POSITIVE_INFINITY;
  const tried = (floating: number[], outliers: number[]) => {
    const charge = outliers.length + FLOATING_COST * floating.length;
    // Unusual levels cost less than one misreading: nothing dearer can win any more.
    if (charge > cheapest + 1) return;
    const used = edges.filter((e) => !outliers.includes(e.index) && !onFloating(e, floating));
    for (const s of consistent(n, used, fixed)) {
      const misfit = misfitOf(s, used, fixed);
      if (misfit === null) continue;
      const volts = anchoredVolts(s.volts, used, fixed, given.pins.length);
      if (volts === null) continue;
      const cost = charge + unusual(volts, given) + misfit;
      out.push({ volts, signs: s.signs, outliers, floating, charge, cost });
      cheapest = Math.min(cheapest, cost);
    }
  };
  for (const floating of [[], ...pinsRead.map((p) => [p])])
    for (let k = 0; k <= MOST_OUTLIERS; k++) {
      const free = indexes.filter((i) => !onFloating(edges[i]!, floating));
      for (const outliers of choose(free, k)) tried(floating, outliers);
    }
  if (out.length === 0) {
    // Nothing agrees with anything: say so of every pin rather than make figures up.
    const floating = given.pins.map((_, i) => i);
    out.push({
      volts: Array(n).fill(null),
      signs: new Map(),
      outliers: indexes,
      floating,
      charge: edges.length,
      cost: edges.length,
    });
  }
  return out.sort((a, b) => a.cost - b.cost);
}

/** Every choice of `k` of a list; all of none is one. */
function* choose(list: readonly number[], k: number): Generator<number[]> {
  if (k === 0) yield [];
  else
    for (let i = 0; i <= list.length - k; i++)
      for (const rest of choose(list.slice(i + 1), k - 1)) yield [list[i]!, ...rest];
}

/** What the mean square of the residuals costs, in misreadings. [house] */
const MISFIT_COST = 0.05;

/**
 * How badly a set of signs fits, by the residuals of least squares over all its readings together; null where one of them
 * disagrees. Along one walk through the readings errors add up, and the walk would decide.
 */
function misfitOf(s: SignSet, edges: readonly Edge[], fixed: ReadonlyMap<number, number>): number | null {
  const solved = refine(s.volts.length, edges, s, fixed, true);
  let [sum, n] = [0, 0];
  for (const e of edges) {
    const [a, b] = [solved.volts[e.a], solved.volts[e.b]];
    if (a == null || b == null || Number.isNaN(a) || Number.isNaN(b)) continue;
    const off = Math.abs(a - b - s.signs.get(e.index)! * e.volts) / e.sd;
    if (off > DISAGREES) return null;
    sum += off * off;
    n++;
  }
  return n === 0 ? 0 : (MISFIT_COST * sum) / n;
}

/** One set of signs with the volts that a walk through the readings gives. */
type SignSet = Pick<Solution, 'volts' | 'signs'>;

/**
 * Sets of signs under which all edges may agree: node by node along the readings, each that closes a ring is held against
 * what may have added up on the way.
 */
function consistent(n: number, edges: readonly Edge[], fixed: ReadonlyMap<number, number>): SignSet[] {
  const out: SignSet[] = [];
  const volts: (number | null)[] = Array(n).fill(null);
  /** What may have added up until here, V². */
  const variance = Array<number>(n).fill(0);
  for (const [i, v] of fixed) volts[i] = v;
  const signs = new Map<number, number>();
  const left = new Set(edges);
  const walk = () => {
    if (out.length >= MOST_SETS) return;
    // What closes a ring first: it decides without a guess.
    let next = [...left].find((e) => volts[e.a] !== null && volts[e.b] !== null);
    next ??= [...left].find((e) => volts[e.a] !== null || volts[e.b] !== null);
    if (!next) {
      const start = left.values().next().value;
      if (!start) {
        out.push({ volts: [...volts], signs: new Map(signs) });
        return;
      }
      // A part that nothing connects to a battery post: its first pin is its zero for now.
      volts[start.a] = 0;
      variance[start.a] = 0;
      walk();
      volts[start.a] = null;
      return;
    }
    left.delete(next);
    const [a, b] = [volts[next.a]!, volts[next.b]!];
    for (const sign of next.signed || next.volts === 0 ? [1] : [1, -1]) {
      const v = sign * next.volts;
      signs.set(next.index, sign);
      if (volts[next.a] !== null && volts[next.b] !== null) {
        const sd = Math.sqrt(next.sd ** 2 + variance[next.a]! + variance[next.b]!);
        if (Math.abs(a - b - v) <= DISAGREES * sd) walk();
      } else if (volts[next.a] !== null) {
        volts[next.b] = a - v;
        variance[next.b] = variance[next.a]! + next.sd ** 2;
        walk();
        volts[next.b] = null;
      } else {
        volts[next.a] = b + v;
        variance[next.a] = variance[next.b]! + next.sd ** 2;
        walk();
        volts[next.a] = null;
      }
    }
    signs.delete(next.index);
    left.add(next);
  };
  walk();
  return out;
}

/**
 * Against battery negative, part by part of what the readings connect: as they are where a post anchors the part, else
 * from its lowest pin up. Null for volts that no pin shows.
 */
function anchoredVolts(
  volts: readonly (number | null)[],
  used: readonly Edge[],
  fixed: ReadonlyMap<number, number>,
  pins: number,
): (number | null)[] | null {
  const group = groupsOf(volts.length, used);
  const out = [...volts];
  for (const g of new Set(group.slice(0, pins))) {
    const members = group.flatMap((x, i) => (x === g && i < pins && volts[i] !== null ? [i] : []));
    if (members.length === 0) continue;
    const own = members.map((i) => volts[i]!);
    const [low, high] = [Math.min(...own), Math.max(...own)];
    const anchored = [...fixed.keys()].some((i) => group[i] === g);
    if (anchored ? low < LEAST_V || high > MOST_V : high - low > MOST_V - LEAST_V) return null;
    if (!anchored) for (const i of members) out[i] = volts[i]! - low;
  }
  return out;
}

/** How far the levels are from those a connector usually has: below one misreading in all. */
export function unusual(volts: readonly (number | null)[], given: PinReadings): number {
  const own = given.pins.map((_, i) => volts[i]).filter((v): v is number => v != null);
  if (own.length === 0) return 0;
  const strange = own.filter((v) => v > REFERENCE.high && v < SUPPLY_LOW_V - 1).length;
  const below = own.filter((v) => v < -GROUND_V).length;
  const noGround = own.some((v) => Math.abs(v) <= GROUND_V) ? 0 : 1;
  const supplies = own.filter((v) => v >= SUPPLY_LOW_V).length;
  return Math.min(0.95, (0.5 * strange + 0.5 * below + 0.2 * noGround + 0.15 * Math.max(0, supplies - 1)) / own.length);
}

/** The same volts by weighted least squares over all readings that count, with their deviations. */
export function refine(
  n: number,
  edges: readonly Edge[],
  s: SignSet,
  fixed: ReadonlyMap<number, number>,
  anchored: boolean,
): { volts: (number | null)[]; sd: (number | null)[] } {
  const used = edges.filter((e) => s.signs.has(e.index) && s.volts[e.a] !== null && s.volts[e.b] !== null);
  const known = new Map(fixed);
  const pinned = s.volts.map((v, i) => (v !== null && !known.has(i) ? i : -1)).filter((i) => i >= 0);
  // Where no post anchors any, the largest part hangs on its lowest pin; of others nothing is known.
  const group = groupsOf(n, used);
  const parts = [...new Set(pinned.map((i) => group[i]!))]
    .map((g) => pinned.filter((i) => group[i] === g))
    .filter((members) => ![...fixed.keys()].some((k) => group[k] === group[members[0]!]))
    .sort((a, b) => b.length - a.length);
  for (const [k, members] of parts.entries()) {
    const lowest = members.reduce((a, b) => (s.volts[b]! < s.volts[a]! ? b : a));
    known.set(lowest, anchored || k > 0 ? Number.NaN : 0);
  }
  const free = pinned.filter((i) => !known.has(i));
  const column = new Map(free.map((i, k) => [i, k]));
  const rows = used
    .filter((e) => ![known.get(e.a), known.get(e.b)].some((v) => v !== undefined && Number.isNaN(v)))
    .map((e) => {
      const row = Array<number>(free.length).fill(0);
      let right = s.signs.get(e.index)! * e.volts;
      for (const [i, sign] of [
        [e.a, 1],
        [e.b, -1],
      ] as const) {
        const k = column.get(i);
        if (k === undefined) right -= sign * known.get(i)!;
        else row[k] = (row[k] ?? 0) + sign;
      }
      return { row, right, sd: e.sd };
    });
  const fit = leastSquares(free.length, rows);
  const volts = s.volts.map((v, i) => {
    const k = column.get(i);
    return k !== undefined ? (fit.value[k] ?? null) : v === null ? null : (known.get(i) ?? null);
  });
  const sd = s.volts.map((_, i) => {
    const k = column.get(i);
    return k === undefined ? READING_SD(0) : (fit.sd[k] ?? null);
  });
  return { volts, sd };
}

/** By node, which of the parts that readings connect it belongs to. */
export function groupsOf(n: number, edges: readonly Edge[]): number[] {
  const group = Array.from({ length: n }, (_, i) => i);
  for (const e of edges) {
    const [x, y] = [group[e.a]!, group[e.b]!];
    if (x !== y) for (let i = 0; i < n; i++) if (group[i] === y) group[i] = x;
  }
  return group;
}
