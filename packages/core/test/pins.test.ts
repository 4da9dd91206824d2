import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { inverse, Matrix, SingularValueDecomposition, solve } from 'ml-matrix';
import { findPins, type PairReading, type PinReadings, settlingPairs } from '../src/electrical/index.ts';
import { leastSquares } from '../src/electrical/leastSquares.ts';

const PINS = ['1', '2', '3', '4', '5'];
/** Invented: supply, two grounds, reference, signal. */
const TRUTH: Readonly<Record<string, number>> = { '1': 12.4, '2': 0.04, '3': 0, '4': 5.02, '5': 1.35, 'battery-': 0 };

const read = (
  red: string,
  black: string,
  o: { signed?: boolean; off?: number; truth?: typeof TRUTH } = {},
): PairReading => {
  const truth = o.truth ?? TRUTH;
  const v = truth[red]! - truth[black]!;
  // Misread is what the meter shows: the sign is lost after it.
  const shown = (o.signed ? v : Math.abs(v)) + (o.off ?? 0);
  return { red, black, volts: Math.round(shown * 100) / 100, signed: o.signed ?? false };
};
const of = (readings: PairReading[], more: Partial<PinReadings> = {}) =>
  findPins({ pins: PINS, running: false, readings, ...more });
const rolesOf = (r: ReturnType<typeof of>) => r.pins.map((p) => p.role);
const RING = [
  ['1', '2'],
  ['1', '3'],
  ['4', '3'],
  ['4', '5'],
  ['5', '2'],
  ['1', '5'],
  ['1', '4'],
] as const;
const ring = RING.map(([a, b]) => read(a, b));

