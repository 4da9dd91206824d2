import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  type CarState,
  carAtKeyOn,
  coachNow,
  coachSample,
  coachStart,
  coolingConstant,
  coolingHours,
  DRIVE_PROCEDURES,
  type DriveProcedure,
  driveProblems,
  driveProcedure,
  driveSamples,
  forecastWindows,
  planDrive as planDrive_,
  reviewDrive as reviewDrive_,
  reviewOf as reviewOf_,
  startCheck as startCheck_,
  stepWords,
  stretchesOf,
  tonight,
} from '../src/readiness/index.ts';
import type { Series } from '../src/series/index.ts';
import { isoOf, unixOf } from '../src/time/index.ts';
import { inWords } from '../src/units/index.ts';

const reviewOf = (...given: Parameters<typeof reviewOf_>) => inWords(reviewOf_(...given), 'own');

const planDrive = (...given: Parameters<typeof planDrive_>) => inWords(planDrive_(...given), 'own');

const reviewDrive = (...given: Parameters<typeof reviewDrive_>) => inWords(reviewDrive_(...given), 'own');

const startCheck = (...given: Parameters<typeof startCheck_>) => inWords(startCheck_(...given), 'own');

const KMH_PER_MPH = 1.609344;
const CRUISE = driveProcedure('steady-cruise')!;

type Row = Partial<Record<'vss' | 'rpm' | 'ect' | 'iat' | 'fuelLevel' | 'tp', number>>;
const UNITS = { vss: 'km/h', rpm: 'rpm', ect: '°C', iat: '°C', fuelLevel: '%', tp: '%' } as const;
/** A drive of one row a second; a row that is null was not recorded. */
function drive(rows: readonly (Row | null)[], monitors: readonly [number, string][] = []): Series {
  const channels = (Object.keys(UNITS) as (keyof typeof UNITS)[]).flatMap((id) => {
    const at = rows.flatMap((r, t) => (r?.[id] === undefined ? [] : [[t, r[id]] as const]));
    return at.length === 0
      ? []
      : [{ id, unit: UNITS[id], time: Float64Array.from(at, (a) => a[0]), value: Float64Array.from(at, (a) => a[1]) }];
  });
  const texts =
    monitors.length === 0
      ? {}
      : {
          texts: [
            {
              id: 'monitorStatus',
              time: Float64Array.from(monitors, (m) => m[0]),
              value: monitors.map((m) => m[1]),
            },
          ],
        };
  return { startedAt: null, channels, marks: [], ...texts };
}
/** Idle for 20 s, then steady at 41.5 mph, warming by 0.3 °C a second. */
const steady = (seconds: number, change: (t: number, r: Row) => Row | null = (_, r) => r) =>
  drive(
    Array.from({ length: seconds }, (_, t) =>
      change(t, {
        vss: t < 20 ? 0 : 41.5 * KMH_PER_MPH,
        rpm: t < 20 ? 750 : 1700,
        ect: Math.min(90, 12 + 0.3 * t),
        iat: 11,
        fuelLevel: 64,
      }),
    ),
  );
const GOOD: CarState = {
  engineOffSince: '2026-02-03T20:00:00Z',
  startedAt: '2026-02-04T06:00:00Z',
  ambientC: 12,
  altitudeM: 310,
  fuelPct: 64,
  lamp: 'off',
  codes: [],
  incomplete: ['evap', 'o2Sensor'],
};
const step = (r: ReturnType<typeof reviewDrive>, id: string) => r.steps.find((s) => s.id === id)!;

describe('the data', () => {
  test('every procedure of ours can be driven; no engine off but at a standstill', () => {
    for (const p of DRIVE_PROCEDURES) {
      expect([p.id, driveProblems(p)]).toEqual([p.id, []]);
      for (const s of p.steps)
        for (const x of stretchesOf(s)) if (x.engineOff) expect([p.id, s.id, x.standing]).toEqual([p.id, s.id, true]);
    }
  });
  test('an engine off while rolling, a step that never ends, a wrong unit, an order that cannot be: each at its field', () => {
    const bad = (change: (p: DriveProcedure) => void) => {
      const p: DriveProcedure = JSON.parse(JSON.stringify(CRUISE));
      change(p);
      return driveProblems(p).map((e) => e.field);
    };
    expect(bad((p) => Object.assign(p.steps[0]!, { standing: false, engineOff: true }))).toEqual([
      'steps[0].engineOff',
    ]);
    expect(bad((p) => Object.assign(p.steps[2]!, { seconds: undefined }))).toEqual(['steps[2]']);
    expect(bad((p) => Object.assign(p.steps[1]!.hold![0]!, { unit: 'psi' }))).toEqual(['steps[1].hold[0].unit']);
    expect(bad((p) => Object.assign(p.steps[1]!, { after: ['cruise-evap'] }))).toEqual(['steps[1].after']);
    expect(bad((p) => Object.assign(p.before[0]!, { unit: '°F' }))).toEqual(['before[0].unit']);
    expect(bad((p) => Object.assign(p.before[1]!, { low: 200 }))).toEqual(['before[1].low']);
    expect(bad((p) => Object.assign(p.steps[2]!, { finishes: ['tyres'] }))).toEqual(['steps[2].finishes']);
  });
});

