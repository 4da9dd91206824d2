import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import { fromHex, IsoTpReceiver } from '../src/can/index.ts';
import { CAPTURE_POINTS } from '../src/capture/index.ts';
import { TESTS } from '../src/catalogue/index.ts';
import { decodeMonitors, decodeResponse, decodeTestResults, readinessOf } from '../src/obd/index.ts';
import { CAUTIONS, cautionsFor, PRECEDENCE, WORK_STEPS } from '../src/procedures/index.ts';
import { pendingLine } from '../src/proof/index.ts';
import {
  allComplete,
  askRule,
  attemptTotals,
  type ClearingSigns,
  clearedLately,
  DRIVE_PROCEDURES,
  distanceKm,
  INSPECTION_RULES,
  marginWords,
  monitorOfCode,
  monitorPicture,
  planDrive as planDrive_,
  provingMonitors,
  ruleProblems,
  settlesLines,
  sharedConditions,
  twoTripsSince,
} from '../src/readiness/index.ts';
import { inWords } from '../src/units/index.ts';

const planDrive = (...given: Parameters<typeof planDrive_>) => inWords(planDrive_(...given), 'own');

describe('cautions', () => {
  test('every step that a person carries out has at least one', () => {
    expect(WORK_STEPS.filter((s) => cautionsFor(s).length === 0)).toEqual([]);
  });
  test('every test and every guided point is a step', () => {
    for (const t of TESTS) expect(WORK_STEPS).toContain(`test:${t.id}`);
    for (const p of CAPTURE_POINTS) {
      expect(WORK_STEPS).toContain(`read:${p.at}`);
      expect(WORK_STEPS).toContain(`prove:${p.at}`);
    }
  });
  test('no caution names a step that does not exist', () => {
    for (const c of CAUTIONS) for (const s of c.steps) expect(WORK_STEPS).toContain(s);
  });
  test('every row says its source, once and plainly', () => {
    for (const c of CAUTIONS) {
      expect(c.source.length).toBeGreaterThan(3);
      expect(c.text.length).toBeLessThan(160);
    }
    expect(new Set(CAUTIONS.map((c) => c.id)).size).toBe(CAUTIONS.length);
  });
  test.each([
    ['test:enrich-survey', 'enrichment'],
    ['test:fuel-pressure', 'fuel-pressure'],
    ['readiness-drive', 'road-test'],
    ['read:idle', 'running-engine'],
    ['test:pinch-pcv', 'pinch'],
    ['record', 'keep-before-clear'],
  ])('%s carries %s', (step, id) => expect(cautionsFor(step).map((c) => c.id)).toContain(id));
  test('service information wins', () =>
    expect(PRECEDENCE).toMatch(/Service information.*local law.*licensed practice win/));
});

const status = (bytes: number[]) => decodeMonitors(Uint8Array.from(bytes));
const evapOpen = status([0x00, 0x07, 0x65, 0x04]);
const catOpen = status([0x00, 0x07, 0x65, 0x01]);
const twoOpen = status([0x00, 0x07, 0x65, 0x05]);
const allDone = status([0x00, 0x07, 0x65, 0x00]);