describe('the pins of a connector', () => {
  test('unsigned readings and one anchor: volts within their interval, two grounds, roles with reasons', () => {
    const r = of([...ring, read('3', 'battery-')], { batteryV: 12.5 });
    expect(rolesOf(r)).toEqual(['supply', 'ground', 'ground', 'reference', 'signal']);
    for (const p of r.pins) {
      expect(Math.abs(p.volts! - TRUTH[p.pin]!)).toBeLessThan(0.05);
      expect(p.low! <= TRUTH[p.pin]! && TRUTH[p.pin]! <= p.high!).toBe(true);
      expect(p.because).toMatch(/V/);
    }
    expect([r.outliers, r.ambiguous, r.warnings]).toEqual([[], false, []]);
  });

  test('two ways that say the same volts within half a volt are one; further apart they are two', () => {
    // One pin read twice, differently: which reading is right is open, and matters only where they lie apart.
    const twice = (apart: number) => {
      const two = [
        read('1', 'battery-', { signed: true }),
        read('5', 'battery-', { signed: true }),
        read('5', 'battery-', { signed: true, off: apart }),
      ];
      return findPins({ pins: ['1', '5'], running: false, readings: two });
    };
    expect([twice(0.4).ambiguous, twice(0.7).ambiguous]).toEqual([false, true]);
  });

  test('without an anchor the lowest pin is ground, with a warning; the next pair is the anchor', () => {
    const r = of(RING.map(([a, b]) => read(a, b, { signed: true })));
    expect(rolesOf(r)).toEqual(['supply', 'ground', 'ground', 'reference', 'signal']);
    expect(r.warnings.join(' ')).toMatch(/lowest pin is taken for ground/);
    expect(r.nextPair).toMatchObject({ black: 'battery-' });
    expect(r.ambiguous).toBe(false);
  });

  test('signs lost and no anchor: mirrored, it fits as well; said, and the pair named tells them apart', () => {
    const r = of(ring);
    expect(r.ambiguous).toBe(true);
    // The likelier of the two: one whose levels a connector has.
    expect(rolesOf(r)).toEqual(['supply', 'ground', 'ground', 'reference', 'signal']);
    const { red, black } = r.nextPair!;
    const after = of([...ring, read(red, black)]);
    expect(after.ambiguous).toBe(false);
    expect(rolesOf(after)).toEqual(rolesOf(r));
  });

  test('one gross misreading among enough others is found, and does not move the volts', () => {
    for (const [i] of ring.entries()) {
      const bad = ring.map((x, k) => (k === i ? { ...x, volts: x.volts + 2.7 } : x));
      const r = of([...bad, ...['3', '2', '1', '4'].map((p) => read(p, 'battery-'))]);
      expect([i, r.outliers, r.ambiguous]).toEqual([i, [i], false]);
      expect(rolesOf(r)).toEqual(['supply', 'ground', 'ground', 'reference', 'signal']);
      expect(r.nextPair).toMatchObject({ red: RING[i]![0], black: RING[i]![1] });
      expect(r.warnings.join(' ')).toMatch(/Read it again/);
      // Read again, it is asked for no more; the first figure stays out.
      const again = of([
        ...bad,
        ...['3', '2', '1', '4'].map((p) => read(p, 'battery-')),
        read(RING[i]![0], RING[i]![1]),
      ]);
      expect([again.outliers, again.nextPair]).toEqual([[i], null]);
      expect(again.warnings.join(' ')).toMatch(/read again since, and is left out/);
    }
  });

  test('a pin whose readings agree with nothing floats', () => {
    const mad = [
      { red: '1', black: '5', volts: 3.3, signed: false },
      { red: '4', black: '5', volts: 0.4, signed: false },
      { red: '5', black: 'battery-', volts: 2.2, signed: false },
    ];
    const r = of([read('1', '2'), read('1', '3'), read('4', '3'), read('1', '4'), read('3', 'battery-'), ...mad]);
    expect(rolesOf(r)).toEqual(['supply', 'ground', 'ground', 'reference', 'floating']);
    expect(r.pins[4]).toMatchObject({ volts: null, low: null, high: null });
    expect(r.outliers).toEqual([]);
  });

  test('what was not read, or hangs on nothing, is unknown and asked for', () => {
    const r = of([read('1', '3'), read('3', 'battery-'), read('4', '5')]);
    expect(rolesOf(r)).toEqual(['supply', 'unknown', 'ground', 'unknown', 'unknown']);
    expect(r.pins.map((p) => p.because)[3]).toBe('nothing connects its readings to the others');
    expect(r.nextPair!.black).toBe('battery-');
    expect(of([])).toMatchObject({ outliers: [], ambiguous: false, warnings: ['No reading yet.'] });
  });

  test('a running engine charges: its supply is one; a ground with a drop says so', () => {
    const truth = { ...TRUTH, '1': 14.2, '2': 0.22 };
    const all = [...RING, ['2', 'battery-'], ['3', 'battery-']].map(([a, b]) => read(a!, b!, { truth }));
    const r = of(all, { running: true });
    expect(rolesOf(r)[0]).toBe('supply');
    expect(r.pins[1]!.because).toMatch(/drop worth following/);
    expect(rolesOf(of(all, { running: false }))[0]).toBe('unknown');
  });

  test('any connector read all round and anchored comes back, its misreading found, whatever signs were lost', () => {
    const volts = fc.record({
      supply: fc.double({ min: 11.8, max: 13, noNaN: true }),
      ground: fc.double({ min: 0, max: 0.1, noNaN: true }),
      signal: fc.double({ min: 0.6, max: 4, noNaN: true }),
      bad: fc.option(fc.nat(12), { nil: null }),
      signed: fc.array(fc.boolean(), { minLength: 14, maxLength: 14 }),
    });
    fc.assert(
      fc.property(volts, ({ supply, ground, signal, bad, signed }) => {
        const truth = { '1': supply, '2': ground, '3': 0, '4': 5, '5': signal, 'battery-': 0 };
        const pairs = PINS.flatMap((a, i) => [...PINS.slice(i + 1), 'battery-'].map((b) => [a, b] as const));
        const readings = pairs.map(([a, b], i) =>
          read(a, b, { truth, signed: signed[i % 14]!, off: i === bad ? 3.1 : 0 }),
        );
        const r = of(readings);
        expect(r.outliers).toEqual(bad === null ? [] : [bad]);
        for (const p of r.pins) expect(Math.abs(p.volts! - truth[p.pin as '1'])).toBeLessThan(0.08);
      }),
      { numRuns: 60 },
    );
  });

  /** Random connectors of a running car, read as a hand reads: any order, signs lost, the meter's own error. */
  function* sets(seed: number, n: number, o: { anchored: boolean; misread: boolean }) {
    let x = seed * 7919;
    const rnd = () => {
      x = (x * 48_271) % 2_147_483_647;
      return x / 2_147_483_647;
    };
    const noise = () => rnd() + rnd() + rnd() - 1.5;
    for (let k = 0; k < n; k++) {
      const batteryV = 12 + 2.4 * rnd();
      const levels = [
        0.02 + 0.05 * rnd(),
        batteryV - 0.05 * rnd(),
        4.95 + 0.1 * rnd(),
        0.3 + 4.4 * rnd(),
        0.4 + 4 * rnd(),
      ];
      const shuffled = levels.map((v) => [rnd(), v] as const).sort(([a], [b]) => a - b);
      const truth: Record<string, number> = { 'battery-': 0 };
      for (const [i, pin] of PINS.entries()) truth[pin] = shuffled[i]![1];
      const pairs = PINS.flatMap((a, i) =>
        PINS.slice(i + 1).map((b) => (rnd() < 0.5 ? [a, b] : [b, a]) as [string, string]),
      );
      if (o.anchored) pairs.push([PINS[Math.floor(5 * rnd())]!, 'battery-']);
      const order = pairs.map((p) => [rnd(), p] as const).sort(([a], [b]) => a - b);
      const wrong = o.misread ? Math.floor(order.length * rnd()) : -1;
      const readings = order.map(([, [red, black]], i) => {
        const v = truth[red]! - truth[black]!;
        const shown = i === wrong ? Math.abs(v) + (rnd() < 0.5 ? -1 : 1) * (1 + 4 * rnd()) : v;
        const volts = Math.abs(Math.round(100 * (shown + noise() * (0.01 + 0.0025 * Math.abs(v)))) / 100);
        return { red, black, volts, signed: false };
      });
      yield { truth, batteryV, readings };
    }
  }
  const wrongPins = (r: ReturnType<typeof of>, truth: Record<string, number>) =>
    r.pins.filter((p) => p.volts !== null && Math.abs(p.volts - truth[p.pin]!) > 0.5);
  test.each([
    [{ anchored: true, misread: false }],
    [{ anchored: false, misread: false }],
    [{ anchored: true, misread: true }],
    [{ anchored: false, misread: true }],
  ])('however many of them are read, in any order: right, or it says what to read: %j', (o) => {
    let told = 0;
    for (const { truth, batteryV, readings } of sets(24, 25, o))
      for (let n = 3; n <= readings.length; n++) {
        const r = of(readings.slice(0, n), { batteryV, running: batteryV > 13.4 });
        if (r.ambiguous || r.nextPair) continue;
        told++;
        expect([readings.slice(0, n), wrongPins(r, truth)]).toEqual([readings.slice(0, n), []]);
      }
    // Without an anchor and a sign nothing can tell up from down; a misreading is asked for again.
    expect([o, told > 10]).toEqual([o, o.anchored && !o.misread]);
  });
  test('one reading that settles it is named alone; where nothing is open, or more are wanted, none', () => {
    const given = (...readings: PairReading[]) => ({ pins: PINS, running: false, batteryV: 12.5, readings });
    expect(settlingPairs(given(...ring, read('3', 'battery-')))).toBeNull();
    const four = ring.slice(0, 4);
    const first = { red: '2', black: 'battery-' };
    expect(settlingPairs(given(read('5', 'battery-'), ...four))).toEqual({ first, second: [] });
    const two = { first: { red: '2', black: '5' }, second: [{ red: '1', black: '5' }] };
    expect(settlingPairs(given(read('2', 'battery-'), ...four))).toEqual(two);
    expect(settlingPairs(given(...ring.slice(0, 2)))).toBeNull();
  });
  test('two readings that would settle it are named, and they do, where they show what one of the open ways says', () => {
    let [said, settled] = [0, 0];
    for (const o of [
      { anchored: false, misread: false },
      { anchored: true, misread: true },
    ])
      for (const { truth, batteryV, readings } of sets(31, 12, o))
        for (let n = 5; n <= readings.length; n++) {
          const given = { pins: PINS, batteryV, running: batteryV > 13.4, readings: readings.slice(0, n) };
          const s = settlingPairs(given);
          if (!s) continue;
          said++;
          const now = findPins(given).nextPair!;
          expect(s.first).toEqual({ red: now.red, black: now.black });
          const once = [...given.readings, read(s.first.red, s.first.black, { truth })];
          let r = findPins({ ...given, readings: once });
          if (r.nextPair) {
            const { red, black } = r.nextPair;
            if (!s.second.some((p) => p.red === red && p.black === black)) continue;
            r = findPins({ ...given, readings: [...once, read(red, black, { truth })] });
          }
          if (!r.ambiguous && !r.nextPair) {
            settled++;
            expect(wrongPins(r, truth)).toEqual([]);
          }
        }
    expect([said > 60, settled / said > 0.9]).toEqual([true, true]);
  });
  test('ten readings of a practised hand: another one more never turns over what the others say', () => {
    for (const { truth, batteryV, readings } of sets(7, 25, { anchored: false, misread: false })) {
      const r = of(readings, { batteryV, running: true });
      // Up and down cannot be told, and that is said; what is shown is the usual way up.
      expect([r.ambiguous, wrongPins(r, truth)]).toEqual([true, []]);
      expect(r.nextPair!.black).toBe('battery-');
    }
  });

  test('a great many pins hardly read end in reasonable time, as ambiguous', () => {
    const pins = Array.from({ length: 24 }, (_, i) => `p${i}`);
    const readings = pins.slice(1).map((p, i) => ({ red: p, black: pins[i]!, volts: 0.6, signed: false }));
    const r = findPins({ pins, running: false, readings });
    expect(r.ambiguous).toBe(true);
    expect(r.nextPair).not.toBeNull();
  });
});