describe('a drive that obeys', () => {
  test('steady cruise: every step, at its second', () => {
    const r = reviewDrive(CRUISE, steady(800), GOOD);
    expect(r).toMatchObject({ result: 'complete', remains: [] });
    expect(r.steps.map((s) => [s.id, s.state, s.fromS, s.heldS])).toEqual([
      ['idle', 'done', 0, 15],
      // 170 °F is 76.7 °C, at 0.3 °C a second from 12: second 216.
      ['cruise-warm', 'done', 20, 196],
      ['cruise-evap', 'done', 20, 750],
    ]);
    expect(step(r, 'cruise-evap').toS).toBe(770);
  });
  test('the general drive: seconds in all, whatever lies between', () => {
    const rows = Array.from({ length: 700 }, (_, t) => ({ vss: t < 40 || t % 100 < 50 ? 0 : 55, rpm: 900, ect: 60 }));
    const r = reviewDrive(driveProcedure('general')!, drive(rows), GOOD);
    expect(r.steps.map((s) => [s.id, s.state, s.heldS])).toEqual([
      ['idle', 'done', 30],
      ['cruise', 'done', 300],
      ['run', 'done', 600],
    ]);
    expect(step(r, 'cruise').broken.every((b) => b.paused)).toBe(true);
  });
  test('seven stations: each alone, in any order; EGR by pulling away, coasting and standing', () => {
    const rows: Row[] = [];
    const go = (n: number, r: Row) => {
      for (let i = 0; i < n; i++) rows.push({ ect: 88, iat: 25, fuelLevel: 60, ...r });
    };
    go(185, { vss: 43 * KMH_PER_MPH, rpm: 1700 });
    go(185, { vss: 51 * KMH_PER_MPH, rpm: 1950 });
    go(30, { vss: 30, rpm: 2100 });
    go(20, { vss: 12, rpm: 1000 });
    go(190, { vss: 0, rpm: 720 });
    go(125, { vss: 0, rpm: 2200 });
    const r = reviewDrive(driveProcedure('seven-stations')!, drive(rows), { ...GOOD, incomplete: undefined });
    const done = r.steps.filter((s) => s.state === 'done').map((s) => s.id);
    expect(done).toEqual(['heater', 'o2-sensor', 'catalyst', 'fuel-adaptation', 'egr']);
    expect(step(r, 'evap').state).not.toBe('done');
    expect(r.result).not.toBe('complete');
  });
});

describe('the other cycles of practice (common practice, no source)', () => {
  const rows = (n: number, mph: number | ((i: number) => number), more: Row = {}): Row[] =>
    Array.from({ length: n }, (_, i) => {
      const v = typeof mph === 'number' ? mph : mph(i);
      return {
        vss: v * KMH_PER_MPH,
        rpm: v === 0 ? 750 : 1700,
        ect: 88,
        iat: 14,
        fuelLevel: 64,
        tp: v === 0 ? 12 : 18,
        ...more,
      };
    });
  const coast = (from: number, to: number) => rows(25, (i) => from + ((to - from) * i) / 24);
  const held = (id: string, list: readonly Row[], car: CarState = GOOD) =>
    reviewDrive(driveProcedure(id)!, drive(list), { ...car, incomplete: undefined });

  test('one drive finishes all that a drive can finish', () => {
    const all = [
      ...rows(20, 0),
      ...rows(760, 41.5),
      ...rows(190, 51),
      ...coast(51, 20),
      ...rows(15, 20),
      ...rows(190, 0),
    ];
    const r = held('one-drive', all);
    expect([r.result, r.steps.map((x) => [x.id, x.state])]).toEqual([
      'complete',
      ['idle', 'cruise-warm', 'cruise-evap', 'faster', 'coast', 'idle-end'].map((id) => [id, 'done']),
    ]);
    expect(new Set(r.steps.flatMap((x) => x.finishes))).toEqual(
      new Set(['o2Heater', 'o2Sensor', 'egrVvt', 'evap', 'catalyst', 'fuelSystem']),
    );
    // A pedal that pumps breaks the part that must not slosh, and says so.
    const pumped = all.map((x, t) => (t > 400 && t < 430 ? { ...x, tp: t % 2 ? 18 : 40 } : x));
    const evap = step(held('one-drive', pumped), 'cruise-evap');
    expect(evap.broken.some((b) => b.condition === 'throttle' && /faster than 8 %\/s/.test(String(b.why)))).toBe(true);
  });

  test('the stubborn catalyst: slow, fast, coast to a stop, idle, in that order only', () => {
    const right = [...rows(185, 43), ...rows(185, 51), ...coast(51, 0), ...rows(185, 0)];
    expect(held('stubborn-catalyst', right).result).toBe('complete');
    const wrong = [...rows(185, 51), ...rows(185, 43), ...coast(43, 0), ...rows(185, 0)];
    expect(held('stubborn-catalyst', wrong).result).toBe('incomplete');
  });

  test('EVAP in town: twenty minutes in all, stops left out, then off', () => {
    const town = Array.from({ length: 30 }, () => [...rows(45, 22), ...rows(15, 0)]).flat();
    expect(step(held('evap-in-town', town), 'town')).toMatchObject({ state: 'done', neededS: 1200 });
    expect(held('evap-in-town', town.slice(0, 900)).result).toBe('incomplete');
    expect(held('evap-in-town', [...town, ...rows(20, 0), ...rows(12, 0, { rpm: 0 })]).result).toBe('complete');
  });
});

test('a stretch that waits for something has no seconds of its own: never more is held than is asked', () => {
  const stations = driveProcedure('seven-stations')!;
  // Twenty minutes at 1,450 rpm that never get warm: the seven minutes after it have not begun.
  const rows_ = Array.from({ length: 1200 }, () => ({ vss: 0, rpm: 1450, ect: 40, iat: 20 }));
  const air = step(reviewDrive(stations, drive(rows_), null), 'air-injection');
  expect([air.state, air.heldS, air.neededS]).toEqual(['running', 0, 426]);
});

