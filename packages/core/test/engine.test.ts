import { describe, expect, test } from '@jest/globals';
import {
  absoluteLoad,
  airPerStrokeMg,
  blendAfr,
  blendDensity,
  engineAirflowGps,
  ethanolTrimPct,
  partLoadVe,
  pressureTrimPct,
  speedDensityGps,
} from '../src/engine/index.ts';
import { airDensity } from '../src/gas/index.ts';

describe('engine airflow (Heywood ch. 2, from memory)', () => {
  test('2.0 L, 6,000 rpm, VE 0.85, 1.184 kg/m³: 100.6 g/s', () => {
    expect(engineAirflowGps(0.85, 1.184, 2, 6000)).toBeCloseTo(100.64, 2);
  });
  test('speed-density is the same with manifold density', () => {
    expect(speedDensityGps(0.7, 33, 40, 2, 800)).toBeCloseTo(engineAirflowGps(0.7, airDensity(33, 40), 2, 800), 12);
  });
  test('residual gas costs efficiency at low pressure', () => {
    expect(partLoadVe(30, 101)).toBeLessThan(partLoadVe(80, 101));
    expect(partLoadVe(101, 101)).toBeLessThanOrEqual(0.92);
  });
});

test('absolute load of full cylinders at 1.184 g/L is 1 (SAE J1979 definition)', () => {
  expect(absoluteLoad(engineAirflowGps(1, 1.184, 2, 3000), 3000, 2)).toBeCloseTo(1, 12);
  expect(absoluteLoad(5, 0, 2)).toBeNaN();
  // 24 g/s at 1,200 rpm in four cylinders: 40 intake strokes a second, 600 mg each.
  expect(airPerStrokeMg(24, 1200, 4)).toBeCloseTo(600, 9);
  expect(airPerStrokeMg(24, 0, 4)).toBeNaN();
});

test('80 % of the pressure difference is 0.894 of the fuel: +11.8 % (Bernoulli)', () => {
  expect(pressureTrimPct(0.8)).toBeCloseTo(11.8, 1);
  expect(1 / (1 + pressureTrimPct(0.8) / 100)).toBeCloseTo(0.894, 3);
  expect(pressureTrimPct(1)).toBe(0);
  expect(pressureTrimPct(0)).toBe(Number.POSITIVE_INFINITY);
  expect(pressureTrimPct(Number.NaN)).toBe(Number.POSITIVE_INFINITY);
});

describe('ethanol (common practice, no source)', () => {
  test('stoichiometric ratio: petrol 14.7, E10 14.1, E85 9.8, ethanol 9.0', () => {
    expect(blendAfr(0)).toBe(14.7);
    expect(blendAfr(10)).toBeCloseTo(14.1, 1);
    expect(blendAfr(85)).toBeCloseTo(9.8, 1);
    expect(blendAfr(100)).toBe(9);
  });
  test('density runs between the two', () => {
    expect(blendDensity(0)).toBe(0.745);
    expect(blendDensity(100)).toBe(0.789);
  });
  test.each([
    [20, 4, 0.6],
    [30, 8.5, 0.6],
    [85, 41, 1],
  ])('E%d on E10 calibration asks for about +%d %%', (pct, want, tolerance) => {
    expect(Math.abs(ethanolTrimPct(pct, 10) - want)).toBeLessThan(tolerance);
  });
  test('the fuel it was calibrated for asks for nothing', () => expect(ethanolTrimPct(10, 10)).toBe(0));
});
