import { describe, expect, test } from '@jest/globals';
import { airflowBand, compareReadings, manifoldBand, middle, stationPressure } from '../src/expected/index.ts';

const FACTS = { displacementL: 2, baroKPa: 101.3, airC: 20 };

test('station pressure: measured wins, then altitude, then sea level said to be assumed', () => {
  expect(stationPressure({ baroKPa: 97, altitudeM: 1500 })).toEqual({ baroKPa: 97, from: 'measured' });
  expect(stationPressure({ altitudeM: 1500 }).baroKPa).toBeCloseTo(84.56, 2);
  expect(stationPressure({ altitudeM: 1500 }).from).toBe('altitude');
  expect(stationPressure(undefined)).toEqual({ baroKPa: 101.325, from: 'assumed' });
});

describe('airflow', () => {
  test('idle without pressure: 1–2.2 g/s per litre (common practice, no source)', () => {
    expect(airflowBand('idle', FACTS, {})).toMatchObject({ low: 2, high: 4.4, from: 'trade' });
  });
  test('with pressure and speed physics speaks, and stays inside the trade band on a usual idle', () => {
    const band = airflowBand('idle', FACTS, { rpm: 720, mapKPa: 33, iatC: 30 })!;
    expect(band.from).toBe('physics');
    expect(middle(band)).toBeGreaterThan(2);
    expect(middle(band)).toBeLessThan(4.4);
  });
  test('full load: VE 0.75–1.05 of station pressure (common practice, no source)', () => {
    const band = airflowBand('full-load', FACTS, { rpm: 6000 })!;
    // 2.0 L at 6,000 rpm and 20 °C: 120.4 g/s at VE 1 (Heywood ch. 2).
    expect(band.low / 0.75).toBeCloseTo(120.4, 0);
    expect(band.high / band.low).toBeCloseTo(1.05 / 0.75, 9);
  });
  test('less air at altitude', () => {
    const high = { ...FACTS, baroKPa: 84.56 };
    expect(middle(airflowBand('full-load', high, { rpm: 4000 })!)).toBeCloseTo(
      (middle(airflowBand('full-load', FACTS, { rpm: 4000 })!) * 84.56) / 101.3,
      6,
    );
  });
  test('nothing is invented where nothing is known', () => {
    expect(airflowBand('koeo', FACTS, { rpm: 0 })).toBeNull();
    expect(airflowBand('road-load', FACTS, {})).toBeNull();
  });
});

test('manifold pressure: barometric with the engine off, 25–45 kPa at idle (common practice), scaled by altitude', () => {
  expect(manifoldBand('koeo', FACTS)).toMatchObject({ low: 98.3, high: 104.3 });
  expect(manifoldBand('idle', { ...FACTS, baroKPa: 101.325 })).toMatchObject({ low: 25, high: 45 });
  expect(manifoldBand('idle', { ...FACTS, baroKPa: 81.06 })!.high).toBeCloseTo(36, 2);
  expect(manifoldBand('snap', FACTS)).toBeNull();
});

test('no figure is shown alone: each measured value carries its band and where it came from', () => {
  const rows = compareReadings([{ at: 'idle', rpm: 700, mafGps: 3, mapKPa: 32, ectC: 88 }], FACTS);
  expect(rows.map((r) => [r.quantity, r.measured])).toEqual([
    ['airflow', 3],
    ['manifold', 32],
    ['coolant', 88],
  ]);
  for (const r of rows) expect(r.band.note.length).toBeGreaterThan(5);
});

test('read by eye and within one step of the edge: undecided; a capture of many samples is not', () => {
  const eye = { at: 'idle', rpm: 700, mapKPa: 45.6 };
  const atSea = { ...FACTS, baroKPa: 101.325 };
  const call = (r: Parameters<typeof compareReadings>[0][number]) => compareReadings([r], atSea)[0]!.call;
  expect(call(eye)).toBe('undecided');
  expect(call({ ...eye, sampleHz: 8 })).toBe('past');
  expect(call({ ...eye, mapKPa: 47 })).toBe('past');
  expect(call({ ...eye, mapKPa: 47, quantum: { map: 3 } })).toBe('undecided');
  expect(call({ ...eye, mapKPa: 33 })).toBe('inside');
});