describe('a drive that breaks one thing', () => {
  const out: Record<string, [(t: number, r: Row) => Row | null, string, number]> = {
    'too fast': [(t, r) => (t >= 400 && t < 415 ? { ...r, vss: 50 * KMH_PER_MPH } : r), 'vss', 400],
    'too slow': [(t, r) => (t >= 333 && t < 345 ? { ...r, vss: 25 * KMH_PER_MPH } : r), 'vss', 333],
    'a dropout': [(t, r) => (t >= 300 && t < 320 ? null : r), 'vss', 299],
  };
  for (const [name, [change, condition, second]] of Object.entries(out))
    test(`${name}: the second and the reason`, () => {
      const r = reviewDrive(CRUISE, steady(800, change), GOOD);
      const [lapse] = step(r, 'cruise-evap').broken;
      expect(lapse).toMatchObject({ condition, why: expect.any(String) });
      expect(lapse!.paused).toBeUndefined();
      expect(Math.abs(lapse!.atS - second)).toBeLessThanOrEqual(1);
      // Begun again, and not there at the end of the drive.
      expect(step(r, 'cruise-evap')).toMatchObject({ state: 'running' });
      expect(r).toMatchObject({ result: 'incomplete', nextAttempt: expect.stringMatching(/cruise-evap/) });
    });
  test('ten seconds outside pause, and are not counted; eleven break', () => {
    const lapse = (n: number) =>
      step(
        reviewDrive(
          CRUISE,
          steady(900, (t, r) => (t >= 500 && t < 500 + n ? { ...r, vss: 60 } : r)),
          GOOD,
        ),
        'cruise-evap',
      );
    expect(lapse(10)).toMatchObject({ state: 'done', toS: 780, broken: [{ atS: 500, paused: true }] });
    expect(lapse(11).state).toBe('running');
  });
  test('a temperature that is asked for seldom does not stop a station; silent for longer than a minute it does', () => {
    const every = (n: number) =>
      reviewDrive(
        driveProcedure('seven-stations')!,
        drive(
          Array.from({ length: 200 }, (_, t) => ({
            vss: 43 * KMH_PER_MPH,
            rpm: 1700,
            ...(t % n === 0 ? { ect: 88 } : {}),
          })),
        ),
        null,
      );
    expect(step(every(20), 'o2-sensor')).toMatchObject({ state: 'done', heldS: 180 });
    expect(step(every(100), 'o2-sensor').state).not.toBe('done');
  });
  test('six silent seconds never count as held', () => {
    const r = reviewDrive(
      CRUISE,
      steady(900, (t, x) => (t > 500 && t < 507 ? null : x)),
      GOOD,
    );
    expect(step(r, 'cruise-evap')).toMatchObject({ state: 'done', toS: 777 });
  });
  test.each<[string, Partial<CarState>, RegExp]>([
    ['soak', { startedAt: '2026-02-04T03:20:00Z' }, /40 minutes short/],
    ['ambient', { ambientC: 1 }, /33\.8 °F is under 40/],
    ['altitude', { altitudeM: 2600 }, /is over 8,000/],
    ['fuel-level', { fuelPct: 88 }, /88 % is over 75/],
    ['lamp', { lamp: 'on' }, /lamp is on/],
    ['codes', { codes: ['P0171'] }, /P0171/],
  ])('%s not met: it cannot succeed, and says why', (id, change, why) => {
    const r = reviewDrive(CRUISE, steady(800), { ...GOOD, ...change });
    expect(r.conditions.filter((c) => c.state === 'not-met').map((c) => c.id)).toEqual([id]);
    expect(r.conditions.find((c) => c.id === id)!.why).toMatch(why);
    expect(r.result).toBe('failed');
    expect(step(r, 'cruise-evap').state).toBe('not-possible');
    expect(r.remains.join(' ')).toMatch(why);
  });
  test('past its minutes it can no longer succeed; what was gained stays', () => {
    const r = reviewDrive(
      CRUISE,
      steady(2400, (t, x) => (t >= 20 && t < 1400 ? { ...x, vss: 100 } : x)),
      GOOD,
    );
    expect(r.result).toBe('failed');
    expect(step(r, 'cruise-warm').state).toBe('done');
    expect(step(r, 'cruise-evap')).toMatchObject({ state: 'not-possible', fromS: 1400, toS: 1800, heldS: 400 });
    expect(r.nextAttempt).toMatch(/30 minutes are over.*new soak/);
  });
  test('what is not known is a warning, not a failure', () => {
    const r = reviewDrive(CRUISE, steady(800), null);
    expect(r.result).toBe('complete');
    expect(r.conditions.filter((c) => c.state === 'unknown').map((c) => c.id)).toEqual([
      'soak',
      'ambient',
      'altitude',
      'lamp',
      'codes',
    ]);
    expect(r.conditions.find((c) => c.id === 'fuel-level')).toMatchObject({ state: 'met', value: 64 });
  });
});

