import { describe, expect, test } from '@jest/globals';
import { type FoundPoint, findPoints } from '@just-balance/core/capture';
import type { Case, Reading } from '@just-balance/core/case';
import { diagnose } from '@just-balance/core/diagnosis';
import { CandumpReader } from '@just-balance/core/recordingFiles';
import { candumpOf, canHave, carById, examine, FLEET, readScenario, SIM_FAULTS, typicalFor } from '../src/index.ts';

const AIR = { baroKPa: 98.7, airC: 16 };
const SEED = 4;

/** The points of what a logger beside the car would have written. */
function pointsOf(vehicle: string, drive: object[], more: object = {}): FoundPoint[] {
  const file = { format: 'just-balance/scenario', version: 1, vehicle, seed: SEED, ambient: AIR, warm: true };
  const { scenario, problems } = readScenario({ ...file, ...more, drive });
  expect(problems).toEqual([]);
  const log = new CandumpReader();
  for (const line of candumpOf(scenario!)) log.line(line);
  const spec = carById(vehicle);
  return findPoints(log.finish(), {
    banks: spec.banks,
    metered: spec.metering !== 'speed-density',
    fuel: spec.fuel,
    turbo: spec.induction === 'turbo',
    baroKPa: AIR.baroKPa,
  });
}

describe('a diesel has no throttle: its manifold is as full at idle as in a pull', () => {
  const START = [
    { do: 'koeo', s: 8 },
    { do: 'idle', s: 60 },
  ];
  const of = (drive: object[]) => pointsOf('hollin-21d', drive).map((p) => p.at);
  test.each<[string, object[], string[]]>([
    ['the flare of the start is no snap and no pull', START, ['koeo', 'idle']],
    [
      'nor is an engine raised to a hold',
      [...START, { do: 'hold', rpm: 2500, s: 30 }, { do: 'idle', s: 20 }],
      ['koeo', 'idle', 'hold-2500'],
    ],
    [
      'a snap is a snap, standing, and no pull',
      [...START, { do: 'snap', s: 6 }, { do: 'idle', s: 20 }],
      ['koeo', 'idle', 'snap'],
    ],
    [
      'nor is a road',
      [...START, { do: 'speed', kmh: 70, s: 60 }, { do: 'coast', s: 20 }],
      ['koeo', 'idle', 'road-load'],
    ],
    [
      'foot down on the road is one',
      [...START, { do: 'speed', kmh: 70, s: 60 }, { do: 'full-load', rpm: 3200, s: 10 }, { do: 'idle', s: 10 }],
      ['koeo', 'idle', 'road-load', 'full-load', 'boost'],
    ],
  ])('%s', (_, drive, at) => expect(of(drive)).toEqual(at));
  test('what is read at the pull is of the pull: speed, air and pressure of one moment', () => {
    const pull = pointsOf('hollin-21d', [
      ...START,
      { do: 'speed', kmh: 70, s: 40 },
      { do: 'full-load', rpm: 3200, s: 10 },
      { do: 'idle', s: 10 },
    ]).find((p) => p.at === 'full-load')!;
    const { rpm, mapKPa, mafGps } = pull.reading;
    expect(pull.fromS).toBeGreaterThan(100);
    expect([rpm! > 2900, mapKPa! > 200]).toEqual([true, true]);
    // Air by volume at this pressure (Heywood, eq. 2.27), for 2.1 L, four strokes, filled to 0.7 to 1.1 of it.
    const full = ((2.1 / 120) * rpm! * mapKPa!) / 0.287 / 320;
    expect(mafGps! / full).toBeGreaterThan(0.7);
    expect(mafGps! / full).toBeLessThan(1.1);
  });
});

describe('the same car logged and read cleanly', () => {
  const FAULTS = ['vac-leak', 'maf-dirty', 'fuel-low', 'map-bias', 'exhaust-leak'];
  const cars = FLEET.filter((c) => c.fuel === 'petrol').flatMap((c, i) =>
    SIM_FAULTS.filter((f) => FAULTS.includes(f.id) && canHave(f, c))
      // Each car with two of them, all of them over the fleet.
      .filter((_, k) => (k + i) % 2 === 0)
      .map((f) => ({ vehicle: c.id, faults: [{ id: f.id, severity: typicalFor(f, c) }] })),
  );
  test.each(cars.map((c) => [c.vehicle, c.faults[0]!.id, c] as const))(
    '%s with %s: the same first cause',
    (...[, , c]) => {
      const what = { ...c, ...AIR, seed: SEED };
      const { vin: _, ...vehicle } = examine(what, { card: true }) as unknown as Case['vehicle'] & { vin: string };
      const first = (readings: Reading[]) =>
        diagnose({
          ...{ format: 'just-balance/case' as const, version: 1 as const, id: 'log' },
          ...{ vehicle, ambient: AIR, readings, codes: [], complaints: [], tests: [] },
        }).causes[0]!.fault;
      const clean = ['idle', 'hold-2500'].map((reading) => examine(what, { reading }) as unknown as Reading);
      const drive = [
        { do: 'idle', s: 40 },
        { do: 'hold', rpm: 2500, s: 40 },
        { do: 'idle', s: 20 },
      ];
      const logged = pointsOf(c.vehicle, drive, { faults: c.faults, settled: true });
      const read = logged.filter((p) => p.at === 'idle' || p.at === 'hold-2500').map((p) => p.reading);
      expect(read.map((r) => r.at)).toEqual(['idle', 'hold-2500']);
      expect(first(read)).toBe(first(clean));
    },
  );
});
