import { describe, expect, test } from '@jest/globals';
import psychrolib from 'psychrolib';
import {
  airDensity,
  altitudeAtPressureM,
  criticalPressureRatio,
  holeForFlow,
  orificeFlowGps,
  pressureAtAltitudeKPa,
  relativeFlow,
} from '../src/gas/index.ts';

/** Geopotential altitude m → pressure Pa: US Standard Atmosphere 1976, table I (from memory of the published table). */
const STANDARD_ATMOSPHERE = [
  [0, 101_325],
  [1000, 89_874.6],
  [2000, 79_495.2],
  [3000, 70_108.5],
  [5000, 54_019.9],
  [8000, 35_599.8],
  [11_000, 22_632.1],
] as const;

describe('standard atmosphere', () => {
  test.each(STANDARD_ATMOSPHERE)('%d m is %d Pa, within 1e-4', (m, pa) => {
    expect(Math.abs((pressureAtAltitudeKPa(m) * 1000) / pa - 1)).toBeLessThan(1e-4);
  });
  // Handbook examples.
  test('1,500 m is 84.56 kPa; 2,438.4 m is 75.26 kPa', () => {
    expect(pressureAtAltitudeKPa(1500)).toBeCloseTo(84.56, 2);
    expect(pressureAtAltitudeKPa(2438.4)).toBeCloseTo(75.26, 2);
  });
  // psychrolib follows ASHRAE Fundamentals 2017, ch. 1, eq. 3: an independent implementation of the same standard.
  test.each([0, 90, 500, 1500, 2438.4, 4000])('%d m agrees with psychrolib within 1e-4', (m) => {
    psychrolib.SetUnitSystem(psychrolib.SI);
    expect(Math.abs((pressureAtAltitudeKPa(m) * 1000) / psychrolib.GetStandardAtmPressure(m) - 1)).toBeLessThan(1e-4);
  });
  test('outside the troposphere there is no answer', () => {
    for (const m of [12_000, -2000, Number.NaN]) expect(pressureAtAltitudeKPa(m)).toBeNaN();
  });
  test('altitude is the inverse of pressure', () => {
    for (const m of [0, 333, 2500]) expect(altitudeAtPressureM(pressureAtAltitudeKPa(m))).toBeCloseTo(m, 6);
  });
});

describe('air density', () => {
  test('101.325 kPa, 15 °C: 1.225 kg/m³ (US Standard Atmosphere 1976)', () => {
    expect(airDensity(101.325, 15)).toBeCloseTo(1.225, 3);
  });
  test.each([
    [-10, 101_325],
    [25, 98_000],
    [40, 84_000],
  ])('dry air at %d °C, %d Pa agrees with psychrolib within 1e-3', (t, pa) => {
    psychrolib.SetUnitSystem(psychrolib.SI);
    expect(Math.abs(airDensity(pa / 1000, t) / psychrolib.GetDryAirDensity(t, pa) - 1)).toBeLessThan(1e-3);
  });
});

describe('flow through a hole', () => {
  test('critical pressure ratio at γ 1.4 is 0.5283 (Heywood app. C; compressible-flow tables)', () => {
    expect(criticalPressureRatio(1.4)).toBeCloseTo(0.528282, 6);
  });
  test('1 mm², sea level, 25 °C, choked, C_d 1: 0.237 g/s (Heywood app. C, from memory)', () => {
    expect(orificeFlowGps(1, 101.325, 25, 30, 1)).toBeCloseTo(0.237, 3);
  });
  // Isentropic flow function, handbook examples.
  test.each([
    [0.3, 1],
    [0.5283, 1],
    [0.7, 0.93],
    [0.9, 0.62],
    [1, 0],
  ])('at p/p₀ %d it is ×%d of choked', (ratio, factor) => {
    expect(relativeFlow(ratio)).toBeCloseTo(factor, 2);
  });
  test('choked flow does not depend on the pressure behind', () => {
    expect(orificeFlowGps(5, 100, 20, 25)).toBeCloseTo(orificeFlowGps(5, 100, 20, 50), 12);
    expect(orificeFlowGps(5, 100, 20, 60)).toBeLessThan(orificeFlowGps(5, 100, 20, 50));
    expect(orificeFlowGps(5, 100, 20, 100)).toBe(0);
    expect(orificeFlowGps(5, 100, 20, Number.NaN)).toBe(0);
  });
  test('the hole of a flow gives back the flow', () => {
    const hole = holeForFlow(0.42, 99, 20, 31)!;
    expect(orificeFlowGps(hole.areaMm2, 99, 20, 31)).toBeCloseTo(0.42, 9);
    expect((Math.PI * hole.diameterMm ** 2) / 4).toBeCloseTo(hole.areaMm2, 9);
    expect(holeForFlow(0.4, 99, 20, 99)).toBeNull();
    expect(holeForFlow(Number.NaN, 99, 20, 31)).toBeNull();
  });
});
