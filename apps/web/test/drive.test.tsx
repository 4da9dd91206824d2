import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { JobView } from '@just-balance/contract';
import type { Sample } from '@just-balance/core/link';
import { type CoachNow, DRIVE_PROCEDURES, type DriveAttempt } from '@just-balance/core/readiness';
import type { Series } from '@just-balance/core/series';
import { act, cleanup, screen, waitFor, within } from '@testing-library/react';
import { format } from 'date-fns';
import ICAL from 'ical.js';
import type { JobLive } from '../src/data/live.tsx';
import { outbox } from '../src/data/queue.ts';
import type { TracePoint } from '../src/data/traces.ts';
import { calendarFile } from '../src/job/work/calendar.ts';
import { driveNumber } from '../src/job/work/car.ts';
import { DriveReview } from '../src/recordings/DriveReview.tsx';
import { Coach } from '../src/stations/readiness/Coach.tsx';
import { instruction } from '../src/stations/readiness/CoachDriving.tsx';
import { DrivePlan } from '../src/stations/readiness/DrivePlan.tsx';
import { linesOf, pastedLines, pointsOf, textOf } from '../src/stations/readiness/forecast.ts';
import { around, EMPTY_JOB, open, SIGNED_IN, server } from './page.tsx';

/** What every screen of a drive asks. */
const ASKED = {
  ...SIGNED_IN,
  'GET /procedures?kind=drive': { body: [] },
  'GET /vehicles/v1/drives': { body: [] },
  'GET /bays': { body: [] },
  'POST /jobs/j1/entries': (a: { body: object }) => ({ body: { ...a.body, rev: 1, at: '', by: 'x', undone: false } }),
};
beforeEach(async () => {
  server(ASKED);
  await outbox.useAccount('a1');
});
afterEach(() => {
  cleanup();
  localStorage.clear();
});

describe('a forecast that was copied elsewhere', () => {
  const now = new Date(2026, 1, 10, 16, 20);
  test('hours run on over midnight; a date may stand before; comma, sign and unit as people write them', () => {
    const text = '16:00 9\n22:00; 4,5\n\n06:00 −2 °C\n2026-02-12 12:30, +7\n';
    const lines = pastedLines(text, now);
    expect(textOf(lines)).toBe('2026-02-10 16:00 9\n2026-02-10 22:00 4.5\n2026-02-11 06:00 −2\n2026-02-12 12:30 +7');
    expect(linesOf(textOf(lines))).toEqual(lines);
    const local = (...at: [number, number, number, number]) => new Date(2026, ...at).toISOString();
    expect(pointsOf(textOf(lines))).toEqual([
      { at: local(1, 10, 16, 0), value: 9 },
      { at: local(1, 10, 22, 0), value: 4.5 },
      { at: local(1, 11, 6, 0), value: -2 },
      { at: local(1, 12, 12, 30), value: 7 },
    ]);
  });
  test('one line that is none of it: nothing is taken; what is no number counts for nothing', () => {
    for (const bad of ['cold', '25:00 4', '08:00']) expect(pastedLines(`07:00 4\n${bad}`, now)).toEqual([]);
    expect(pointsOf('2026-02-10 16:00 \n2026-02-10 17:00 warm\n2026-02-10 18:00 3')).toHaveLength(1);
  });
});

