import { describe, expect, test } from '@jest/globals';
import { CALCULATORS } from '../src/calculators/index.ts';
import { judgement } from '../src/diagnosis/index.ts';
import { metricOf, shown, wordsOf } from '../src/units/index.ts';
import { caseOf, FOUR, reading, SIX } from './cases.ts';

/** A calculator's results by label. */
function results(id: string, v: Record<string, number>): Record<string, number> {
  const calculator = CALCULATORS.find((c) => c.id === id)!;
  expect(Object.keys(v).sort()).toEqual(calculator.fields.map((f) => f.key).sort());
  return Object.fromEntries(calculator.compute(v).map((r) => [r.label, r.value]));
}

describe('calculators against textbook values', () => {
  test('a leak: 18 % of 2.5 g/s, its hole, and the trim it makes at the raised speed', () => {
    const r = results('leak', {
      trimPct: 18,
      airflowGps: 2.5,
      mapKPa: 33,
      baroKPa: 101.325,
      raisedGps: 9,
      raisedKPa: 30,
    });
    expect(r['Air past the meter']).toBeCloseTo(0.45, 9);
    // 1 mm² at sea level, 25 °C, choked, C_d 1: 0.237 g/s (Heywood app. C, from memory): 0.45 g/s at C_d 0.7 is 2.71 mm².
    expect(r['As a round hole']).toBeCloseTo(Math.sqrt((4 * 2.71) / Math.PI), 1);
    expect(r['At least']).toBeLessThan(r['As a round hole']!);
    expect(r['At most']).toBeGreaterThan(r['As a round hole']!);
    // Choked at both: in inverse proportion to the flow.
    expect(r['Trim it must make at the raised speed']).toBeCloseTo(5, 6);
  });
  test('airflow: 2.0 L at 6,000 rpm and 1.184 kg/m³ takes 100.6 g/s at VE 0.85 (Heywood ch. 2)', () => {
    const r = results('airflow', { displacementL: 2, rpm: 6000, mapKPa: 101.325, chargeC: 25, airflowGps: 100.6 });
    expect(r['Volumetric efficiency']).toBeCloseTo(85, 0);
    expect(r['Airflow at 105 %']! / r['Airflow at 75 %']!).toBeCloseTo(1.4, 9);
  });
  test('altitude: 84.56 kPa at 1,500 m, 75.26 at 2,438.4 m (US Standard Atmosphere 1976), and back', () => {
    expect(results('altitude', { altitudeM: 1500, vacuumKPa: 50 })).toMatchObject({
      'Station pressure': expect.closeTo(84.56, 2),
      'Manifold, absolute': expect.closeTo(34.56, 2),
    });
    expect(results('altitude', { altitudeM: 2438.4, vacuumKPa: 0 })['Station pressure']).toBeCloseTo(75.26, 2);
    expect(results('station', { baroKPa: 84.56 }).Elevation).toBeCloseTo(1500, 0);
  });
  test('injector: 80 % of the pressure is 89.4 % of the fuel and +11.8 % (Bernoulli)', () => {
    const r = results('injector', { shouldKPa: 400, isKPa: 320 });
    expect(r['Fuel delivered']).toBeCloseTo(89.4, 1);
    expect(r['Trim that asks for']).toBeCloseTo(11.8, 1);
  });
  test('ethanol on a calibration for 10 %: 20 % about +4, 30 % about +8.5, 85 % about +41 (common practice, no source)', () => {
    const trim = (pct: number) => results('ethanol', { pct, calibratedPct: 10 })['Total trim']!;
    expect(trim(10)).toBeCloseTo(0, 9);
    expect(Math.abs(trim(20) - 4)).toBeLessThan(0.5);
    expect(Math.abs(trim(30) - 8.5)).toBeLessThan(0.5);
    expect(Math.abs(trim(85) - 41)).toBeLessThan(1.5);
  });
  test('load by the definitions of SAE J1979 (from memory)', () => {
    // 0.592 g per stroke on 0.5 L: 1.184 g/L, a full load.
    const r = results('load', {
      airflowGps: 59.2,
      rpm: 3000,
      displacementL: 2,
      peakGps: 100,
      baroKPa: 101.325,
      airC: 24.85,
    });
    expect(r['Absolute load']).toBeCloseTo(100, 6);
    expect(r['Calculated load']).toBeCloseTo(59.2, 2);
  });
  test('λ: 14.7 for petrol, 9.0 for ethanol; below 1 is rich', () => {
    expect(results('lambda', { lambda: 1, pct: 0 })['Air/fuel ratio by mass']).toBeCloseTo(14.7, 9);
    expect(results('lambda', { lambda: 1, pct: 100 }).Stoichiometric).toBeCloseTo(9, 9);
    expect(results('lambda', { lambda: 0.8, pct: 0 })).toMatchObject({ 'Equivalence ratio': 1.25 });
    expect(results('lambda', { lambda: 0.8, pct: 0 })['Fuel missing']).toBeCloseTo(-20, 9);
  });
  test('a field takes what there is on earth and in engines, and nothing beyond (common practice; air by WMO records)', () => {
    // WMO: −89 and 57 °C have been measured, cars start to about −40; 108.5 kPa is the highest pressure at sea level, 50 is at 5,500 m.
    const there: Record<string, { fits: number[]; never: number[] }> = {
      baroKPa: { fits: [50, 66, 101.3, 108.5], never: [30, 150] },
      airC: { fits: [-40, 0, 50, 57], never: [-100, 90] },
      pct: { fits: [0, 10, 85, 100], never: [-1, 101] },
      calibratedPct: { fits: [0, 10, 100], never: [-1, 101] },
      rpm: { fits: [500, 700, 6500], never: [0, 40_000] },
      displacementL: { fits: [0.6, 2, 8], never: [0, 50] },
    };
    for (const c of CALCULATORS)
      for (const f of c.fields) {
        const { fits = [], never = [] } = there[f.key] ?? {};
        for (const v of fits) expect([c.id, f.key, v, v >= f.low && v <= f.high]).toEqual([c.id, f.key, v, true]);
        for (const v of never) expect([c.id, f.key, v, v >= f.low && v <= f.high]).toEqual([c.id, f.key, v, false]);
      }
  });
  test('every row names its formula and source, and its fields have a range', () => {
    for (const c of CALCULATORS) {
      expect(wordsOf(c.how, 'own').length).toBeGreaterThan(10);
      expect(c.source.length).toBeGreaterThan(3);
      for (const f of c.fields) expect(f.low).toBeLessThan(f.high);
    }
  });
});