describe('monitors in the log', () => {
  // SAE J1979 PID 01 (from memory): C supported, D incomplete; bit 2 EVAP, bit 5 oxygen sensor.
  const both = '00076524';
  const evapDone = '00076520';
  test('one that finishes early ends its step; before and after are told', () => {
    const base = steady(500);
    const r = reviewDrive(
      CRUISE,
      {
        ...base,
        ...drive(
          [],
          [
            [2, both],
            [430, evapDone],
          ],
        ),
        channels: base.channels,
      },
      {
        ...GOOD,
        incomplete: undefined,
      },
    );
    expect(r.monitors).toEqual({ before: ['evap', 'o2Sensor'], after: ['o2Sensor'] });
    expect(step(r, 'cruise-evap')).toMatchObject({ state: 'done', toS: 430 });
    expect(r.warnings.join(' ')).toMatch(/cruise-warm was driven as asked, and Oxygen sensor is still open/);
  });
  test('a transmission that answers as well is not taken for the engine', () => {
    const base = steady(60);
    const r = reviewDrive(CRUISE, { ...base, ...drive([], [[2, '00040000']]), channels: base.channels }, null);
    expect(r.monitors).toEqual({ before: null, after: null });
  });
});

describe('what the passenger is told', () => {
  const after = (rows: readonly Row[]) => {
    let s = coachStart(CRUISE, new Set(['vss', 'rpm', 'ect']));
    rows.forEach((values, t) => {
      s = coachSample(s, { t, values: values as Record<string, number> });
    });
    return s;
  };
  const idle = Array.from({ length: 16 }, () => ({ vss: 0, rpm: 750, ect: 20 }));
  const at = (mph: number, n: number, ect = 20) =>
    Array.from({ length: n }, () => ({ vss: mph * KMH_PER_MPH, rpm: 1700, ect }));
  test('one step at a time, inside or outside its band, what is left, what is lost and when', () => {
    expect(coachNow(after(idle.slice(0, 6)), null)).toMatchObject({ step: { id: 'idle' }, side: 'inside', leftS: 10 });
    const now = coachNow(after([...idle, ...at(46, 4)]), null);
    expect(now).toMatchObject({ step: { id: 'cruise-warm' }, next: { id: 'cruise-evap' }, side: 'over', unit: 'km/h' });
    expect(now.low).toBeCloseTo(64.37, 2);
    expect(now.value).toBeCloseTo(74.03, 2);
    const warm = [...idle, ...at(41, 100, 80)];
    expect(coachNow(after(warm), null)).toMatchObject({ step: { id: 'cruise-evap' }, side: 'inside', leftS: 651 });
    expect(coachNow(after([...warm, ...at(30, 6, 80)]), null)).toMatchObject({
      side: 'under',
      outsideS: 5,
      graceS: 10,
    });
    // Lost, and begun anew: all of it is left again.
    expect(coachNow(after([...warm, ...at(30, 20, 80)]), null)).toMatchObject({ leftS: 750, outsideS: 0 });
    expect(coachNow(after([...warm, ...at(41, 660, 80)]), null)).toMatchObject({ state: 'all-done', step: null });
    expect(coachNow(after([...idle, ...at(60, 1800, 80)]), null)).toMatchObject({ state: 'over' });
  });
  test('only what is wanted: with the tank’s monitor closed the drive is done once it is warm', () => {
    expect(coachNow(after([...idle, ...at(41, 20, 80)]), ['o2Heater', 'o2Sensor']).state).toBe('all-done');
  });
  test('a channel that fell silent is not shown as if it stood', () => {
    let s = after([...idle, ...at(41, 10)]);
    s = coachSample(s, { t: 40, values: { ect: 30 } });
    expect(coachNow(s, null)).toMatchObject({ side: 'unknown', value: null });
  });
});