describe('the calendar file', () => {
  // RFC 5545, read by a general-purpose parser.
  test('says when, how long and what, with a reminder', () => {
    const entry = { uid: 'j1-drive@just-balance', title: 'Drive: Tarn, 2.0; grey', at: '2026-02-11T04:15:00Z' };
    const before = Date.parse('2026-02-10T20:00:00Z');
    const text = calendarFile([{ ...entry, minutes: 20, words: 'Steady,\nthen stop.' }], before);
    const calendar = new ICAL.Component(ICAL.parse(text));
    const [component] = calendar.getAllSubcomponents('vevent');
    const event = new ICAL.Event(component!);
    expect([event.uid, event.summary, event.description]).toEqual([entry.uid, entry.title, 'Steady,\nthen stop.']);
    expect(event.startDate.toJSDate().toISOString()).toBe('2026-02-11T04:15:00.000Z');
    expect(event.duration.toSeconds()).toBe(1200);
    expect(component!.getAllSubcomponents('valarm')).toHaveLength(1);
  });
  test('no line is longer than 75 bytes, whatever is in it, and reads back the same', () => {
    const words = `Zündkerze → λ ${'große Öffnung; 12 °C, '.repeat(12)}🚗 fertig`;
    const entry = {
      uid: 'j1@just-balance',
      title: `Prüfung: ${'Übersäuerung '.repeat(9)}`,
      at: '2026-02-11T04:15:00Z',
    };
    const text = calendarFile([{ ...entry, minutes: 20, words }], Date.parse('2026-02-01T00:00:00Z'));
    for (const line of text.split('\r\n')) expect(Buffer.byteLength(line)).toBeLessThanOrEqual(75);
    const [component] = new ICAL.Component(ICAL.parse(text)).getAllSubcomponents('vevent');
    const event = new ICAL.Event(component!);
    expect([event.summary, event.description]).toEqual([entry.title, words]);
  });
  test('nothing is booked in the past: just now is the next minute, what lies further back is left out', () => {
    const at = (iso: string) => ({ uid: iso, title: 'x', at: iso, minutes: 5, words: 'y' });
    const now = Date.parse('2026-02-11T04:15:20Z');
    const text = calendarFile(
      [at('2026-02-11T04:15:00Z'), at('2026-02-10T04:15:00Z'), at('2026-02-12T06:00:00Z')],
      now,
    );
    const starts = new ICAL.Component(ICAL.parse(text))
      .getAllSubcomponents('vevent')
      .map((c) => new ICAL.Event(c).startDate.toJSDate().toISOString());
    expect(starts).toEqual(['2026-02-11T04:16:00.000Z', '2026-02-12T06:00:00.000Z']);
    expect(() => calendarFile([at('2026-02-10T04:15:00Z')], now)).toThrow(/lies in the past/);
  });
});

const JOB = {
  ...EMPTY_JOB,
  vehicle: { id: 'v1', label: 'Tarn 2.0', fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4, banks: 1 },
  ambient: { airC: 11 },
  records: [
    {
      lampOn: false,
      codes: [{ code: 'P0171', state: 'permanent' }],
      monitors: {
        lampOn: false,
        codeCount: 0,
        ignition: 'spark',
        monitors: [
          { id: 'evap', state: 'incomplete' },
          { id: 'catalyst', state: 'complete' },
        ],
      },
    },
  ],
} as unknown as JobView;
const row = (name: RegExp) => within(screen.getByRole('row', { name }));

const STILL = { values: {}, traces: new Map(), link: null } as unknown as JobLive;

