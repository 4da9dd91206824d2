import { describe, expect, test } from '@jest/globals';
import {
  airflowBand,
  compareReadings,
  familyOf,
  type KnownFigure,
  layersOf as layersOf_,
  manifoldBand,
  middle,
  stationPressure,
} from '../src/expected/index.ts';
import { inWords, wordsOf } from '../src/units/index.ts';

const layersOf = (...given: Parameters<typeof layersOf_>) => inWords(layersOf_(...given), 'own');

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
    expect(airflowBand('snap', FACTS, {})).toBeNull();
    // A turbo engine at full load without its manifold pressure.
    expect(airflowBand('full-load', { ...FACTS, induction: 'turbo' }, { rpm: 4000 })).toBeNull();
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
  for (const r of rows) expect(wordsOf(r.band.note, 'own').length).toBeGreaterThan(5);
});

test('read by eye and within one step of the edge: undecided; a capture of many samples is not', () => {
  const eye = { at: 'idle' as const, rpm: 700, mapKPa: 45.6 };
  const atSea = { ...FACTS, baroKPa: 101.325 };
  const call = (r: Parameters<typeof compareReadings>[0][number]) => compareReadings([r], atSea)[0]!.call;
  expect(call(eye)).toBe('undecided');
  expect(call({ ...eye, sampleHz: 8 })).toBe('past');
  expect(call({ ...eye, mapKPa: 47 })).toBe('past');
  expect(call({ ...eye, mapKPa: 47, quantum: { map: 3 } })).toBe('undecided');
  expect(call({ ...eye, mapKPa: 33 })).toBe('inside');
});

describe('three layers, the better one winning', () => {
  const entered: KnownFigure = {
    layer: 'entered',
    at: 'idle',
    quantity: 'airflow',
    low: 2.4,
    high: 3.1,
    source: 'service data',
  };
  const shop: KnownFigure = { ...entered, layer: 'shop', low: 2.5, high: 2.9, source: 'three proven jobs' };
  test('shop beats entered beats physics, and what was beaten stays in sight', () => {
    const all = layersOf('airflow', 'idle', FACTS, { rpm: 700, mapKPa: 32 }, [shop, entered]);
    expect(all.map((b) => b.from)).toEqual(['shop', 'entered', 'physics']);
    expect(all[0]).toMatchObject({ low: 2.5, high: 2.9, note: 'three proven jobs' });
    expect(layersOf('airflow', 'hold-2500', FACTS, { rpm: 2500 }, [shop])[0]!.from).toBe('physics');
  });
  test('the newest figure of a layer counts', () => {
    const newer = { ...entered, low: 2 };
    expect(layersOf('airflow', 'idle', FACTS, {}, [entered, newer])[0]!.low).toBe(2);
  });
  test('full load and a resting manifold go with the pressure outside, an idle does not (physics)', () => {
    const at = (k: KnownFigure) => layersOf(k.quantity, k.at, { ...FACTS, baroKPa: 84.56 }, {}, [k])[0]!;
    expect(at({ ...entered, at: 'full-load', low: 100, high: 110, baroKPa: 101.325 }).low).toBeCloseTo(83.45, 1);
    expect(at({ ...entered, at: 'full-load', low: 100, high: 110, baroKPa: 101.325 }).note).toMatch(
      /scaled to 84\.6 kPa/,
    );
    expect(at({ ...entered, baroKPa: 101.325 }).low).toBe(2.4);
  });
  test('a turbo engine at full load goes by its manifold, not by the weather', () => {
    const turbo = { ...FACTS, induction: 'turbo' as const };
    const one = airflowBand('full-load', turbo, { rpm: 3000, mapKPa: 180, iatC: 45 })!;
    // ρ = 180 kPa / (287.05 · 318.15 K) = 1.971 g/L; 2 L at 3,000 rpm: 98.5 g/s at VE 1 (Heywood ch. 2).
    expect(one.high / 1.05).toBeCloseTo(98.5, 0);
  });
  test('a diesel is not throttled: manifold about station pressure, airflow by it', () => {
    const diesel = { ...FACTS, fuel: 'diesel' as const, induction: 'turbo' as const };
    expect(manifoldBand('idle', diesel)!.low).toBeGreaterThan(90);
    // ρ 1.171 kg/m³ at 101.3 kPa and 28 °C: 2 L at 800 rpm take 15.6 g/s at VE 1 (Heywood ch. 2).
    expect(airflowBand('idle', diesel, { rpm: 800 })!.high).toBeCloseTo(15.6, 1);
    expect(airflowBand('idle', diesel, { rpm: 800 })!.note).toMatch(/recirculated/);
  });
  test('the family a figure belongs to reads as one', () => {
    expect(familyOf({ fuel: 'petrol', displacementL: 2, cylinders: 4, metering: 'maf' })).toBe(
      'petrol 2.0 L, 4 cylinders, maf, na, port',
    );
  });
});