describe('a drive that can bring nothing more ends', () => {
  const all = new Set(['vss', 'rpm', 'ect']);
  const after = (rows: readonly Row[], monitors: readonly (readonly [number, readonly string[]])[] = []) => {
    let s = coachStart(CRUISE, all);
    rows.forEach((values, t) => {
      const report = monitors.find(([at]) => at === t);
      s = coachSample(s, { t, values, ...(report ? { incomplete: report[1] as never } : {}) });
    });
    return s;
  };
  const rows = (mph: number, n: number, ect = 80): Row[] =>
    Array.from({ length: n }, () => ({ vss: mph * KMH_PER_MPH, rpm: mph === 0 ? 750 : 1700, ect }));

  test('what is left is shorter than every step that is left', () => {
    // 750 s of cruise fit into 1,800 until second 1,050.
    const lost = [...rows(0, 20), ...rows(41, 10), ...rows(60, 1015)];
    expect(coachNow(after(lost), ['evap'])).toMatchObject({ state: 'driving', leftS: 750 });
    expect(coachNow(after([...lost, ...rows(60, 10)]), ['evap'])).toMatchObject({ state: 'no-time', step: null });
    // Warming up ends by a temperature: it may fit still.
    const cold = [...rows(0, 20), ...rows(60, 1200, 20)];
    expect(coachNow(after(cold), ['evap', 'o2Sensor'])).toMatchObject({
      state: 'driving',
      step: { id: 'cruise-warm' },
    });
  });

  test('a step that no longer fits is left out and said; the drive goes on with what still does', () => {
    const one = driveProcedure('one-drive')!;
    const open = ['evap', 'catalyst'] as const;
    const after = (list: readonly Row[]) =>
      list.reduce((s, values, t) => coachSample(s, { t, values: { ...values, tp: 12 } }), coachStart(one, all));
    // Warmed up at a standstill until 34 of its 45 minutes are gone: 12:30 of steady cruise do not fit any more.
    const now = coachNow(after([...rows(0, 40), ...rows(41.5, 20), ...rows(0, 2010)]), open);
    expect(now).toMatchObject({ state: 'driving', step: { id: 'faster' } });
    expect(inWords(now.leftOut, 'own').map((x) => [x.step.finishes, x.why])).toEqual([
      [['evap'], '12:30 needed, 10:31 left'],
    ]);
  });
  test('a condition that is lost on the way: what it spoils waits, the rest is driven; back inside it is asked for again', () => {
    const one = driveProcedure('one-drive')!;
    const open = ['evap', 'catalyst'] as const;
    const fuel = one.before.find((c) => c.id === 'fuel-level')!;
    const spoils = fuel.steps ?? one.steps.map((s) => s.id);
    expect(spoils).toContain('cruise-evap');
    const heard = (fuelLevel: number, wanted: readonly (typeof open)[number][] = open) => {
      let s = coachStart(one, all);
      [...rows(0, 40), ...rows(41.5, 20)].forEach((values, t) => {
        s = coachSample(s, { t, values: { ...values, tp: 12, fuelLevel } });
      });
      return coachNow(s, wanted);
    };
    const low = fuel.low!;
    // A tank that sloshes by less than a twentieth of it is not lost.
    for (const still of [low + 1, low - 4])
      expect(heard(still)).toMatchObject({ step: { id: 'cruise-evap' }, leftOut: [] });
    const lost = heard(low - 6);
    expect(lost).toMatchObject({ state: 'driving', step: { id: 'faster' } });
    expect(inWords(lost.leftOut, 'own')[0]!.why).toMatch(new RegExp(`^Fuel level ${low - 6} % now: ${low} to`));
    // Out of it from the start it was started all the same: that is said already.
    const s = coachSample(coachStart(one, all), { t: 0, values: { vss: 0, rpm: 750, fuelLevel: low - 6 } });
    expect(coachNow(s, ['evap'], { fuelPct: low - 6 }).leftOut).toEqual([]);
    // Nothing else to be driven: it stays in hand, and is said.
    expect(heard(low - 6, ['evap'])).toMatchObject({
      step: { id: 'cruise-evap' },
      leftOut: [{ step: { id: 'cruise-evap' } }],
    });
  });

  test('the vehicle says that nothing of it is open any more, while a step without a monitor still runs', () => {
    const open = ['catalyst', 'evap'] as const;
    const general = (monitors: readonly string[]) => {
      let s = coachStart(driveProcedure('general')!, all);
      rows(31, 100).forEach((values, t) => {
        s = coachSample(s, {
          t,
          values,
          ...(t === 5 ? { incomplete: [...open] } : {}),
          ...(t === 90 ? { incomplete: monitors as never } : {}),
        });
      });
      return s;
    };
    expect(coachNow(general(['catalyst', 'evap']), open).state).toBe('driving');
    // EVAP is not of this drive: it does not keep it going.
    expect(coachNow(general(['evap']), open).state).toBe('all-done');
  });

  test('what was lost, how much of it and why; a channel that falls silent takes its seconds back', () => {
    const held = [...rows(0, 20), ...rows(41, 201)];
    const broke = coachNow(after([...held, ...rows(30, 12)]), ['evap']);
    expect(broke.lost).toMatchObject({ heldS: expect.closeTo(200, -1), lapse: { condition: 'vss' } });
    expect(inWords(broke.lost!.lapse.why, 'own')).toBe('road speed left 40 to 43 mph');
    let s = after(held);
    for (let t = 222; t < 229; t++) s = coachSample(s, { t, values: { ect: 80, rpm: 1700 } });
    expect(coachNow(s, ['evap']).lost).toMatchObject({
      heldS: expect.closeTo(5, 0),
      lapse: { condition: 'vss', value: null },
    });
  });

  test('a car that rolls where it is to stand is told to stop, whatever the pedal does', () => {
    let s = coachStart(driveProcedure('seven-stations')!, all);
    for (let t = 0; t < 5; t++) s = coachSample(s, { t, values: { vss: 20, rpm: 1800, ect: 85 } });
    expect(coachNow(s, ['fuelSystem'])).toMatchObject({
      step: { id: 'fuel-adaptation' },
      standing: true,
      channel: 'vss',
      side: 'over',
    });
    s = coachSample(s, { t: 5, values: { vss: 0, rpm: 1800, ect: 85 } });
    expect(coachNow(s, ['fuelSystem'])).toMatchObject({ standing: true, channel: 'rpm', side: 'over' });
  });
});