describe('the plan on its page', () => {
  test('what the vehicle says of itself is taken on request', async () => {
    const values = { ect: 63.2, iat: 17, fuelLevel: 58.4, vbat: 12.4, baro: 95.46 };
    const live = { ...STILL, values, link: { state: 'ready' } } as unknown as JobLive;
    const { person } = open(<DrivePlan job={JOB} live={live} />);
    await person.click(screen.getByRole('button', { name: 'Use what the vehicle says' }));
    const field = (name: string) => (screen.getByLabelText(name) as HTMLInputElement).value;
    // 95.46 kPa is 500 m of the standard atmosphere (ISO 2533).
    expect(
      ['Coolant now, °C', 'Intake air now, °C', 'Fuel in the tank, %', 'Battery at rest, V', 'Altitude, m'].map(field),
    ).toEqual(['63.2', '17', '58.4', '12.4', '500']);
  });
  test('somebody else’s plan comes into what nobody touched here; what both put differently is asked about', async () => {
    const plan = (id: string, state: object, road: string) => ({
      ...{ id, rev: 1, at: '2026-01-01T08:00:00Z', by: 'B. Ortiz', undone: false, kind: 'plan' },
      data: { procedure: DRIVE_PROCEDURES[0]!.id, state, forecast: [], cooling: [], road },
    });
    const of = (...entries: object[]) => <DrivePlan job={{ ...JOB, entries } as unknown as JobView} live={STILL} />;
    const asked = server({
      'POST /jobs/j1/entries': (a) => ({ body: { ...plan(a.body.id, {}, ''), data: a.body.data } }),
    });
    await outbox.useAccount('a1');
    const first = plan('p1', { fuelPct: 58.44, altitudeM: 200 }, 'A1');
    const opened = open(of(first));
    const box = (name: string) => screen.getByLabelText(name) as HTMLInputElement;
    await opened.person.clear(box('Altitude, m'));
    await opened.person.type(box('Altitude, m'), '300');
    opened.rerender(around(of(first, plan('p2', { fuelPct: 40, altitudeM: 250, batteryV: 12.4 }, 'A2'))));
    const question = within(await screen.findByRole('alert'));
    expect([box('Fuel in the tank, %').value, box('Battery at rest, V').value, box('Altitude, m').value]).toEqual([
      '40',
      '12.4',
      '300',
    ]);
    // Until it is settled nothing of theirs is written over.
    await opened.person.click(box('Fuel in the tank, %'));
    expect(asked.filter((a) => a.method === 'POST')).toEqual([]);
    await opened.person.click(question.getByRole('button', { name: 'Keep mine' }));
    await opened.person.click(box('Fuel in the tank, %'));
    await opened.person.tab();
    await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
    expect(asked.find((a) => a.method === 'POST')!.body.data).toMatchObject({
      state: { fuelPct: 40, altitudeM: 300, batteryV: 12.4 },
      road: 'A2',
    });
  });
  test('what the record says stands in it; fuel to burn in litres and kilometres; a figure that cannot be is said', async () => {
    const { person } = open(<DrivePlan job={JOB} live={STILL} />);
    expect(row(/^Lamp/).getByText('✓ holds')).toBeTruthy();
    // A permanent code alone is no code that is set now.
    expect(row(/^Codes/).getByText('✓ holds')).toBeTruthy();
    expect(row(/^Soak/).getByText('? not known')).toBeTruthy();
    await person.type(screen.getByLabelText('Fuel in the tank, %'), '87,5');
    await person.type(screen.getByLabelText('Tank holds, L'), '40');
    await person.type(screen.getByLabelText('Consumption, L/100 km'), '5');
    expect(row(/^Fuel level/).getByText(/Burn 5 L first, about 100 km/)).toBeTruthy();
    expect(screen.getByText('Not by waiting: fuel level comes first')).toBeTruthy();
    await person.type(screen.getByLabelText('Altitude, m'), '99999');
    expect(screen.getByRole('alert').textContent).toBe('−500 to 9,000 m');
  });
  test('gallons and miles a gallon in the US; the soak is asked for before a start is named', async () => {
    localStorage.setItem('jb-units', 'us');
    const { person } = open(<DrivePlan job={JOB} live={STILL} />);
    expect(screen.getByText('Since when is the engine off? The soak decides when it can start')).toBeTruthy();
    expect(screen.queryByRole('button', { name: /Calendar file/ })).toBeNull();
    // Nor does the picture name one.
    expect(screen.queryByText('Start')).toBeNull();
    await person.type(screen.getByLabelText('Fuel in the tank, %'), '91');
    await person.type(screen.getByLabelText('Tank holds, gal'), '12.5');
    await person.type(screen.getByLabelText('Consumption, mpg'), '30');
    // 16 % of 12.5 gal is 2 gal, 60 miles at 30 mpg.
    expect(row(/^Fuel level/).getByText(/Burn 2(\.0)? gal first, about 60 mi/)).toBeTruthy();
  });
  test('after a drive the plan starts from that drive: off since then, and what was read before it is of before', async () => {
    const entry = (id: string, kind: string, at: string, data: object) => ({
      id,
      rev: 1,
      at,
      by: 'B. Ortiz',
      undone: false,
      kind,
      data,
    });
    const state = { engineOffSince: '2026-01-01T04:00:00Z', coolantC: 21, fuelPct: 61 };
    const entries = [
      entry('p1', 'plan', '2026-01-01T08:00:00Z', { procedure: 'steady-cruise', state, forecast: [], cooling: [] }),
      entry('d1', 'drive', '2026-01-01T12:30:00Z', {
        procedure: 'steady-cruise',
        result: 'incomplete',
        done: [],
        broke: [],
        distanceKm: 9,
        minutes: 20,
        road: '',
        stillOpen: null,
      }),
    ];
    open(<DrivePlan job={{ ...JOB, entries } as unknown as JobView} live={STILL} />);
    await screen.findByText(/^Drives|Plan the drive/);
    const box = (name: string) => (screen.getByLabelText(name) as HTMLInputElement).value;
    expect(new Date(box('Engine off since')).toISOString()).toBe('2026-01-01T12:30:00.000Z');
    expect([box('Coolant now, °C'), box('Fuel in the tank, %')]).toEqual(['', '61']);
  });
  test('all that time can mend: a start, the open monitor, straight to it; a wrong figure of the forecast is named', async () => {
    const { person } = open(<DrivePlan job={JOB} live={STILL} />);
    await person.type(screen.getByLabelText('Fuel in the tank, %'), '60');
    await person.type(screen.getByLabelText('Altitude, m'), '200');
    await person.type(screen.getByLabelText('Engine off since'), '2026-01-01T00:00');
    expect(screen.getByText(/^Earliest start: /)).toBeTruthy();
    expect(screen.getByText(/can finish EVAP, in about 20 minutes\. Go straight to it: Stay steady/)).toBeTruthy();
    expect(screen.getByRole('button', { name: /Calendar file/ })).toBeTruthy();
    const hours = within(screen.getByRole('group', { name: /^Outside air as forecast/ })).getAllByRole('textbox');
    expect(hours).toHaveLength(9);
    await person.type(hours[2]!, 'warm');
    expect(screen.getByRole('alert').textContent).toBe('“warm” is not a number');
    await person.clear(hours[2]!);
    await person.selectOptions(screen.getByLabelText('Procedure'), 'general');
    expect(screen.queryByRole('row', { name: /^Soak/ })).toBeNull();
  });
});

