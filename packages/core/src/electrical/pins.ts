import { leastSquares } from './leastSquares.ts';

/** One reading of a voltmeter: V(red) − V(black) as it showed, in V. */
export interface PairReading {
  red: string;
  black: string;
  volts: number;
  /** Whether the minus sign was written down where there was one; people often leave it out. */
  signed: boolean;
}

/** What was read at one connector. `battery-` is battery negative, `battery+` its other post. */
export interface PinReadings {
  pins: readonly string[];
  batteryV?: number;
  running: boolean;
  readings: readonly PairReading[];
}

/** What a pin of a connector is for. */
export type PinRole = 'ground' | 'supply' | 'reference' | 'signal' | 'floating' | 'unknown';

/** A pin with its volts against the negative post, and the roles it may have. */
export interface Pin {
  pin: string;
  /** Against battery negative; null where nothing connects it to the others, or it floats. */
  volts: number | null;
  low: number | null;
  high: number | null;
  role: PinRole;
  because: string;
}

/** What the pair readings amount to: each pin, what contradicts, and which pair to read next. */
export interface PinsResult {
  pins: Pin[];
  /** Indexes of readings that disagree with all the others. */
  outliers: number[];
  /** Another set of signs fits as well; the volts are those of the likelier. */
  ambiguous: boolean;
  nextPair: { red: string; black: string; why: string } | null;
  warnings: string[];
}

/** The post that volts are counted from. */
export const BATTERY_NEGATIVE = 'battery-';
/** The other post. */
export const BATTERY_POSITIVE = 'battery+';

/** Standard deviation of a reading on the 20 V range: half a per cent and two digits. [house] */
const READING_SD = (v: number) => 0.02 + 0.005 * Math.abs(v);
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

/** Levels. Common practice, no source. */
const GROUND_V = 0.3;
const REFERENCE = { low: 4.7, high: 5.3 };
const SUPPLY_LOW_V = 11.5;
const SUPPLY_HIGH_V = { off: 13.4, running: 14.9 };

interface Edge {
  index: number;
  a: number;
  b: number;
  volts: number;
  sd: number;
  signed: boolean;
}

/** Volts of the connected nodes by one set of signs; what it leaves unexplained. */
interface Solution {
  volts: (number | null)[];
  /** By edge that was used. */
  signs: Map<number, number>;
  outliers: number[];
  floating: number[];
  /** Of misreadings and floating pins alone. */
  charge: number;
  cost: number;
}

/**
 * Voltages of a connector's pins from readings between pairs of them: signs searched where they were not written down,
 * misreadings and floating pins found, then weighted least squares. Readings give differences only; one against a battery
 * post anchors them, else the lowest pin is taken for ground. Never throws on readings between known pins.
 */
export function findPins(given: PinReadings): PinsResult {
  const nodes = [...given.pins, BATTERY_NEGATIVE, BATTERY_POSITIVE];
  const at = new Map(nodes.map((n, i) => [n, i]));
  const edges = given.readings.map(
    (r, index): Edge => ({
      index,
      a: at.get(r.red)!,
      b: at.get(r.black)!,
      volts: r.volts,
      sd: READING_SD(r.volts),
      // A minus that is there was written down.
      signed: r.signed || r.volts < 0,
    }),
  );
  const negative = at.get(BATTERY_NEGATIVE)!;
  const positive = at.get(BATTERY_POSITIVE)!;
  const fixed = new Map<number, number>([[negative, 0]]);
  if (given.batteryV !== undefined) fixed.set(positive, given.batteryV);
  const found = search(nodes.length, edges, fixed, given);
  const warnings: string[] = [];
  const best = found[0]!;
  const anchored = edges.some(
    (e) => !best.outliers.includes(e.index) && (fixed.has(e.a) || fixed.has(e.b)) && !onFloating(e, best.floating),
  );
  if (!anchored && edges.length > 0)
    warnings.push('No reading against battery negative: the lowest pin is taken for ground. Take one to be sure.');
  if (edges.length === 0) warnings.push('No reading yet.');
  const { volts, sd } = refine(nodes.length, edges, best, fixed, anchored);
  // Only of pins on one scale can it be said that two solutions differ.
  const scaled = given.pins.flatMap((_, i) => (volts[i] != null && !Number.isNaN(volts[i]) ? [i] : []));
  const strange = unusual(best.volts, given);
  const rival =
    found.find((s) => s.charge === best.charge && differs(s, best, scaled)) ??
    // One misreading more, and levels as a connector has them: few readings cannot say which.
    found.find(
      (s) => s.charge <= best.charge + 1 && strange - unusual(s.volts, given) >= DOUBTFUL && differs(s, best, scaled),
    );
  const pins = given.pins.map((pin, i): Pin => {
    const v = volts[i]!;
    if (best.floating.includes(i)) {
      const because = 'its readings agree with nothing: not connected, or of high impedance';
      return { pin, volts: null, low: null, high: null, role: 'floating', because };
    }
    if (v === null || Number.isNaN(v)) {
      const because = edges.some((e) => e.a === i || e.b === i)
        ? 'nothing connects its readings to the others'
        : 'not read yet';
      return { pin, volts: null, low: null, high: null, role: 'unknown', because };
    }
    const half = 2 * (sd[i] ?? 0);
    const two = (x: number) => Math.round(x * 100) / 100;
    return { pin, volts: two(v), low: two(v - half), high: two(v + half), ...roleOf(v, half, given) };
  });
  for (const e of edges)
    if (best.outliers.includes(e.index))
      warnings.push(
        `Reading ${e.index + 1}, ${given.readings[e.index]!.red} to ${given.readings[e.index]!.black}: disagrees with all the others. Read it again.`,
      );
  const post = !rival && loneAnchor(given, edges, best, fixed);
  if (post)
    warnings.push(
      `Reading ${post.index + 1} alone ties all of them to the battery, and by it the levels are unusual: read another pin against battery negative.`,
    );
  if (rival)
    warnings.push(
      rival.charge === best.charge
        ? 'Another set of signs fits as well: take the next pair named.'
        : 'With one misreading the levels would be usual ones: take the next pair named.',
    );
  return {
    pins,
    outliers: [...best.outliers].sort((a, b) => a - b),
    ambiguous: rival !== undefined || post !== null,
    nextPair: post ? post.next : nextPair(given, edges, best, rival ?? null, pins, anchored),
    warnings,
  };
}

