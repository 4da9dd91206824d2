import { DOUBTFUL, loneAnchor, nextPair, readAgain } from './nextPair.ts';
import {
  BATTERY_NEGATIVE,
  BATTERY_POSITIVE,
  GROUND_V,
  type Pin,
  type PinReadings,
  type PinRole,
  type PinsResult,
  REFERENCE,
  SUPPLY_HIGH_V,
  SUPPLY_LOW_V,
} from './readings.ts';
import { type Edge, onFloating, READING_SD, refine, type Solution, search, unusual } from './solve.ts';

/**
 * Voltages of a connector's pins from readings between pairs of them: signs searched where they were not written down,
 * misreadings and floating pins found, then weighted least squares. Readings give differences only; one against a battery
 * post anchors them, else the lowest pin is taken for ground. Never throws on readings between known pins.
 */
export const findPins = (given: PinReadings): PinsResult => solved(given).result;

/** What `findPins` says, and each set of volts, V by node, that cannot be told from it by what was read; its own first. */
export function solved(given: PinReadings): { result: PinsResult; ways: (number | null)[][] } {
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
        `Reading ${e.index + 1}, ${given.readings[e.index]!.red} to ${given.readings[e.index]!.black}: disagrees with all the others. ${readAgain(e.index, given, best.outliers) ? 'It was read again since, and is left out.' : 'Read it again.'}`,
      );
  const post = rival ? null : loneAnchor(given, edges, best, fixed);
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
    result: {
      pins,
      outliers: [...best.outliers].sort((a, b) => a - b),
      ambiguous: rival !== undefined || post !== null,
      nextPair: post ? post.next : nextPair(given, edges, best, rival ?? null, pins, anchored),
      warnings,
    },
    ways: [best.volts, ...(rival ? [rival.volts] : post ? [post.without] : [])],
  };
}

/** Whether two solutions say other volts of any of these pins. */
function differs(x: Solution, y: Solution, pins: readonly number[]): boolean {
  return pins.some((i) => x.volts[i] != null && y.volts[i] != null && Math.abs(x.volts[i]! - y.volts[i]!) > 0.5);
}

/** What a pin may be for by its volts, and why. */
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