describe('inspection rules', () => {
  const asked = (
    s: typeof evapOpen,
    year: number | undefined,
    more: Partial<{ fuel: 'petrol' | 'diesel'; stored: number; permanent: number }> = {},
  ) => INSPECTION_RULES.map((r) => askRule(r, { monitors: s, year, fuel: 'petrol', stored: 0, permanent: 0, ...more }));
  const accepts = (...q: Parameters<typeof asked>) => asked(...q).map((a) => a.accepts);
  test('US federal: 1996–2000 two, 2001 on one (from memory); the strict state: from 2000 only EVAP (common practice)', () => {
    expect(accepts(evapOpen, 2014)).toEqual([true, true]);
    expect(accepts(catOpen, 2014)).toEqual([true, false]);
    expect(accepts(twoOpen, 2014)).toEqual([false, false]);
    expect(accepts(twoOpen, 1998)).toEqual([true, false]);
    expect(accepts(catOpen, 1998)).toEqual([true, true]);
  });
  test('diesel in the strict state: none to 2006, two from 2007 (common practice); the federal one says nothing', () => {
    const open = status([0x00, 0x0f, 0xc3, 0x02]);
    expect(accepts(open, 2005, { fuel: 'diesel' })).toEqual([null, false]);
    expect(accepts(open, 2012, { fuel: 'diesel' })).toEqual([null, true]);
  });
  test('a lamp that is on fails; an unknown year is not answered; permanent codes may fail', () => {
    expect(accepts(status([0x81, 0x07, 0x65, 0x00]), 2014)).toEqual([false, false]);
    expect(accepts(evapOpen, undefined)).toEqual([null, null]);
    expect(accepts(evapOpen, 1990)).toEqual([null, null]);
    expect(asked(evapOpen, 2014, { permanent: 1 })[1]!.reasons).toContain('1 permanent code: may fail');
    expect(asked(allDone, 1997)[1]!.extras.map((e) => e.test)).toEqual(['dynamometer', 'cap']);
  });
  test('whether everything is complete is another question than what a rule takes', () => {
    expect([allComplete(evapOpen), accepts(evapOpen, 2014)[0]]).toEqual([false, true]);
    expect(allComplete(allDone)).toBe(true);
  });
  test('rules are dated data with a source and a place; two bands for one vehicle are refused', () => {
    for (const r of INSPECTION_RULES) {
      expect(r.source.length).toBeGreaterThan(3);
      expect(r.asOf).toMatch(/^\d{4}(-\d{2})?$/);
      expect(ruleProblems(r)).toEqual([]);
    }
    const twice = {
      ...INSPECTION_RULES[0]!,
      bands: [
        ...INSPECTION_RULES[0]!.bands,
        { fuel: 'petrol' as const, fromYear: 1999, allowed: 0, only: ['evpa' as never] },
      ],
    };
    expect(ruleProblems(twice).map((p) => p.field)).toEqual(['bands[2].fromYear', 'bands[2].only[0]']);
  });
});

describe('cleared not long ago (common practice, no source)', () => {
  const signs = (s: Partial<ClearingSigns>): ClearingSigns => ({
    monitors: allDone,
    warmupsSinceClear: 60,
    distanceSinceClearKm: 900,
    minutesSinceClear: 4000,
    stored: 0,
    permanent: 0,
    longPct: [],
    ...s,
  });
  const verdict = (s: Partial<ClearingSigns>) => clearedLately(signs(s)).verdict;
  test('several signs say so, one perhaps, counters that go back far say no', () => {
    expect(verdict({ warmupsSinceClear: 2, distanceSinceClearKm: 30 })).toBe('yes');
    expect(verdict({ warmupsSinceClear: 2 })).toBe('maybe');
    expect(verdict({})).toBe('no');
    expect(
      verdict({ monitors: null, warmupsSinceClear: null, distanceSinceClearKm: null, minutesSinceClear: null }),
    ).toBe('unknown');
    // No counters at all: two monitors open and a permanent code without a stored one.
    expect(
      verdict({
        monitors: twoOpen,
        warmupsSinceClear: null,
        distanceSinceClearKm: null,
        minutesSinceClear: null,
        permanent: 1,
      }),
    ).toBe('yes');
  });
  test('a battery is the other explanation, and trims of exactly 0 speak for it', () => {
    const a = clearedLately(signs({ warmupsSinceClear: 1, distanceSinceClearKm: 4, longPct: [0, 0] }));
    expect(a.battery.join(' ')).toMatch(/exactly 0.*battery that was off.*charging voltage/s);
    expect(a.buyer).toMatch(/until shown otherwise/);
    // Trims that nobody read, and one of two that moved, are none of exactly 0.
    for (const longPct of [[], [0, 1.6]])
      expect(
        clearedLately(signs({ warmupsSinceClear: 1, distanceSinceClearKm: 4, longPct })).battery.join(' '),
      ).not.toMatch(/exactly 0/);
    expect(clearedLately(signs({})).battery).toEqual([]);
  });
});