/** Usual levels by so much more, as a share of a misreading, make the one reading doubtful that stands against them. [house] */
const DOUBTFUL = 0.04;

/**
 * The only reading that ties the pins to the battery, where by it their levels are less usual than without it: whether it
 * was misread nothing can say but another one. Null where it is none of this.
 */
function loneAnchor(
  given: PinReadings,
  edges: readonly Edge[],
  best: Solution,
  fixed: ReadonlyMap<number, number>,
): { index: number; next: PinsResult['nextPair'] } | null {
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
  return { index: tie.index, next };
}

const onFloating = (e: Edge, floating: readonly number[]) => floating.includes(e.a) || floating.includes(e.b);

function differs(x: Solution, y: Solution, pins: readonly number[]): boolean {
  return pins.some((i) => x.volts[i] != null && y.volts[i] != null && Math.abs(x.volts[i]! - y.volts[i]!) > 0.5);
}

/** Solutions from the cheapest on: fewest misreadings and floating pins, then the most usual levels. */
function search(n: number, edges: readonly Edge[], fixed: ReadonlyMap<number, number>, given: PinReadings): Solution[] {
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
function unusual(volts: readonly (number | null)[], given: PinReadings): number {
  const own = given.pins.map((_, i) => volts[i]).filter((v): v is number => v != null);
  if (own.length === 0) return 0;
  const strange = own.filter((v) => v > REFERENCE.high && v < SUPPLY_LOW_V - 1).length;
  const below = own.filter((v) => v < -GROUND_V).length;
  const noGround = own.some((v) => Math.abs(v) <= GROUND_V) ? 0 : 1;
  const supplies = own.filter((v) => v >= SUPPLY_LOW_V).length;
  return Math.min(0.95, (0.5 * strange + 0.5 * below + 0.2 * noGround + 0.15 * Math.max(0, supplies - 1)) / own.length);
}

/** The same volts by weighted least squares over all readings that count, with their deviations. */
function refine(
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
function groupsOf(n: number, edges: readonly Edge[]): number[] {
  const group = Array.from({ length: n }, (_, i) => i);
  for (const e of edges) {
    const [x, y] = [group[e.a]!, group[e.b]!];
    if (x !== y) for (let i = 0; i < n; i++) if (group[i] === y) group[i] = x;
  }
  return group;
}

function roleOf(v: number, half: number, { batteryV, running }: PinReadings): { role: PinRole; because: string } {
  const shown = `${v.toFixed(2)} V`;
  if (Math.abs(v) <= GROUND_V + half / 2)
    return {
      role: 'ground',
      because:
        Math.abs(v) > 0.1 + half
          ? `${shown}: near battery negative, with a drop worth following`
          : `${shown}: at battery negative`,
    };
  if (v >= REFERENCE.low - half && v <= REFERENCE.high + half)
    return { role: 'reference', because: `${shown}: a reference or a pull-up stands near 5 V` };
  const most = batteryV === undefined ? (running ? SUPPLY_HIGH_V.running : SUPPLY_HIGH_V.off) : batteryV + 0.4;
  const least = batteryV === undefined ? SUPPLY_LOW_V : Math.min(SUPPLY_LOW_V, batteryV - 1);
  if (v >= least - half && v <= most + half)
    return {
      role: 'supply',
      because: `${shown}: at the battery's${batteryV === undefined ? '' : ` ${batteryV.toFixed(1)} V`}`,
    };
  if (v > 0 && v < REFERENCE.low)
    return {
      role: 'signal',
      because: `${shown}: between ground and reference. A frequency signal shows a meaningless average here`,
    };
  return {
    role: 'unknown',
    because:
      v < 0 ? `${shown}: below battery negative` : `${shown}: no usual level; a supply with a large drop shows this`,
  };
}

/** The pair whose reading would settle most; null when nothing would change. */
function nextPair(
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
  const outlier = best.outliers[0];
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

/** So many pins with usual levels say by themselves where the battery's negative is. [house] */
const LEVELS_CHECK = 3;

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