test('a forecast in rows: typed or pasted, in the reader’s unit, kept as it was; the coolant’s own cooling too', async () => {
  localStorage.setItem('jb-units', 'us');
  const asked = server({
    ...ASKED,
    'POST /jobs/j1/entries': (a: { body: { id: string; data: object } }) => ({
      body: { ...a.body, rev: 1, at: new Date().toISOString(), by: 'x', undone: false },
    }),
  });
  const { person } = open(<DrivePlan job={JOB} live={STILL} />);
  const group = within(screen.getByRole('group', { name: 'Outside air as forecast, °F' }));
  const [first] = group.getAllByRole('textbox');
  await person.click(first!);
  const day = format(new Date(Date.now() + 86_400_000), 'yyyy-MM-dd');
  await person.paste(`${day} 04:30 41\n${day} 07:30 50`);
  const pasted = group.getByRole('textbox', { name: /04:30, outside air/ }) as HTMLInputElement;
  expect(pasted.value).toBe('41');
  await person.clear(pasted);
  await person.type(pasted, '32');
  await person.click(screen.getByText(/^Coolant while it cools/));
  await person.click(screen.getByRole('button', { name: 'Add a reading' }));
  await person.type(screen.getByLabelText('Coolant then, °F'), '160');
  await person.click(screen.getByRole('button', { name: 'Add a reading' }));
  await person.click(screen.getByRole('button', { name: 'Remove reading 2' }));
  await person.click(document.body);
  await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
  const { data } = asked.filter((a) => a.method === 'POST').at(-1)!.body;
  const local = (time: string) => new Date(`${day}T${time}`).toISOString();
  expect(data.forecast).toEqual([
    { at: local('04:30'), airC: 0 },
    { at: local('07:30'), airC: 10 },
  ]);
  expect(data.cooling).toHaveLength(1);
  expect(data.cooling[0].coolantC).toBeCloseTo(71.1, 1);
});

