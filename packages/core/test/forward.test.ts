import { describe, expect, test } from '@jest/globals';
import { readingOfStretch } from '../src/capture/index.ts';
import { LONGEST_STRETCH_S } from '../src/capture/stretch.ts';
import { leakAt } from '../src/diagnosis/model/forward.ts';
import { swapProbability } from '../src/diagnosis/model/resultProbability.ts';

describe('a leak at another point (orifice flow, Heywood app. C, from memory)', () => {
  const ev = { idleMapKPa: 35, baroKPa: 100 } as Parameters<typeof leakAt>[2];
  const at = (mapKPa: number) => leakAt(2, { mapKPa }, ev);
  test('choked it is the same whatever the manifold: below 52.8 % of the air outside', () => {
    expect(at(35)).toBeCloseTo(2, 9);
    expect(at(20)).toBeCloseTo(2, 9);
    expect(at(52)).toBeCloseTo(2, 9);
    expect(at(60)).toBeLessThan(2);
  });
  test('at four fifths of the air outside: the textbook’s share of the choked flow', () => {
    // √(r^(2/γ) − r^((γ+1)/γ)) at r = 0.8 over the same at 0.5283, γ = 1.4.
    const f = (r: number) => Math.sqrt(r ** (2 / 1.4) - r ** (2.4 / 1.4));
    expect(at(80)).toBeCloseTo((2 * f(0.8)) / f((2 / 2.4) ** (1.4 / 0.4)), 6);
  });
  test('nothing where the pressures are equal; outwards under boost, the more the higher it is', () => {
    expect(at(100)).toBeCloseTo(0, 9);
    expect(at(120)).toBeLessThan(0);
    expect(at(180)).toBeLessThan(at(120));
    // What drives it out is the pressure inside: as much denser.
    const f = (r: number) => Math.sqrt(r ** (2 / 1.4) - r ** (2.4 / 1.4));
    expect(at(125)).toBeCloseTo((-2 * 1.25 * f(0.8)) / f((2 / 2.4) ** (1.4 / 0.4)), 6);
  });
  test('an idle without vacuum says nothing of a leak', () => {
    expect(leakAt(2, { mapKPa: 60 }, { ...ev, idleMapKPa: 100 })).toBe(0);
  });
});

describe('a reading of a stretch of a recording', () => {
  const time = Float64Array.from({ length: 120 }, (_, i) => i);
  const channel = (id: string, unit: string, f: (t: number) => number) => ({ id, unit, time, value: time.map(f) });
  const series = {
    startedAt: null,
    marks: [],
    texts: [{ id: 'fuelSys1', time, value: Array.from(time, () => 'closed loop') }],
    channels: [
      channel('rpm', 'rpm', (t) => (t < 60 ? 740 : 2500)),
      channel('maf', 'g/s', (t) => (t < 60 ? 3 : 9) + (t % 2 ? 0.02 : -0.02)),
      channel('ect', '°C', () => 88),
      channel('stft1', '%', () => 1),
      channel('ltft1', '%', () => 4),
    ],
  } as unknown as Parameters<typeof readingOfStretch>[0];
  const engine = { banks: 1, metered: true, fuel: 'petrol', turbo: false, baroKPa: 100 } as const;
  test('is of that stretch: not of what comes before or after it', () => {
    expect(readingOfStretch(series, engine, 'idle', 30, 59).reading).toMatchObject({
      rpm: 740,
      mafGps: expect.closeTo(3, 1),
    });
    expect(readingOfStretch(series, engine, 'hold-2500', 60, 90).reading).toMatchObject({
      rpm: 2500,
      mafGps: expect.closeTo(9, 1),
    });
  });
  test('an airflow that never moves in a running engine is not measured: it is left out', () => {
    const still = {
      ...series,
      channels: series.channels.map((c) => (c.id === 'maf' ? channel('maf', 'g/s', () => 3) : c)),
    };
    expect(readingOfStretch(still, engine, 'idle', 30, 59).reading.mafGps).toBeUndefined();
  });
  test('what the recording lacks is said, and only that', () => {
    const without = (...ids: string[]) => ({
      ...series,
      texts: series.texts!.filter((c) => !ids.includes(c.id)),
      channels: series.channels.filter((c) => !ids.includes(c.id)),
    });
    const flags = (...ids: string[]) => readingOfStretch(without(...ids), engine, 'idle', 30, 59).flags;
    expect(flags()).toEqual([]);
    expect(flags('ect')).toEqual(['coolant is not in the recording: warm is assumed']);
    expect(flags('fuelSys1')).toEqual(['loop state is not in the recording: closed is assumed']);
    expect(flags('ltft1')).toEqual([expect.stringMatching(/^long-term trim of bank 1 is not in the recording/)]);
  });
  test('both its ends count, also where one is the only sample', () => {
    const { reading } = readingOfStretch(series, engine, 'idle', 58.5, 59);
    expect(reading.mafGps).toBeCloseTo(3, 1);
    expect(readingOfStretch(series, engine, 'hold-2500', 59.5, 60).reading.mafGps).toBeCloseTo(9, 1);
  });
  test('empty, too long, without a value, or of a point that nobody captures: said', () => {
    const of = (at: string, from: number, to: number) => () => readingOfStretch(series, engine, at as never, from, to);
    expect(of('idle', 30, 30)).toThrow('the part shown is empty');
    expect(of('idle', 0, LONGEST_STRETCH_S + 0.5)).toThrow(/at most \d+ s make a reading/);
    expect(of('idle', 119.5, 130)).toThrow('the part shown holds no value');
    expect(of('nowhere', 0, 10)).toThrow('no such operating point: nowhere');
  });
});

describe('a part known to be good goes in', () => {
  test('it cures a fault that goes with the part, hardly any other; of a part nobody knows it says little', () => {
    const cures = (fault: string, part: string) => swapProbability('fixed', fault, part);
    expect(cures('maf-dirty', 'maf')).toBeGreaterThan(0.8);
    expect(cures('vac-leak', 'maf')).toBeLessThan(0.1);
    expect(cures('maf-dirty', 'flux capacitor')).toBeLessThan(0.1);
    for (const fault of ['maf-dirty', 'vac-leak'])
      expect(cures(fault, 'maf') + swapProbability('no-change', fault, 'maf')).toBeCloseTo(1, 12);
  });
});
