import { describe, expect, test } from '@jest/globals';
import { quantumOf, TOOL_PROFILES, toolProfile } from '../src/capture/index.ts';
import { type BankReading, compareTrims, matchConditions, proofOf } from '../src/proof/index.ts';
import {
  againstBand,
  againstLimit,
  appliedCorrectionPct,
  classifyMixture,
  DEFAULT_LIMITS,
  displayedTotal,
  isPegged,
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
  test('another set of limits changes what is a finding', () => {
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
  const r = (at: BankReading['at'], totalPct: number, o: Partial<BankReading> = {}): BankReading => ({
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
  test('road speed, height, fuel that came in and air conditioning too, where both readings say', () => {
    const then = {
      at: 'road-load' as const,
      vssKmh: 82,
      baroKPa: 99,
      fuelPct: 40,
      airCon: false,
      recirculation: 'shut' as const,
    };
    const differing = (now: Parameters<typeof matchConditions>[1]) =>
      matchConditions(then, now).flatMap((c) => (c.matched ? [] : [c.quantity]));
    expect(differing({ ...then })).toEqual([]);
    expect(differing({ vssKmh: 96, baroKPa: 94, fuelPct: 71, airCon: true, recirculation: 'open' })).toEqual([
      'Road speed',
      'Air pressure',
      'Fuel in the tank',
      'Air conditioning',
      'Recirculation',
    ]);
    // Burnt is not refuelled; standing both times says nothing; what one reading lacks is not compared.
    expect(differing({ fuelPct: 12 })).toEqual([]);
    expect(matchConditions({ at: 'idle', vssKmh: 0 }, { vssKmh: 0 })).toEqual([]);
    expect(matchConditions(then, {})).toEqual([]);
  });
});

describe('limits at a tool’s steps', () => {
  test('within one step of a limit nothing is said; beyond it, its side', () => {
    expect(againstLimit(10.5, 10, 0.78125)).toBe('undecided');
    expect(againstLimit(9.3, 10, 0.78125)).toBe('undecided');
    expect(againstLimit(10.8, 10, 0.78125)).toBe('past');
    expect(againstLimit(9.2, 10, 0.78125)).toBe('inside');
    // A mean of many samples lies between the steps.
    expect(againstLimit(10.1, 10, 0)).toBe('past');
    expect(againstBand(24.4, 25, 45, 1)).toBe('undecided');
    expect(againstBand(23, 25, 45, 1)).toBe('past');
    expect(againstBand(47, 25, 45, 1)).toBe('past');
    expect(againstBand(30, 25, 45, 1)).toBe('inside');
  });

  test('a total read by eye: whole numbers leave ±10 and ±5 undecided', () => {
    const whole = quantumOf(toolProfile('reader-whole'), 'stft');
    expect(verdict(-10.5, DEFAULT_LIMITS, whole)).toBe('undecided');
    expect(verdict(4.5, DEFAULT_LIMITS, whole)).toBe('undecided');
    expect(verdict(7, DEFAULT_LIMITS, whole)).toBe('watch');
    expect(verdict(12, DEFAULT_LIMITS, whole)).toBe('act');
    expect(verdict(10.5, DEFAULT_LIMITS)).toBe('act');
  });

  test('every profile names its source, and no screen is finer than the wire', () => {
    for (const t of TOOL_PROFILES) {
      expect(t.source.length).toBeGreaterThan(5);
      expect(t.aloneHz).toBeGreaterThanOrEqual(t.manyHz);
      // SAE J1979 PIDs 06 to 09: 100/128 %.
      expect(quantumOf(t, 'stft')).toBeGreaterThanOrEqual(100 / 128);
      expect(quantumOf(t, 'map')).toBeGreaterThanOrEqual(1);
    }
    expect(quantumOf(undefined, 'stft1')).toBe(100 / 128);
    expect(quantumOf(undefined, 'nothing')).toBe(0);
  });
});
