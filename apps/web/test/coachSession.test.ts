import { describe, expect, test } from '@jest/globals';
import type { Sample } from '@just-balance/core/link';
import {
  type CarState,
  DRIVE_PROCEDURES,
  type DriveProcedure,
  driveProcedure,
  reviewDrive,
} from '@just-balance/core/readiness';
import { CoachSession, type Driven } from '../src/sessions/CoachSession.ts';

/** Ten seconds of driving at 50 km/h or more; over after a minute. */
const DRIVE: DriveProcedure = {
  format: 'just-balance/drive-procedure',
  version: 1,
  id: 'short',
  title: 'A short one',
  source: 'invented',
  before: [],
  totalMinutes: 1,
  steps: [
    { id: 'go', says: 'Go.', finishes: ['evap'], hold: [{ channel: 'vss', low: 50, unit: 'km/h' }], seconds: 10 },
  ],
};
const START_US = 1_700_000_000_000_000;
const at = (second: number, kmh: number): Sample[] => [
  { channel: 'vss', atUs: START_US + second * 1e6, value: kmh } as Sample,
];

function made({ rate = 1, broken = 0, car = {} }: { rate?: number; broken?: number; car?: CarState } = {}) {
  const kept: Driven[] = [];
  const failed: unknown[] = [];
  const recorded: string[] = [];
  let left = broken;
  const session = new CoachSession({
    record: async (p) => void recorded.push(p.id),
    keep: async (d) => {
      if (left-- > 0) throw new Error('no disk');
      kept.push(d);
    },
    failed: (e) => void failed.push((e as Error).message),
    open: () => ['evap'],
    car: (_, heard) => (heard ? { fuelPct: 50 } : car),
    rate: () => rate,
  });
  return { session, kept, failed, recorded };
}
const begun = async (o: Parameters<typeof made>[0] = {}) => {
  const m = made(o);
  await m.session.begin(DRIVE, new Set(['vss']), START_US);
  return m;
};
const settled = () => new Promise((r) => setTimeout(r, 0));

test('what it hears counts, with the way driven; it ends by itself when all is done, and is kept once', async () => {
  const { session, kept, recorded } = await begun();
  let told = 0;
  const stop = session.subscribe(() => told++);
  for (let t = 1; t <= 14; t++) session.hear(at(t, 72));
  await settled();
  expect(recorded).toEqual(['short']);
  expect(session.drive()).toMatchObject({ ended: true });
  expect(kept).toHaveLength(1);
  // 72 km/h for some ten seconds: about 0.2 km.
  expect(kept[0]!.distanceKm).toBeGreaterThan(0.17);
  expect(kept[0]!.distanceKm).toBeLessThan(0.27);
  expect(kept[0]!.review.result).toBe('complete');
  const [was, drive] = [told, session.drive()];
  session.hear(at(20, 72));
  await session.end();
  expect([told, session.drive(), kept.length]).toEqual([was, drive, 1]);
  stop();
});

test('ended by hand: what there was is kept; a gap is no way driven', async () => {
  const { session, kept } = await begun();
  session.hear(at(1, 72));
  session.hear(at(2, 72));
  session.hear(at(30, 72));
  await session.end();
  expect(kept[0]!.distanceKm).toBeCloseTo(0.02, 6);
  expect(kept[0]!.review.result).toBe('incomplete');
});

test('where no step fits any more it ends by itself, and says what comes next', async () => {
  const { session, kept } = await begun();
  for (let t = 1; t <= 50; t++) session.hear(at(t, 20));
  await settled();
  expect(kept).toEqual([]);
  session.hear(at(51, 20));
  await settled();
  expect(kept[0]!.review).toMatchObject({
    result: 'incomplete',
    nextAttempt: 'What is left of its time is too short for any step that is open: start again.',
  });
});

test('a hurried bay: its seconds are the car’s', async () => {
  const { session, kept } = await begun({ rate: 4 });
  for (let t = 1; t <= 5; t++) session.hear(at(t, 72));
  await settled();
  expect(kept[0]?.review.result).toBe('complete');
  // Twelve to sixteen seconds of the car at 72 km/h.
  expect(kept[0]!.distanceKm).toBeGreaterThan(0.2);
});

test('one that could not be kept is said, and kept when it is asked again', async () => {
  const { session, kept, failed } = await begun({ broken: 1 });
  for (let t = 1; t <= 14; t++) session.hear(at(t, 72));
  await settled();
  expect([failed, kept.length]).toEqual([['no disk'], 0]);
  await session.end();
  expect(kept).toHaveLength(1);
});

test('a replay is the same as the drive was; it is not taken up beside one under way, nor out of nothing', async () => {
  const seconds = Array.from({ length: 6 }, (_, i) => ({ atMs: START_US / 1000 + i * 1000, data: { vss: 72 } }));
  const unpack = (s: { atMs: number; data: object }) => [
    { channel: 'vss', atUs: s.atMs * 1000, value: (s.data as { vss: number }).vss } as Sample,
  ];
  const again = made().session;
  again.resume(DRIVE, [], unpack as never);
  expect(again.drive()).toBeNull();
  again.resume(DRIVE, seconds as never, unpack as never);
  const live = (await begun()).session;
  for (let i = 0; i < 6; i++) live.hear(at(i, 72));
  expect(again.drive()!.state.steps).toEqual(live.drive()!.state.steps);
  expect(again.drive()!.km).toBeCloseTo(live.drive()!.km, 9);
  const before = live.drive();
  live.resume(DRIVE, seconds as never, unpack as never);
  expect(live.drive()).toBe(before);
});

