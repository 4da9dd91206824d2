import { describe, expect, test } from '@jest/globals';
import {
  appliedCorrectionPct,
  type BankReading,
  classifyMixture,
  compareTrims,
  displayedTotal,
  isPegged,
  matchConditions,
  proofOf,
  shapeWord,
  verdict,
} from '../src/trims/index.ts';

const LIMITS = { watchPct: 5, actPct: 10 };

describe('totals', () => {
  test('shown as the sum, applied as the product (derived)', () => {
    expect(displayedTotal({ stft: 8, ltft: 12 })).toBe(20);
    expect(appliedCorrectionPct(10, 10)).toBeCloseTo(21, 9);
    expect(displayedTotal({ ltft: -4 })).toBe(-4);
    expect(displayedTotal({})).toBeUndefined();
  });
  test('a total on its way down after a repair: short −8 with long +13 is +5 (common practice)', () => {
    expect(displayedTotal({ stft: -8, ltft: 13 })).toBe(5);
  });
  test('at the limit of authority', () => {
    expect(isPegged({ stft: 2, ltft: 25 })).toBe(true);
    expect(isPegged({ stft: -24.7, ltft: 0 })).toBe(true);
    expect(isPegged({ stft: 12, ltft: 14 })).toBe(false);
  });
  test('called by the limits in force', () => {
    expect([4, -5, 7, -10, 10.1].map((t) => verdict(t, LIMITS))).toEqual(['normal', 'normal', 'watch', 'watch', 'act']);
    expect(verdict(9, { watchPct: 5, actPct: 8 })).toBe('act');
  });
});

describe('what the mixture is called (CONTRACT)', () => {
  const point = (at: string, airflowGps: number, b1?: number, b2?: number) => ({
    at,
    airflowGps,
    totals: [
      ...(b1 === undefined ? [] : [{ bank: 1 as const, totalPct: b1 }]),
      ...(b2 === undefined ? [] : [{ bank: 2 as const, totalPct: b2 }]),
    ],
  });
  test.each([
    ['past the act limit once', [point('idle', 2, 12), point('hold-2500', 8, 3)], 'lean', [1]],
    ['past the watch limit twice, same sign', [point('idle', 2, 6), point('hold-2500', 8, 7)], 'lean', [1]],
    ['past the watch limit once only', [point('idle', 2, 7), point('hold-2500', 8, 1)], 'balanced', []],
    ['twice but opposite signs', [point('idle', 2, 6), point('hold-2500', 8, -6)], 'balanced', []],
    ['rich', [point('idle', 2, -13), point('hold-2500', 8, -4)], 'rich', [1]],
    ['an off bank at −5 and +5', [point('idle', 2, -6), point('road-load', 20, 14)], 'crossing', [1]],
    ['banks off in opposite directions', [point('idle', 3, 11, -12)], 'split', [1, 2]],
    ['bank 2 only', [point('idle', 3, 1, 14)], 'lean', [2]],
    ['no trims', [point('idle', 3)], 'undetermined', []],
  ])('%s', (_, points, mixture, banks) => {
    expect(classifyMixture(points, LIMITS)).toEqual({ mixture, banks });
  });
  test('a school of limits changes what is a finding', () => {
    const p = [point('idle', 2, 9)];
    expect(classifyMixture(p, LIMITS).mixture).toBe('balanced');
    expect(classifyMixture(p, { watchPct: 5, actPct: 8 }).mixture).toBe('lean');
  });
});

test('the shape in a word', () => {
  const s = (...t: number[]) => shapeWord(t.map((totalPct, i) => ({ airflowGps: i + 1, totalPct })));
  expect(s(18, 4)).toBe('fades');
  expect(s(1, 14)).toBe('grows');
  expect(s(9, 10)).toBe('flat');
  expect(s(-7, 12)).toBe('crosses');
  expect(s(3)).toBe('one point');
});

describe('before and after', () => {
  const r = (at: string, totalPct: number, o: Partial<BankReading> = {}): BankReading => ({
    at,
    bank: 1,
    totalPct,
    sd: 1,
    n: 100,
    ...o,
  });
  test('better, worse, no change: only past the uncertainty of both means', () => {
    const before = [r('idle', 18), r('hold-2500', 2), r('road-load', 3)];
    const after = [r('idle', 1), r('hold-2500', 6), r('road-load', 2.6)];
    expect(compareTrims(before, after).map((c) => c.verdict)).toEqual(['better', 'worse', 'no change']);
  });
  test('a change of sign is not an improvement by itself', () => {
    expect(compareTrims([r('idle', 12)], [r('idle', -12)])[0]).toMatchObject({ verdict: 'no change', changePct: -24 });
  });
  test('few samples widen the uncertainty', () => {
    const wide = compareTrims([r('idle', 8, { n: 1, sd: 3 })], [r('idle', 5, { n: 1, sd: 3 })])[0]!;
    expect(wide.uncertaintyPct).toBeGreaterThan(8);
    expect(wide.verdict).toBe('no change');
  });
  test('proven needs every point in band and none worse', () => {
    const b = [r('idle', 18), r('hold-2500', 5)];
    expect(proofOf(compareTrims(b, [r('idle', 1), r('hold-2500', 0)]))).toBe('proven');
    expect(proofOf(compareTrims(b, [r('idle', 9), r('hold-2500', 3)]))).toBe('better, not proven');
    expect(proofOf(compareTrims(b, [r('idle', 18), r('hold-2500', 5.2)]))).toBe('not proven');
    expect(proofOf([])).toBe('nothing to compare');
  });
  test('conditions are compared, not assumed', () => {
    const m = matchConditions({ at: 'idle', ectC: 90, rpm: 700, iatC: 30 }, { ectC: 79, rpm: 720, iatC: 33 });
    expect(m.map((c) => [c.quantity, c.matched])).toEqual([
      ['Coolant', false],
      ['Engine speed', true],
      ['Intake air', true],
    ]);
  });
});