describe('monitors in one picture', () => {
  // SAE J1979 appendix (from memory): monitor, test, unit, value, least, most.
  const rows = decodeTestResults(
    Uint8Array.from([
      ...[0x21, 0x80, 0x04, 0x00, 0x9b, 0x00, 0x00, 0x00, 0xfa],
      ...[0x41, 0x81, 0x0e, 0x02, 0x58, 0x01, 0x90, 0xff, 0xff],
      ...[0x01, 0x05, 0x10, 0x00, 0x78, 0x00, 0x14, 0x00, 0x64],
      ...[0x3c, 0x80, 0xfe, 0x00, 0x00, 0x80, 0x00, 0x7f, 0xff],
    ]),
  )!;
  test('margins: to the only limit as a share of it, to the nearer one of two, none where nothing is limited', () => {
    // 155 of 250; 600 over 400; 120 past 100 in a window of 20 to 100.
    expect(rows.map((r) => r.sparePct)).toEqual([38, 50, -50, null]);
    expect(rows.map(marginWords)).toEqual([
      'passed with 38 % to spare',
      'passed with 50 % to spare',
      'past its limit by 50 %',
      'passed',
    ]);
    expect([0x05, 0x22, 0x33, 0x36, 0x3d, 0x44, 0xa2, 0xee].map(readinessOf)).toEqual([
      'o2Sensor',
      'catalyst',
      'egrVvt',
      'egrVvt',
      'evap',
      'o2Heater',
      'misfire',
      null,
    ]);
  });
  test('fitted, complete, run in this drive, switched off for it; continuous ones prove nothing alone', () => {
    const picture = monitorPicture(twoOpen, status([0x00, 0x07, 0x61, 0x41]), rows, ['catalyst']);
    const of = (id: string) => picture.find((r) => r.id === id)!;
    expect([of('catalyst').thisDrive, of('evap').thisDrive, of('o2Sensor').thisDrive]).toEqual([
      'not-yet',
      'off',
      'ran',
    ]);
    expect([of('catalyst').sparePct, of('catalyst').proves, of('evap').proves]).toEqual([38, true, false]);
    expect(
      picture.filter((r) => r.continuous).every((r) => /proves nothing alone|not this|in range/.test(r.note)),
    ).toBe(true);
    expect(of('secondaryAir').state).toBe('unsupported');
  });
  test('which monitor proves which repair: by the most particular code, else by the fault (SAE J2012, from memory)', () => {
    expect(provingMonitors(['P0420'], null)).toEqual(['catalyst']);
    // P013x is the sensor, P0135 its heater.
    expect(provingMonitors(['P0133', 'P0135'], null)).toEqual(['o2Sensor', 'o2Heater']);
    expect(provingMonitors(['P0171'], null)).toEqual(['fuelSystem']);
    expect(provingMonitors([], 'evap-leak')).toEqual(['evap']);
    expect(provingMonitors([], 'vac-leak')).toEqual([]);
  });
});

describe('what settles itself', () => {
  const at = (day: number) => Date.UTC(2026, 2, day);
  test('permanent and pending codes, open monitors: a line each, with a reminder until they settle', () => {
    const first = {
      atMs: at(1),
      open: ['evap' as const],
      warmupsSinceClear: 1,
      codes: [
        { code: 'P0442', state: 'permanent' as const },
        { code: 'P0171', state: 'pending' as const },
      ],
    };
    const lines = settlesLines([first], ['evap'], null);
    expect(lines.map((l) => [l.id, l.state, l.remindAtMs])).toEqual([
      ['permanent-P0442', 'open', at(8)],
      ['pending-P0171', 'open', at(8)],
      ['monitor-evap', 'open', at(8)],
    ]);
    expect(lines[2]!.text).toMatch(/proves this repair/);
    const later = {
      atMs: at(9),
      open: [],
      warmupsSinceClear: 20,
      codes: [{ code: 'P0171', state: 'stored' as const }],
    };
    expect(settlesLines([first, later], [], null).map((l) => l.state)).toEqual([
      'settled',
      'came-back',
      'settled',
      'open',
    ]);
  });
  test.each([
    ['an hour after the repair', at(4) + 3_600_000, 0, 'open', 'too early'],
    ['two days after it', at(6), null, 'settled', 'stays away'],
  ] as const)(
    'a pending code that is gone %s: the same as the proof says',
    (_, atMs, warmupsSinceClear, state, proof) => {
      const pending = { code: 'P0171', state: 'pending' as const };
      const records = [
        { atMs: at(1), open: null, warmupsSinceClear: 30, codes: [pending] },
        { atMs, open: null, warmupsSinceClear, codes: [] },
      ];
      const repairedMs = at(4);
      expect(settlesLines(records, [], repairedMs).map((l) => l.state)).toEqual([state]);
      expect(pendingLine({ repairedMs, records, codesBefore: ['P0171'] })!.state).toBe(proof);
    },
  );
});