describe('go or no go at key-on', () => {
  const row = (c: ReturnType<typeof startCheck>, id: string) => c.rows.find((r) => r.id === id);

  test('each condition with its figure; what does not hold names what it spoils', () => {
    expect(startCheck(CRUISE, GOOD, ['evap', 'o2Sensor']).verdict).toBe('go');
    const full = startCheck(CRUISE, { ...GOOD, fuelPct: 91 }, ['evap', 'o2Sensor']);
    expect(full.verdict).toBe('no-go');
    expect(row(full, 'fuel-level')).toMatchObject({ state: 'no-go', spoils: ['evap'] });
    expect(row(full, 'fuel-level')!.why).toBe('Fuel level 91 % is over 75 %.');
    const { fuelPct: _, ...unknown } = GOOD;
    expect(startCheck(CRUISE, unknown, ['evap']).verdict).toBe('unknown');
  });

  test('only what a wanted step needs is asked', () => {
    // The tank is EVAP’s matter alone.
    const c = startCheck(CRUISE, { ...GOOD, fuelPct: 91 }, ['o2Sensor']);
    expect([c.verdict, row(c, 'fuel-level'), row(c, 'soak')]).toEqual(['go', undefined, undefined]);
  });

  test('a full tank: the drive is coached for what it can bring, and is not complete', () => {
    const car = { ...GOOD, fuelPct: 91 };
    let s = coachStart(CRUISE, new Set(['vss', 'rpm', 'ect']));
    for (const sample of driveSamples(CRUISE, steady(900))) s = coachSample(s, sample);
    expect(coachNow(s, ['evap', 'o2Sensor'], car).state).toBe('all-done');
    expect(coachNow(coachStart(CRUISE, new Set()), ['evap'], car)).toMatchObject({ state: 'driving' });
    const review = reviewOf(s, car);
    expect([review.result, step(review, 'cruise-evap').state]).toEqual(['failed', 'not-possible']);
  });

  const NOW = '2026-02-04T06:00:00Z';
  const key = (more: Partial<Parameters<typeof carAtKeyOn>[1]>) => {
    const car = carAtKeyOn(CRUISE, { at: NOW, planned: {}, values: {}, ranAt: [], rpm: [], ...more });
    const whole = (t: string | null | undefined) => (t ? isoOf(unixOf(t)!).replace('.000', '') : undefined);
    return { ...car, startedAt: whole(car.startedAt), engineOffSince: whole(car.engineOffSince) };
  };

  test('what the car says beats what was planned, but for its height and the names of its codes', () => {
    const planned = {
      fuelPct: 60,
      altitudeM: 300,
      coolantC: 85,
      codes: ['P0442'],
      engineOffSince: '2026-02-03T20:00:00Z',
    };
    const values = { fuelLevel: 91, baro: 90, ect: 11, monitorStatus: '82076500' };
    expect(key({ planned, values })).toMatchObject({
      ...{ fuelPct: 91, altitudeM: 300, coolantC: 11, codes: ['P0442'], lamp: 'on' },
      ...{ engineOffSince: '2026-02-03T20:00:00Z', startedAt: NOW },
    });
    // Erased since it was recorded.
    expect(key({ planned, values: { monitorStatus: '00076500' } })).toMatchObject({ codes: [], lamp: 'off' });
    expect(key({ planned }).coolantC).toBeUndefined();
  });

  test('a run that the shop knows of ends the soak that was typed; alone it proves only one that is too short', () => {
    const planned = { engineOffSince: '2026-02-03T20:00:00Z' };
    expect(key({ planned, ranAt: ['2026-02-04T05:50:00Z', '2026-02-03T19:00:00Z'] }).engineOffSince).toBe(
      '2026-02-04T05:50:00Z',
    );
    expect(key({ ranAt: ['2026-02-04T05:50:00Z'] }).engineOffSince).toBe('2026-02-04T05:50:00Z');
    expect(key({ ranAt: ['2026-02-02T05:50:00Z'] }).engineOffSince).toBeUndefined();
    // One that lies after the start is not of before it.
    expect(key({ planned, ranAt: ['2026-02-04T07:00:00Z'] }).engineOffSince).toBe(planned.engineOffSince);
  });

  test('the link heard it stop and start: the soak is from there to there', () => {
    const t0 = unixOf(NOW)!;
    const heard = [900, 0, 0, 0, 800, 820].map((v, i) => ({ t: t0 - 60 + 10 * i, v }));
    expect(key({ rpm: heard })).toMatchObject({
      engineOffSince: '2026-02-04T05:59:00Z',
      startedAt: '2026-02-04T05:59:40Z',
    });
    // Running all the while: nobody knows since when.
    expect(key({ rpm: [{ t: t0 - 5, v: 800 }] })).toEqual({ startedAt: NOW, engineOffSince: undefined });
  });

  test('the evening before a cold start; nothing where nothing has to soak', () => {
    const list = tonight(CRUISE, ['evap']).map((x) => inWords(x, 'own'));
    expect(list[0]).toBe('Fuel level 50 to 75 %: fill or burn it off today, not in the morning.');
    expect(list.join(' ')).toMatch(/level ground.*keys far away.*memory saver.*alarm/s);
    expect(tonight(CRUISE, ['o2Sensor'])).toEqual([]);
    expect(tonight(driveProcedure('general')!, null)).toEqual([]);
  });
  test('a step in words, by what it is for', () => {
    expect(inWords(stepWords(CRUISE, 'cruise-evap'), 'own')).toBe('the step for EVAP');
    expect(inWords(stepWords(CRUISE, 'idle'), 'own')).toBe('“Start, and idle where it stands”');
    expect(inWords(stepWords(CRUISE, 'of-another'), 'own')).toBe('of another');
  });
});

describe('properties', () => {
  const speeds = fc.array(
    fc.record({
      n: fc.integer({ min: 1, max: 120 }),
      mph: fc.constantFrom(0, 20, 38, 41, 42.5, 47, 60),
      heard: fc.boolean(),
    }),
    { minLength: 1, maxLength: 25 },
  );
  const rowsOf = (list: { n: number; mph: number; heard: boolean }[]) =>
    list.flatMap(({ n, mph, heard }) =>
      Array.from({ length: n }, () =>
        heard ? { vss: mph * KMH_PER_MPH, rpm: mph === 0 ? 750 : 1800, ect: 85 } : null,
      ),
    );
  test('live second by second is the same as a replay; time never runs back; nothing is held longer than it took', () => {
    fc.assert(
      fc.property(speeds, fc.constantFrom(...DRIVE_PROCEDURES), (list, p) => {
        const series = drive(rowsOf(list));
        if (series.channels.length === 0) return;
        let s = coachStart(p, new Set(series.channels.map((c) => c.id)));
        const done = new Map<string, number>();
        for (const sample of driveSamples(p, series)) {
          s = coachSample(s, sample);
          // One that comes late changes nothing.
          expect(coachSample(s, { t: sample.t - 1, values: { vss: 500 } })).toBe(s);
          for (const r of reviewOf(s, GOOD).steps) {
            if (done.has(r.id)) expect([r.id, r.state, r.toS]).toEqual([r.id, 'done', done.get(r.id)]);
            if (r.state === 'done') done.set(r.id, r.toS!);
            if (r.fromS !== null && r.toS !== null) {
              expect(r.toS).toBeGreaterThanOrEqual(r.fromS);
              if (p.id !== 'seven-stations') expect(r.heldS).toBeLessThanOrEqual(r.toS - r.fromS + 0.05);
            }
            expect(r.heldS).toBeGreaterThanOrEqual(0);
            for (const b of r.broken) expect(b.atS).toBeLessThanOrEqual(sample.t);
          }
        }
        const car = { ...GOOD, coolantC: 85 };
        expect(reviewOf(s, car)).toEqual(reviewDrive(p, series, car));
      }),
      { numRuns: 25 },
    );
  });
});