describe('least squares', () => {
  // x + y = 3, x − y = 1, x = 2.2,
  // equal weights. Normal equations: 3x = 6.2, 2y = 2.
  test('an overdetermined system worked by hand, with its deviations', () => {
    const { value, sd } = leastSquares(2, [
      { row: [1, 1], right: 3, sd: 0.1 },
      { row: [1, -1], right: 1, sd: 0.1 },
      { row: [1, 0], right: 2.2, sd: 0.1 },
    ]);
    expect(value[0]!).toBeCloseTo(6.2 / 3, 12);
    expect(value[1]!).toBeCloseTo(1, 12);
    expect(sd[0]!).toBeCloseTo(0.1 / Math.sqrt(3), 12);
    expect(sd[1]!).toBeCloseTo(0.1 / Math.sqrt(2), 12);
  });

  test('an unknown that no equation determines is not made up', () => {
    const { value, sd } = leastSquares(2, [{ row: [1, 0], right: 5, sd: 1 }]);
    expect([value[0], value[1], sd[1]]).toEqual([5, Number.NaN, Number.NaN]);
  });
});

describe('least squares against an independent linear-algebra package (ml-matrix)', () => {
  test('random weighted systems: the same solution and the same deviations', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: 1, max: 6 }).chain((n) =>
          fc.record({
            n: fc.constant(n),
            rows: fc.array(
              fc.record({
                row: fc.array(fc.double({ min: -2, max: 2, noNaN: true }), { minLength: n, maxLength: n }),
                right: fc.double({ min: -15, max: 15, noNaN: true }),
                sd: fc.double({ min: 0.02, max: 1, noNaN: true }),
              }),
              { minLength: n, maxLength: 14 },
            ),
          }),
        ),
        ({ n, rows }) => {
          const a = new Matrix(rows.map((r) => r.row.map((v) => v / r.sd)));
          // What is nearly undetermined differs by how it is rounded.
          const svd = new SingularValueDecomposition(a);
          fc.pre(svd.condition < 1e4 && Math.min(...svd.diagonal) > 0.05);
          const b = Matrix.columnVector(rows.map((r) => r.right / r.sd));
          const theirs = solve(a, b, true).to1DArray();
          const covariance = inverse(a.transpose().mmul(a));
          const ours = leastSquares(n, rows);
          for (let i = 0; i < n; i++) {
            const scale = 1 + Math.abs(theirs[i]!);
            expect(Math.abs(ours.value[i]! - theirs[i]!) / scale).toBeLessThan(1e-6);
            expect(ours.sd[i]! / Math.sqrt(covariance.get(i, i))).toBeCloseTo(1, 5);
          }
        },
      ),
      { numRuns: 300 },
    );
  });
});
