import { describe, expect, test } from '@jest/globals';
import type { Case, VehicleSpec } from '../src/case/index.ts';
import type { Shape } from '../src/catalogue/index.ts';
import { type Diagnosis, diagnose, headOf, judgement, predict } from '../src/diagnosis/index.ts';
import { displayedTotal } from '../src/trims/index.ts';
import { caseOf, FOUR, reading, SIX } from './cases.ts';

/**
 * Rules of thumb of the trade (common practice, no source): what leads, or shares most of the weight, for a shape of
 * the trims. Figures of our own.
 */
const SD: VehicleSpec = { ...FOUR, metering: 'speed-density' };
const LEAKS = ['vac-leak', 'crankcase-leak', 'egr-gasket-leak', 'purge-open', 'vac-leak-bank1'];
const pressed = (rpm: number, mapKPa: number) => ({ rpm, mapKPa, iatC: 30 });

const RULES: { rule: string; c: Case; among: string[]; share: number; mixture?: string }[] = [
  {
    rule: 'lean at idle, fading: air after the metering point',
    c: caseOf(FOUR, [reading('idle', 2.4, 17), reading('hold-2500', 8.6, 5)]),
    among: LEAKS,
    share: 0.85,
    mixture: 'lean',
  },
  {
    rule: 'the same with uneven banks: a runner',
    c: caseOf(SIX, [reading('idle', 3.6, 3, 22), reading('hold-2500', 12.5, 1, 7)]),
    among: ['vac-leak-bank2'],
    share: 0.5,
    mixture: 'lean',
  },
  {
    rule: 'right at idle, worse with load: delivery, or a sensor that under-reads at high flow',
    c: caseOf(FOUR, [reading('idle', 2.6, 1), reading('hold-2500', 9, 9), reading('road-load', 18, 17)]),
    among: ['fuel-low', 'maf-dirty'],
    share: 0.85,
    mixture: 'lean',
  },
  {
    rule: 'lean everywhere by about the same share: sensor, duct, rail pressure, ethanol, sensor biased',
    c: caseOf(FOUR, [reading('idle', 2.3, 13), reading('hold-2500', 8, 13.5), reading('road-load', 17, 12.5)]),
    among: ['maf-under', 'duct-leak', 'fuel-low', 'ethanol-high', 'o2-biased-lean', 'injector-restricted'],
    share: 0.85,
    mixture: 'lean',
  },
  {
    rule: 'one bank falsely lean, fading slowly: an exhaust leak ahead of the sensor',
    c: caseOf(SIX, [reading('idle', 3.6, 16, 1), reading('hold-2500', 12.5, 7, 0.5), reading('road-load', 26, 4, 0)]),
    among: ['exhaust-leak', 'misfire-ignition', 'vac-leak-bank1', 'secondary-air'],
    share: 0.8,
    mixture: 'lean',
  },
  {
    rule: 'rich at idle, fading: fuel at a constant rate',
    c: caseOf(FOUR, [reading('idle', 2.6, -15), reading('hold-2500', 9, -4.5)]),
    among: ['injector-leaking', 'purge-open', 'fuel-in-oil', 'regulator-diaphragm'],
    share: 0.8,
    mixture: 'rich',
  },
  {
    rule: 'rich everywhere: sensor over, pressure high, sensor biased rich',
    c: caseOf(FOUR, [reading('idle', 3, -12), reading('hold-2500', 10, -12), reading('road-load', 20, -12.5)]),
    among: ['maf-over', 'fuel-high', 'o2-biased-rich', 'maf-installation'],
    share: 0.8,
    mixture: 'rich',
  },
  {
    rule: 'rich at idle, lean under load: a skewed hot wire',
    c: caseOf(FOUR, [reading('idle', 2.9, -8), reading('hold-2500', 8.4, 4), reading('road-load', 16, 14)]),
    among: ['maf-dirty'],
    share: 0.8,
    mixture: 'crossing',
  },
  {
    rule: 'one bank only: its injectors, sensor, exhaust, spark',
    c: caseOf(SIX, [reading('idle', 3.6, 12, 0.5), reading('hold-2500', 12.5, 12.5, 0)]),
    among: ['injector-restricted', 'o2-biased-lean', 'misfire-ignition', 'exhaust-leak'],
    share: 0.85,
    mixture: 'lean',
  },
  {
    rule: 'a metered V engine with one restricted exhaust splits in opposite directions',
    c: caseOf(SIX, [
      reading('idle', 3.6, -7, 6),
      reading('hold-2500', 12.5, -12, 11),
      reading('road-load', 26, -15, 15),
    ]),
    among: ['exhaust-restricted'],
    share: 0.8,
    mixture: 'split',
  },
  {
    rule: 'speed-density: a pressure sensor reading high is rich, most at idle',
    c: caseOf(SD, [
      { ...reading('idle', 0, -17, undefined, pressed(720, 36)), mafGps: undefined },
      { ...reading('road-load', 0, -8, undefined, pressed(2300, 66)), mafGps: undefined },
    ]),
    among: ['map-bias', 'map-hose-split', 'egr-stuck-open', 'injector-leaking', 'fuel-in-oil', 'purge-open'],
    share: 0.7,
    mixture: 'rich',
  },
  {
    rule: 'speed-density: an air leak raises idle speed and pressure, trims stay near normal',
    c: caseOf(SD, [{ ...reading('idle', 0, 1.5, undefined, pressed(1080, 47)), mafGps: undefined }]),
    among: [...LEAKS, 'pcv-stuck-open'],
    share: 0.6,
    mixture: 'balanced',
  },
  {
    rule: 'full load: airflow low and lean is the airflow sensor or its duct',
    c: caseOf(FOUR, [
      reading('idle', 2.4, 12),
      { at: 'full-load', rpm: 5000, mafGps: 68, lambda: { bank1: 1.04 }, loop: 'open' },
    ]),
    among: ['maf-under', 'duct-leak', 'maf-dirty', 'maf-installation', 'maf-damaged'],
    share: 0.6,
  },
  {
    rule: 'full load: airflow low and mixture as it should be is a restriction',
    c: caseOf(FOUR, [
      reading('idle', 2.6, 0.5),
      reading('hold-2500', 9, 0),
      { at: 'full-load', rpm: 5000, mafGps: 62, lambda: { bank1: 0.87 }, loop: 'open' },
    ]),
    among: ['air-filter', 'exhaust-restricted', 'compression-timing'],
    share: 0.7,
  },
  {
    rule: 'full load: airflow right and lean is delivery',
    c: caseOf(FOUR, [
      reading('idle', 2.6, 1),
      reading('hold-2500', 9, 6),
      { at: 'full-load', rpm: 5000, mafGps: 89, lambda: { bank1: 1.06 }, loop: 'open' },
    ]),
    among: ['fuel-low'],
    share: 0.6,
  },
  {
    rule: 'misfire sends oxygen: one bank falsely lean, with its code',
    c: caseOf(SIX, [reading('idle', 3.6, 11, 0.5), reading('hold-2500', 12.5, 9, 0)], {
      codes: [{ code: 'P0300', state: 'stored' }],
      complaints: ['misfire-felt'],
    }),
    among: ['misfire-ignition'],
    share: 0.5,
  },
];