describe('the plan', () => {
  const request = (change: Partial<CarState> = {}, more: object = {}) => ({
    procedure: CRUISE,
    now: '2026-02-10T16:30:00Z',
    state: {
      engineOffSince: '2026-02-10T16:00:00Z',
      coolantC: 82,
      intakeC: 14,
      altitudeM: 420,
      fuelPct: 66,
      tankL: 60,
      consumptionLPer100Km: 7.5,
      lamp: 'off' as const,
      codes: [],
      incomplete: ['evap'],
      ...change,
    },
    forecast: [
      { at: '2026-02-10T12:00:00Z', airC: 12 },
      { at: '2026-02-11T12:00:00Z', airC: 12 },
    ],
    ...more,
  });
  const of = (r: ReturnType<typeof planDrive>, id: string) => r.conditions.find((c) => c.id === id)!;

  test('the soak by the clock is the earliest start; straight to what is open', () => {
    const r = planDrive(request());
    expect(of(r, 'soak')).toMatchObject({ state: 'not-yet', holdsFrom: '2026-02-11T00:00:00Z', holdsUntil: null });
    expect(r).toMatchObject({
      earliestStart: '2026-02-11T00:00:00Z',
      couldFinish: ['evap'],
      goStraightTo: 'cruise-evap',
      minutes: 20,
    });
    expect(planDrive(request({ engineOffSince: '2026-02-10T06:00:00+01:00' })).earliestStart).toBe(
      '2026-02-10T16:30:00Z',
    );
  });
  test('fuel: litres and kilometres to burn, litres to add; something must be done first', () => {
    // 60 L tank: 90 % down to 75 % are 9 L; at 7.5 L per 100 km that is 120 km.
    expect(of(planDrive(request({ fuelPct: 90 })), 'fuel-level')).toMatchObject({
      state: 'never',
      litres: -9,
      km: 120,
    });
    expect(of(planDrive(request({ fuelPct: 35 })), 'fuel-level')).toMatchObject({ state: 'never', litres: 9 });
    expect(planDrive(request({ fuelPct: 90 })).earliestStart).toBeNull();
    expect(planDrive(request({ lamp: 'on' })).earliestStart).toBeNull();
    expect(planDrive(request({ codes: ['P0420'] })).earliestStart).toBeNull();
  });
  test('outside air by a forecast: the first moment at which it and the soak hold together', () => {
    // From 10 °C at 18:00 to −2 °C at 06:00 and 10 °C at 18:00: 40 °F (4.44 °C) is crossed at 23:33:20 and 12:26:40.
    const forecast = [
      { at: '2026-02-10T16:00:00Z', airC: 10 },
      { at: '2026-02-10T18:00:00Z', airC: 10 },
      { at: '2026-02-11T06:00:00Z', airC: -2 },
      { at: '2026-02-11T18:00:00Z', airC: 10 },
    ];
    const r = planDrive(request({}, { forecast }));
    expect(of(r, 'ambient')).toMatchObject({ state: 'holds', holdsUntil: '2026-02-10T23:33:20Z' });
    expect(r.earliestStart).toBe('2026-02-11T12:26:40Z');
    const cold = planDrive(request({}, { forecast: forecast.map((p) => ({ ...p, airC: p.airC - 30 })) }));
    expect(of(cold, 'ambient').state).toBe('never');
  });
  test('a forecast that begins later and holds then: not yet, and from when', () => {
    const forecast = [
      { at: '2026-02-11T06:00:00Z', airC: -2 },
      { at: '2026-02-11T18:00:00Z', airC: 10 },
    ];
    const r = planDrive(request({ ambientC: 0 }, { forecast }));
    expect(of(r, 'ambient')).toMatchObject({ state: 'not-yet', holdsFrom: '2026-02-11T12:26:40Z' });
  });
  test('what only a step needs that finishes nothing open keeps nobody waiting', () => {
    // A hot engine and a full tank are the matter of EVAP and secondary air alone.
    const hot = { coolantC: 92, fuelPct: 91, incomplete: ['o2Sensor'] };
    const cruise = planDrive(request(hot));
    expect([of(cruise, 'fuel-level').state, of(cruise, 'soak').state]).toEqual(['never', 'not-yet']);
    expect(cruise.earliestStart).toBe('2026-02-10T16:30:00Z');
    expect(planDrive(request({ ...hot, incomplete: ['o2Sensor', 'evap'] })).earliestStart).toBeNull();
    const stations = {
      ...request({ coolantC: 92, incomplete: ['catalyst'] }),
      procedure: driveProcedure('seven-stations')!,
    };
    expect(planDrive(stations).earliestStart).toBe('2026-02-10T16:30:00Z');
    expect(
      planDrive({ ...stations, state: { ...stations.state, incomplete: ['secondaryAir'] } }).earliestStart,
    ).not.toBe('2026-02-10T16:30:00Z');
  });
  test('outside air exactly at its limit holds; a tenth below it does not, where no forecast says when', () => {
    // From 40 °F on: 4.44 °C.
    const at = (ambientC: number) => of(planDrive(request({ ambientC }, { forecast: [] })), 'ambient').state;
    expect([at(40 / 1.8 - 32 / 1.8), at(40 / 1.8 - 32 / 1.8 - 0.1)]).toEqual(['holds', 'unknown']);
  });
  test('what is not known: the start is given, with a warning', () => {
    const r = planDrive(request({ fuelPct: undefined }, { forecast: [] }));
    expect(of(r, 'ambient').state).toBe('unknown');
    expect(r.earliestStart).toBe('2026-02-11T00:00:00Z');
    expect(r.warnings.join(' ')).toMatch(/Not known: outside air\..*Not known: fuel level\./);
    const short = planDrive(
      request(
        {},
        {
          forecast: [
            { at: '2026-02-10T16:00:00Z', airC: 12 },
            { at: '2026-02-10T17:00:00Z', airC: 12 },
          ],
        },
      ),
    );
    expect(short.warnings.join(' ')).toMatch(/forecast does not reach/);
    // Warm only until the soak is over: no start, and a longer forecast is asked for; only then.
    const airs: readonly (readonly [number, number])[] = [
      [12, 12],
      [20, 12],
      [21, -25],
      [36, -25],
    ];
    const cold = airs.map(([h, airC]) => ({ at: isoOf(unixOf('2026-02-10T00:00:00Z')! + h * 3600), airC }));
    const never = planDrive(request({}, { forecast: cold }));
    expect([never.earliestStart, never.warnings.join(' ')]).toEqual([null, expect.stringMatching(/enter more hours/)]);
    for (const other of [r, short]) expect(other.warnings.join(' ')).not.toMatch(/enter more hours/);
  });
  test('forecast windows against every minute looked at by itself', () => {
    fc.assert(
      fc.property(
        fc.array(fc.integer({ min: -20, max: 40 }), { minLength: 2, maxLength: 8 }),
        fc.integer({ min: -10, max: 20 }),
        fc.integer({ min: 1, max: 20 }),
        (temperatures, low, width) => {
          const t0 = unixOf('2026-02-10T00:00:00Z')!;
          const points = temperatures.map((airC, i) => ({ at: isoOf(t0 + i * 3600), airC }));
          const { windows } = forecastWindows(points, t0 * 1000, low, low + width)!;
          for (let minute = 0; minute <= (temperatures.length - 1) * 60; minute += 7) {
            const i = Math.min(temperatures.length - 2, Math.floor(minute / 60));
            const v = temperatures[i]! + (temperatures[i + 1]! - temperatures[i]!) * (minute / 60 - i);
            if (Math.min(Math.abs(v - low), Math.abs(v - low - width)) < 1e-6) continue;
            const t = (t0 + minute * 60) * 1000;
            const inside = windows.some((w) => w.from <= t && t <= w.to!);
            expect([minute, inside]).toEqual([minute, v >= low && v <= low + width]);
          }
        },
      ),
      { numRuns: 60 },
    );
  });
  test('cooling against an exact exponential', () => {
    // Newton's law of cooling: above(t) = above(0) · exp(−t / τ).
    const tau = 2.2;
    const above = (h: number) => 70 * Math.exp(-h / tau);
    expect(coolingHours(70, above(3.3), tau)).toBeCloseTo(3.3, 9);
    expect(coolingHours(5, 7, tau)).toBe(0);
    expect(coolingHours(70, 0, tau)).toBe(Number.POSITIVE_INFINITY);
    const readings = [0, 0.5, 1.7, 4].map((h) => ({ h, aboveC: above(h) }));
    expect(coolingConstant(readings)).toBeCloseTo(tau, 9);
    expect(coolingConstant(readings.slice(0, 1))).toBeNull();
    expect(
      coolingConstant([
        { h: 0, aboveC: 20 },
        { h: 1, aboveC: 30 },
      ]),
    ).toBeNull();
  });
  test('coolant close to the air: after about so many hours, with how cars differ', () => {
    const procedure: DriveProcedure = {
      ...CRUISE,
      before: [
        { id: 'coolant-to-air', high: 7, unit: '°C' },
        { id: 'battery', low: 12.4, unit: 'V' },
      ],
    };
    const r = planDrive({ ...request({ batteryV: 12.6 }), procedure });
    // 68 °C above the air to 7: 2.27 time constants of 2.5 h.
    expect(of(r, 'coolant-to-air')).toMatchObject({
      state: 'not-yet',
      why: expect.stringMatching(/about 5\.7 h \(3\.6 to 8\.6 h\)/),
    });
    expect(of(r, 'battery').state).toBe('holds');
    expect(of(planDrive({ ...request({ batteryV: 11.8 }), procedure }), 'battery').state).toBe('never');
  });
});

describe('times with a zone', () => {
  test('against the platform’s own reader', () => {
    for (const t of [
      '2026-02-10T16:30:00Z',
      '2026-02-10T16:30:00+05:30',
      '2024-02-29T23:59:59.250-08:00',
      '1999-12-31T00:00Z',
    ])
      expect(unixOf(t)).toBe(new Date(t).getTime() / 1000);
    for (const t of ['2026-02-10', 'yesterday', '2026-13-01T00:00:00Z', '2026-02-10T16:30:00'])
      expect(unixOf(t)).toBeNull();
  });
});