test('what a person types in US units comes back metric', () => {
  for (const [unit, role] of [
    ['kPa', undefined],
    ['kPa', 'fuel'],
    ['°C', undefined],
    ['g/s', undefined],
    ['rpm', undefined],
  ] as const) {
    const s = shown(42, unit, 3, 'us', role);
    expect(metricOf(s.value, unit, 'us', role)).toBeCloseTo(42, 9);
  }
  expect(metricOf(10, 'kPa', 'metric')).toBe(10);
});

describe('what if', () => {
  const c = caseOf(FOUR, [reading('idle', 2.5, 2), reading('hold-2500', 9, 1)]);
  test('a leak of a given size: the trims in inverse proportion to the flow', () => {
    const r = judgement(c).whatIf('vac-leak').read(0.45);
    expect(r.map((p) => p.at)).toEqual(['idle', 'hold-2500']);
    expect(r[0]!.trimPct[0]).toBeCloseTo(18, 6);
    expect(r[0]!.trimPct[0] / r[1]!.trimPct[0]).toBeCloseTo(3.6, 1);
    expect(r[0]!.airflowRatio).toBeCloseTo(2.5 / 2.95, 6);
  });
  test('on the bank asked for, in the fault’s own unit, and nothing for a fault that cannot exist', () => {
    const six = caseOf(SIX, [reading('idle', 3.6, 0, 0)]);
    const [idle] = judgement(six).whatIf('injector-restricted').read(20, 2);
    expect(idle!.trimPct[0]).toBe(0);
    expect(idle!.trimPct[1]).toBeCloseTo(25, 6);
    expect(judgement(six).whatIf('fuel-low').sizes).toMatchObject({ unit: 'kPa' });
    expect(judgement(six).whatIf('o2-slow').sizes).toBeNull();
    expect(judgement(six).whatIf('boost-leak').read(10)).toEqual([]);
  });
});