test('drives in a row: the complete ones of this job count, of this procedure, from before it began', () => {
  const drive = (at: string, result: string, procedure = 'twice') =>
    ({ id: at, kind: 'drive', at, undone: false, data: { procedure, result } }) as never;
  const twice = { ...DRIVE_PROCEDURES[0]!, id: 'twice', drives: 2 };
  const of = (...entries: never[]) => ({ ...JOB, entries }) as JobView;
  const done = drive('2026-01-02T08:00:00Z', 'complete');
  expect(driveNumber(of(), twice, null)).toBe(1);
  expect(driveNumber(of(done), twice, null)).toBe(2);
  expect(
    driveNumber(
      of(drive('2026-01-02T08:00:00Z', 'failed'), drive('2026-01-02T09:00:00Z', 'complete', 'other')),
      twice,
      null,
    ),
  ).toBe(1);
  // Its own entry is written when it ends.
  expect(driveNumber(of(done), twice, Date.parse('2026-01-02T07:30:00Z') * 1000)).toBe(1);
  expect(driveNumber(of(done, drive('2026-01-03T08:00:00Z', 'complete')), twice, null)).toBe(1);
});

describe('a recorded drive on its page', () => {
  const time = Float64Array.from({ length: 900 }, (_, t) => t + 4);
  const mph = (t: number) => (t < 24 ? 0 : t >= 504 && t < 520 ? 55 : 42);
  const series: Series = {
    startedAt: null,
    marks: [],
    channels: [
      { id: 'vss', unit: 'km/h', time, value: time.map((t) => mph(t) * 1.609344) },
      { id: 'rpm', unit: 'rpm', time, value: time.map((t) => (t < 24 ? 740 : 1800)) },
      { id: 'ect', unit: '°C', time, value: time.map((t) => Math.min(88, 20 + t / 3)) },
    ],
  };
  test('a lane a step; the break leads to its second; another procedure asks for something else', async () => {
    const went: number[] = [];
    const { person } = open(<DriveReview job={JOB} captureId="c1" series={series} seek={(s) => went.push(s)} />);
    expect(screen.getByText('Not all of it was held')).toBeTruthy();
    const lane = row(/^cruise evap/).getByRole('img');
    expect(lane.getAttribute('aria-label')).toMatch(/^from 8:36 to 14:59; break at 8:20$/);
    expect(screen.getByText(/cruise evap: road speed left 64 to 69 km\/h, 89 km\/h/)).toBeTruthy();
    await person.click(screen.getAllByRole('button', { name: '8:20' }).at(-1)!);
    // Seconds of the drive count from its first sample, the cursor from the start of the recording.
    expect(went).toEqual([504]);
    await person.selectOptions(screen.getByLabelText('Held against'), 'general');
    expect(row(/^cruise/).getByText('✓ done')).toBeTruthy();
  });
});