test('the car at key-on is what the drive is judged by, live and at its end', async () => {
  const full = { ...DRIVE, before: [{ id: 'fuel-level' as const, high: 75, unit: '%' }] };
  const { session, kept } = made({ car: { fuelPct: 91 } });
  await session.begin(full, new Set(['vss']), START_US);
  for (let t = 1; t <= 14; t++) session.hear(at(t, 72));
  await session.end();
  expect(session.drive()!.car).toEqual({ fuelPct: 91, incomplete: ['evap'] });
  expect(kept[0]!.review).toMatchObject({ result: 'failed', conditions: [{ id: 'fuel-level', state: 'not-met' }] });
});

describe('the coach on the page and a review of its log are one', () => {
  /** Rows of a second each: what the vehicle did, or nothing heard. */
  const DRIVES: Readonly<
    Record<string, readonly (readonly [seconds: number, kmh: number | null, rpm: number, ect: number])[]>
  > = {
    obeying: [
      [20, 0, 750, 60],
      [800, 66, 1700, 85],
    ],
    'too fast for a while': [
      [20, 0, 750, 60],
      [300, 66, 1700, 85],
      [25, 80, 2100, 85],
      [500, 66, 1700, 85],
    ],
    'short pauses': [
      [20, 0, 750, 60],
      [200, 66, 1700, 85],
      [6, 72, 1700, 85],
      [200, 66, 1700, 85],
      [8, 60, 1700, 85],
      [380, 66, 1700, 85],
    ],
    'gaps in what was heard': [
      [20, 0, 750, 60],
      [200, 66, 1700, 85],
      [12, null, 0, 0],
      [300, 66, 1700, 85],
    ],
    'given up': [
      [20, 0, 750, 20],
      [90, 66, 1700, 40],
    ],
    'never left the yard': [[120, 0, 750, 85]],
    stations: [
      [10, 0, 750, 90],
      [140, 0, 2200, 90],
      [200, 69, 1900, 90],
      [190, 82, 2100, 90],
      [200, 0, 750, 90],
    ],
  };
  const CARS: Readonly<Record<string, CarState>> = {
    ready: {
      engineOffSince: '2023-11-14T10:00:00Z',
      startedAt: '2023-11-14T22:13:20Z',
      ambientC: 15,
      altitudeM: 200,
      fuelPct: 60,
      lamp: 'off',
      codes: [],
    },
    full: {
      engineOffSince: '2023-11-14T10:00:00Z',
      startedAt: '2023-11-14T22:13:20Z',
      ambientC: 15,
      altitudeM: 200,
      fuelPct: 91,
      lamp: 'off',
      codes: [],
    },
    'not soaked': {
      engineOffSince: '2023-11-14T22:00:00Z',
      startedAt: '2023-11-14T22:13:20Z',
      ambientC: 15,
      fuelPct: 60,
    },
  };
  const cases = DRIVE_PROCEDURES.flatMap((p) =>
    Object.keys(DRIVES).flatMap((d) => Object.keys(CARS).map((c) => [p.id, d, c] as const)),
  );

  test.each(cases)('%s, %s, %s', async (id, of, which) => {
    const procedure = driveProcedure(id)!;
    const heard = DRIVES[of]!.flatMap(([n, kmh, rpm, ect]) => Array.from({ length: n }, () => ({ kmh, rpm, ect })));
    const { session, kept } = made({ car: { ...CARS[which]!, coolantC: heard[0]!.ect } });
    await session.begin(procedure, new Set(['vss', 'rpm', 'ect']), START_US);
    let last = 0;
    for (const [t, { kmh, rpm, ect }] of heard.entries()) {
      if (session.drive()!.ended) break;
      last = t;
      if (kmh === null) continue;
      const atUs = START_US + t * 1e6;
      session.hear([
        { channel: 'vss', value: kmh, atUs },
        { channel: 'rpm', value: rpm, atUs },
        { channel: 'ect', value: ect, atUs },
      ] as Sample[]);
    }
    await session.end();
    const rows = heard
      .slice(0, last + 1)
      .flatMap((x, t) => (x.kmh === null ? [] : [{ t, vss: x.kmh, rpm: x.rpm, ect: x.ect }]));
    const time = Float64Array.from(rows, (x) => x.t);
    const channel = (name: 'vss' | 'rpm' | 'ect', unit: string) => ({
      id: name,
      unit,
      time,
      value: Float64Array.from(rows, (x) => x[name]),
    });
    const series = {
      startedAt: null,
      marks: [],
      channels: [channel('vss', 'km/h'), channel('rpm', 'rpm'), channel('ect', '°C')],
    };
    const car = session.drive()!.car;
    expect(kept).toHaveLength(1);
    expect(kept[0]!.review).toEqual(reviewDrive(procedure, series, car));
  });
});