describe('rules of thumb (common practice, no source)', () => {
  test.each(RULES.map((r) => [r.rule, r] as const))('%s', (_, r) => {
    const d = diagnose(r.c);
    const share = d.causes.filter((c) => r.among.includes(c.fault)).reduce((s, c) => s + c.probability, 0);
    expect({ first: d.causes[0]!.fault, share }).toEqual({
      first: expect.stringMatching(new RegExp(`^(${r.among.join('|')})$`)),
      share: expect.any(Number),
    });
    expect(share).toBeGreaterThan(r.share);
    if (r.mixture) expect(d.mixture).toBe(r.mixture);
  });

  const turbo: VehicleSpec = { ...FOUR, induction: 'turbo' };
  const ev = judgement(caseOf(turbo, [reading('idle', 2.5, 0, undefined, { mapKPa: 32 })])).evidence;
  const trim = (shape: Shape, size: number, airflowGps: number, mapKPa: number, e = ev) =>
    predict(shape, size, 1, { airflowGps, mapKPa, iatC: 40 }, e).trimPct[0];
  test.each<[string, Shape, number, (idle: number, boost: number) => boolean]>([
    ['ahead of the compressor: lean everywhere', { kind: 'meter', sign: -1 }, 12, (i, b) => i > 8 && b > 8],
    [
      'between compressor and throttle: right at idle, rich under boost',
      { kind: 'boostLoss' },
      10,
      (i, b) => i === 0 && b < -5,
    ],
    ['after the throttle: lean under vacuum, rich under boost', { kind: 'leak' }, 0.3, (i, b) => i > 8 && b < 0],
  ])('turbo, metered: a leak %s', (_, shape, size, holds) => {
    expect(holds(trim(shape, size, 2.5, 32), trim(shape, size, 60, 170))).toBe(true);
  });
  test('turbo, speed-density: a leak after the compressor leaves the trims near normal', () => {
    const sd = judgement(caseOf({ ...turbo, metering: 'speed-density' }, [{ at: 'idle', mapKPa: 32 }])).evidence;
    expect(trim({ kind: 'boostLoss' }, 15, 60, 170, sd)).toBe(0);
  });
  test('after a repair the memory lags: short −8 with long +13 is a total of +5', () => {
    expect(displayedTotal({ stft: -8, ltft: 13 })).toBe(5);
  });
});

describe('the trims in one line', () => {
  const head = (mixture: Diagnosis['mixture'], banks: (1 | 2)[], words: string[], of: 1 | 2 = 1) => {
    const { word, rest } = headOf({ mixture, banks, shape: words.map((w, i) => ({ bank: banks[i]!, word: w })) }, of);
    return `${word}${rest}`;
  };
  test.each([
    ['Lean, most at low airflow', head('lean', [1], ['fades'])],
    ['Rich, more so with airflow', head('rich', [1], ['grows'])],
    ['Lean on bank 2, by the same share at every airflow', head('lean', [2], ['flat'], 2)],
    ['Lean on both banks, with no single shape', head('lean', [1, 2], ['turns', 'turns'], 2)],
    // Each bank goes its own way: then no way is said.
    ['Lean on both banks', head('lean', [1, 2], ['fades', 'grows'], 2)],
    ['Lean, at the one point read', head('lean', [1], ['one point'])],
    ['Rich and lean over its range', head('crossing', [1], ['crosses'])],
    ['One bank lean, one rich', head('split', [1, 2], ['flat', 'flat'], 2)],
    ['In balance', head('balanced', [], [])],
    ['No closed-loop trims', head('undetermined', [], [])],
  ])('%s', (said, is) => expect(is).toBe(said));
});