describe('the coach over the link of the shop', () => {
  test.each<[Partial<CoachNow>, string]>([
    [{ channel: 'vss', side: 'over', high: 70 }, 'A little slower'],
    [{ channel: 'vss', side: 'under', low: 64, high: 70, value: 61 }, 'A little faster'],
    [{ channel: 'vss', side: 'under', low: 64, high: 70, value: 3 }, 'Up to speed, with the traffic'],
    [{ channel: 'rpm', side: 'over', high: 2500 }, 'A little less'],
    [{ channel: 'rpm', side: 'under', high: 2500 }, 'A little more'],
    [{ channel: 'vss', side: 'inside', low: 64, high: 70 }, 'Hold it'],
    [{ channel: 'vss', side: 'inside', low: null, high: 0.5 }, 'Stand still'],
    [{ channel: 'vss', side: 'over', low: null, high: 0.5 }, 'Stop where it is safe'],
    [{ channel: 'rpm', side: 'over', high: 1100, standing: true }, 'Ease off the pedal'],
    [{ channel: 'rpm', side: 'under', low: 1350, high: 1550, standing: true }, 'A little more pedal'],
    [{ channel: 'vss', side: 'over', low: null, high: 0.5, standing: true }, 'Stop where it is safe'],
    [{ channel: 'vss', side: 'under', low: 64, high: 70, value: 45 }, 'A little faster'],
    [{ channel: 'vss', side: 'under', low: 64, high: 70, value: 44 }, 'Up to speed, with the traffic'],
    [{ channel: 'vss', side: 'over', low: 0, high: 0.5 }, 'Stop where it is safe'],
    [{ channel: 'vss', side: 'inside', low: 0.2, high: 0.5 }, 'Hold it'],
    [{ channel: 'vss', side: 'inside', low: null, high: 70 }, 'Hold it'],
    [{ channel: 'vss', side: 'unknown' }, 'Nothing heard'],
  ])('%j: %s', (now, words) => expect(instruction(now as CoachNow)).toBe(words));

  test('no go at key-on: the figure and what it spoils, red until it is started all the same, and said until the end', async () => {
    const started = {
      captureId: 'c9',
      at: 'free',
      phase: 'before',
      state: 'capturing',
      conditions: [],
      keptSeconds: 0,
    };
    const asked = server({
      ...ASKED,
      'POST /jobs/j1/captures': { body: started },
      'POST /jobs/j1/captures/c9/command': { body: started },
    });
    let tell: (samples: readonly Sample[]) => void = () => {};
    const live = {
      values: { fuelLevel: 91, ect: 14, iat: 12, ambient: 12, baro: 99 },
      traces: new Map<string, TracePoint[]>(['vss', 'rpm', 'ect'].map((id) => [id, [{ t: 5, v: 0 }]])),
      link: { state: 'ready' },
      capture: started,
      setCapture() {},
      listen: (f: typeof tell) => {
        tell = f;
        return () => {};
      },
    } as unknown as JobLive;
    const { person } = open(<Coach job={{ ...JOB, adapter: 'sim:1' } as unknown as JobView} live={live} />);
    const card = within(screen.getByRole('region', { name: 'Go or no go' }));
    expect(card.getByRole('heading', { name: 'No go: fuel level' })).toBeTruthy();
    const fuel = card.getAllByRole('listitem').find((li) => li.textContent!.startsWith('Fuel level'))!;
    expect(fuel.textContent).toMatch(
      /does not hold.*Fuel level 91 % is over 75 %\..*Not complete on this drive: EVAP\./,
    );
    expect(screen.queryByRole('button', { name: 'Start' })).toBeNull();
    await person.click(screen.getByRole('button', { name: 'Start all the same' }));
    const said = () => screen.getByLabelText('Coach').textContent!;
    await waitFor(() => expect(said()).toMatch(/Started all the same: Fuel level 91 % is over 75 %\./));
    for (let t = 6; t < 60; t++)
      act(() =>
        tell([
          { channel: 'vss', value: t < 24 ? 0 : 66, atUs: t * 1e6 },
          { channel: 'rpm', value: 900, atUs: t * 1e6 },
          { channel: 'ect', value: 40, atUs: t * 1e6 },
        ]),
      );
    expect(said()).toMatch(/Started all the same: Fuel level 91 %/);
    await person.click(screen.getByRole('button', { name: 'End the drive' }));
    await waitFor(() => expect(asked.some((a) => a.path === '/jobs/j1/entries')).toBe(true));
    const entry = asked.find((a) => a.path === '/jobs/j1/entries')!.body as { data: DriveAttempt };
    expect(entry.data.result).toBe('failed');
    expect(entry.data.broke.map((b) => b.what)).toContain('fuel-level');
  });

  test('from the start to what was gained: recorded, counted; nothing begins without a link', async () => {
    const started = {
      captureId: 'c9',
      at: 'free',
      phase: 'before',
      state: 'capturing',
      conditions: [],
      keptSeconds: 0,
    };
    const asked = server({
      ...ASKED,
      'POST /jobs/j1/captures': { body: started },
      'POST /jobs/j1/captures/c9/command': { body: started },
    });
    const off = { values: {}, traces: new Map(), link: null, setCapture() {}, listen: () => () => {} };
    const job = { ...JOB, adapter: 'sim:1' } as unknown as JobView;
    const { unmount } = open(<Coach job={job} live={off as unknown as JobLive} />);
    expect((screen.getByRole('button', { name: 'Start' }) as HTMLButtonElement).disabled).toBe(true);
    unmount();
    const traces = new Map<string, TracePoint[]>(['vss', 'rpm', 'ect'].map((id) => [id, [{ t: 5, v: 0 }]]));
    let tell: (samples: readonly Sample[]) => void = () => {};
    const live = {
      ...off,
      traces,
      link: { state: 'ready' },
      capture: started,
      listen: (f: typeof tell) => {
        tell = f;
        return () => {};
      },
    } as unknown as JobLive;
    const { person } = open(<Coach job={job} live={live} />);
    await person.click(screen.getByRole('button', { name: 'Start' }));
    expect(await screen.findByText('0 of 3 steps done')).toBeTruthy();
    const hear = (t: number, vss: number) => {
      const at = { atUs: t * 1e6 };
      act(() =>
        tell([
          { channel: 'vss', value: vss, ...at },
          { channel: 'rpm', value: vss === 0 ? 750 : 1700, ...at },
          { channel: 'ect', value: 82, ...at },
        ]),
      );
    };
    // It fills the screen: what a simulated bay needs lies in it.
    expect(within(screen.getByLabelText('Coach')).getByText('The simulated bay')).toBeTruthy();
    for (let t = 6; t < 24; t++) hear(t, 0);
    expect(screen.getByText('1 of 3 steps done')).toBeTruthy();
    hear(24, 80);
    const said = () => screen.getByLabelText('Coach').textContent!;
    expect(said()).toMatch(/A little slower.*hold 64–69 km\/h/);
    for (let t = 25; t < 61; t++) hear(t, 66);
    expect(said()).toMatch(/Hold it/);
    expect(screen.getByText('2 of 3 steps done')).toBeTruthy();
    await person.click(screen.getByRole('button', { name: 'End the drive' }));
    expect(screen.getByText('The drive is over')).toBeTruthy();
    expect(document.body.textContent).toMatch(
      /Done: “Start, and idle where it stands”, the step for Oxygen sensor heater, Oxygen sensor and EGR or VVT\. .*EVAP \(cruise-evap\): running; 35 of 750 s held/,
    );
    await waitFor(() => expect(asked.some((a) => a.path === '/jobs/j1/entries')).toBe(true));
    const [begun, stopped, entry] = ['/captures', '/captures/c9/command', '/entries'].map(
      (path) => asked.find((a) => a.path === `/jobs/j1${path}`)!.body,
    );
    expect(begun).toMatchObject({ at: 'free' });
    expect(stopped).toEqual({ command: 'stop' });
    // 36 s at 66 km/h after one at 80.
    expect(entry).toMatchObject({
      kind: 'drive',
      data: { procedure: 'steady-cruise', capture: 'c9', minutes: 1, distanceKm: 0.7 },
    });
  });
});