describe('a pending code settles after drives, not after days', () => {
  const at = (day: number) => day * 86_400_000;
  const record = (day: number, warmupsSinceClear: number | null, more: object = {}) => ({
    ...{ atMs: at(day), open: null, warmupsSinceClear, codes: [] as { code: string; state: 'pending' }[] },
    ...more,
  });
  const pending = [{ code: 'P0420', state: 'pending' as const }];
  test('a car that stood is not driven: the count of warm-ups goes on from before, or begins anew', () => {
    // Nothing cleared: 30 warm-ups then, 30 a week later.
    expect(twoTripsSince(at(4), record(11, 30), record(1, 30))).toBe(false);
    expect(twoTripsSince(at(4), record(11, 32), record(1, 30))).toBe(true);
    // Cleared between: it counts from there.
    expect(twoTripsSince(at(4), record(11, 1), record(1, 30))).toBe(false);
    expect(twoTripsSince(at(4), record(5, 2), record(1, 30))).toBe(true);
    // Minutes later nothing was driven, whatever the count says.
    expect(twoTripsSince(at(4), { atMs: at(4) + 600_000, warmupsSinceClear: 9 }, null)).toBe(false);
    // A full count, or none, says nothing: then days have to.
    expect(twoTripsSince(at(4), record(5, 255), record(1, 255))).toBe(false);
    expect(twoTripsSince(at(4), record(6, null), null)).toBe(true);
  });
  test('its own monitor has to have run', () => {
    const first = record(1, 30, { codes: pending });
    const lines = (open: ('catalyst' | 'evap')[]) => settlesLines([first, record(6, 34, { open })], [], at(4));
    const mine = (open: ('catalyst' | 'evap')[]) => lines(open).find((l) => l.id === 'pending-P0420')!;
    expect([mine(['catalyst']).state, mine(['catalyst']).text]).toEqual([
      'open',
      'P0420, pending before, has not come again so far; its monitor has not run yet.',
    ]);
    expect(mine(['evap']).state).toBe('settled');
    const proof = (open: ('catalyst' | 'evap')[]) =>
      pendingLine({ repairedMs: at(4), records: [first, record(6, 34, { open })], codesBefore: ['P0420'] })!;
    expect(proof(['catalyst'])).toMatchObject({
      state: 'too early',
      text: expect.stringMatching(/P0420 \(Catalyst\)/),
    });
    expect(proof([]).state).toBe('stays away');
  });
  // SAE J2012 groups codes by what they are about (from memory).
  test.each([
    ['P0171', 'fuelSystem'],
    ['P0174', 'fuelSystem'],
    ['P0300', 'misfire'],
    ['P0430', 'catalyst'],
    ['P0442', 'evap'],
    ['P0401', 'egrVvt'],
    ['P0411', 'secondaryAir'],
    ['P0135', 'o2Heater'],
    ['P0133', 'o2Sensor'],
    ['P0101', null],
    ['B1234', null],
  ])('%s is judged by %s', (code, monitor) => expect(monitorOfCode(code)).toBe(monitor));
});

