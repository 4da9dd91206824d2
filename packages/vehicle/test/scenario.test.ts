import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import { logDecoder } from '@just-balance/core/obd';
import { candumpOf, carOf, csvOf, readScenario, type Scenario } from '../src/index.ts';

const dir = join(__dirname, '../../../examples/scenarios');
const base = { format: 'just-balance/scenario', version: 1, vehicle: 'quillon-18', drive: [{ do: 'idle', s: 5 }] };

describe('scenario files', () => {
  test.each(readdirSync(dir))('%s is one', (f) => {
    expect(readScenario(JSON.parse(readFileSync(join(dir, f), 'utf8'))).problems).toEqual([]);
  });
  test.each([
    [[], /a scenario is a JSON object/],
    [null, /a scenario is a JSON object/],
    [{ ...base, format: 'x' }, /^format/],
    [{ ...base, version: 2 }, /version: 2 is newer/],
    [{ ...base, vehicle: 'cart' }, /vehicle: unknown vehicle "cart"/],
    [
      {
        ...base,
        faults: [
          { id: 'vac-leak', severity: 0.1 },
          { id: 'map-bias', severity: 3 },
        ],
      },
      /fault: map-bias: this car cannot have it/,
    ],
    [{ ...base, ambient: { airC: 99 } }, /ambient\.airC: -40 to 60/],
    [{ ...base, ambient: { altitudeM: 9000 } }, /ambient\.altitudeM/],
    [{ ...base, drive: [] }, /drive: at least one step/],
    [
      {
        ...base,
        drive: [
          { do: 'idle', s: 5 },
          { do: 'fly', s: 1 },
        ],
      },
      /drive\[1\]\.do: idle, hold, speed, full-load, snap, coast, koeo, off, soak, work or clear/,
    ],
    [{ ...base, drive: [{ do: 'hold', s: 5 }] }, /drive\[0\]\.rpm: 900 to 5000/],
    [{ ...base, drive: [{ do: 'speed', kmh: 400, s: 5 }] }, /drive\[0\]\.kmh/],
    [{ ...base, drive: [{ do: 'idle' }] }, /drive\[0\]\.s: seconds/],
    [{ ...base, drive: [{ do: 'soak' }] }, /drive\[0\]\.hours/],
    [{ ...base, drive: [null] }, /drive\[0\]/],
  ])('%j is refused by field', (json, message) => {
    const r = readScenario(json);
    expect(r.scenario).toBeUndefined();
    expect(r.problems.join('\n')).toMatch(message as RegExp);
  });
});

describe('start states', () => {
  const s = (more: object) => readScenario({ ...base, ...more }).scenario as Scenario;
  test('cold, warm, adapted; altitude sets the pressure', () => {
    expect(carOf(s({})).engine.state.running).toBe(false);
    expect(carOf(s({ warm: true })).engine.state.ectC).toBeGreaterThan(80);
    const adapted = carOf(s({ warm: true, settled: true, fault: { id: 'maf-under', severity: 12 } }));
    expect(adapted.control.trims[0].long[0]).toBeGreaterThan(9);
    expect(carOf(s({ ambient: { altitudeM: 1500 } })).surroundings.baroKPa).toBeCloseTo(84.56, 2);
  });
});

describe('what comes out', () => {
  const scenario = readScenario({
    ...base,
    seed: 3,
    warm: true,
    drive: [
      { do: 'idle', s: 10 },
      { do: 'hold', rpm: 2500, s: 10 },
    ],
  }).scenario!;
  test('candump: the same bytes twice, rising times, everything decodes', () => {
    const lines = [...candumpOf(scenario)];
    expect([...candumpOf(scenario)]).toEqual(lines);
    const decoder = logDecoder();
    const rows = lines.flatMap((l) => decoder.line(l));
    expect(decoder.summary().badCount).toBe(0);
    expect(decoder.summary().transportErrors).toEqual([]);
    expect(rows.filter((r) => r.name === 'raw')).toEqual([]);
    expect(rows.find((r) => r.name === 'vin')!.value).toBe('ZZZK18AB9E0004217');
    const times = lines.map((l) => Number(l.slice(1, l.indexOf(')'))));
    for (let i = 1; i < times.length; i++) expect(times[i]!).toBeGreaterThanOrEqual(times[i - 1]!);
  });
  test('CSV: time from 0, a column a channel, in the steps an ECU sends', () => {
    const [head, ...rows] = [...csvOf(scenario)].map((l) => l.split(','));
    expect(head![0]).toBe('time');
    expect(head).toEqual(expect.arrayContaining(['rpm', 'maf', 'map', 'stft1', 'ltft1', 'ect', 'vss']));
    expect(rows[0]![0]).toBe('0.00');
    expect(rows).toHaveLength(200);
    const rpm = rows.map((r) => Number(r[head!.indexOf('rpm')]));
    expect(rpm.every((v) => v * 4 === Math.round(v * 4))).toBe(true);
    expect(rpm.at(-1)!).toBeGreaterThan(2300);
  });
});