describe('drives of a vehicle', () => {
  const attempt = (done: string[], what: string, road = 'ring road') => ({
    procedure: 'general',
    result: 'incomplete' as const,
    done,
    broke: [{ what, reason: 'left the band', atS: 3 }],
    distanceKm: 12.4,
    minutes: 20,
    road,
    stillOpen: null,
  });
  test('counted with their distance; the best; what breaks most on which road', () => {
    const t = attemptTotals([
      attempt(['idle'], 'cruise'),
      attempt(['idle', 'run'], 'cruise'),
      attempt([], 'idle', 'hill'),
    ]);
    expect([t.count, t.distanceKm, t.best]).toEqual([3, 37.2, 1]);
    expect(t.breaks.map((b) => [b.what, b.road, b.times])).toEqual([
      ['cruise', 'ring road', 2],
      ['idle', 'hill', 1],
    ]);
    expect(attemptTotals([]).best).toBeNull();
  });
  test('distance under a speed trace; a gap is not driven', () => {
    // 30 s from 0 to 72 km/h: 0.3 km. Then a gap of a minute, then 10 s at 36 km/h: 0.1 km.
    const time = [...Array.from({ length: 31 }, (_, t) => t), 90, 95, 100];
    const kmh = [...Array.from({ length: 31 }, (_, t) => 2.4 * t), 36, 36, 36];
    expect(distanceKm(time, kmh)).toBeCloseTo(0.4, 6);
  });
  test('where procedures disagree, what suits all', () => {
    const fuel = sharedConditions(DRIVE_PROCEDURES).find((s) => s.id === 'fuel-level')!;
    expect([fuel.low, fuel.high, fuel.none]).toEqual([50, 75, false]);
    const ambient = sharedConditions(DRIVE_PROCEDURES).find((s) => s.id === 'ambient')!;
    // 40 to 100 °F, and −7 °C or more.
    expect([Math.round(ambient.low!), ambient.high, ambient.unit]).toEqual([40, 100, '°F']);
  });
  test('a car’s own cooling against an exact exponential', () => {
    const procedure = DRIVE_PROCEDURES.find((p) => p.id === 'seven-stations')!;
    const tau = 1.9;
    const coolantC = (h: number) => 8 + 78 * Math.exp(-h / tau);
    const iso = (h: number) => new Date(Date.UTC(2026, 2, 4, 18) + h * 3_600_000).toISOString();
    const plan = planDrive({
      procedure,
      now: iso(1.5),
      state: { coolantC: coolantC(1.5), intakeC: 8, fuelPct: 60, codes: [] },
      cooling: [0, 0.5, 1, 1.5].map((h) => ({ at: iso(h), coolantC: coolantC(h) })),
    });
    // At most 104 °F, 40 °C.
    const hours = tau * Math.log(78 / (40 - 8));
    const c = plan.conditions.find((x) => x.id === 'coolant-start')!;
    expect(Math.abs(Date.parse(c.holdsFrom!) - Date.parse(iso(hours)))).toBeLessThan(2000);
    expect(c.why).toMatch(/by its own readings/);
  });
});

describe('monitor bytes against a network analyser’s raw bytes', () => {
  const rows = readFileSync(join(__dirname, 'golden/readiness-dissector.tsv'), 'utf8')
    .split('\n')
    .filter((l) => l && !l.startsWith('#'))
    .map((l) => l.split('\t') as [string, string, string]);
  /** By hand, bit by bit (SAE J1979, from memory): what is fitted and still open. */
  const OPEN: Readonly<Record<string, string[]>> = {
    '00:07:65:00': [],
    '81:07:65:04': ['evap'],
    // A/C is not fitted (C bit 4 of 65 is 0): its open bit says nothing; D 61 = catalyst, oxygen sensor, heater.
    '00:07:65:61': ['catalyst', 'o2Sensor', 'o2Heater'],
    '03:77:ff:ff': [
      'misfire',
      'fuelSystem',
      'comprehensive',
      'catalyst',
      'heatedCatalyst',
      'evap',
      'secondaryAir',
      'acOrGpf',
      'o2Sensor',
      'o2Heater',
      'egrVvt',
    ],
    // Compression ignition: C C3 = NMHC, NOx, particulate filter, EGR; D 02 = NOx.
    '00:0f:c3:02': ['noxScr'],
    // B 4F: misfire incomplete is bit 4, not set; C EB, D 88 = boost, EGR.
    '82:4f:eb:88': ['comprehensive', 'boost', 'egrVvt'],
    '00:08:00:00': [],
  };
  test.each(rows)('%s (%s)', (frame, pid, raw) => {
    const receiver = new IsoTpReceiver();
    const [message] = receiver
      .feed(fromHex(frame.split('#')[1]!)!, 0)
      .flatMap((r) => (r.kind === 'message' ? [r.payload] : []));
    const [decoded] = decodeResponse(message!);
    expect(decoded).toMatchObject({
      name: pid === '01' ? 'monitorStatus' : 'monitorStatusCycle',
      value: raw.replaceAll(':', '').toUpperCase(),
    });
    const status_ = decodeMonitors(message!.subarray(2));
    expect(status_.monitors.filter((m) => m.state === 'incomplete').map((m) => m.id)).toEqual(OPEN[raw]);
    const first = Number.parseInt(raw.slice(0, 2), 16);
    expect([status_.lampOn, status_.codeCount]).toEqual([first >= 128, first % 128]);
  });
  test('both parameters, petrol and diesel, were compared', () => {
    expect(rows).toHaveLength(14);
    expect(new Set(rows.map((r) => r[1]))).toEqual(new Set(['01', '41']));
  });
});
