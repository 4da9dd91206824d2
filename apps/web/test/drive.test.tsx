import { afterEach, describe, expect, jest, test } from '@jest/globals';
import type { JobView } from '@just-balance/contract';
import { type CoachNow, driveProcedure } from '@just-balance/core/readiness';
import type { Series } from '@just-balance/core/series';
import { act, cleanup, screen, within } from '@testing-library/react';
import ICAL from 'ical.js';
import type { JobLive, TracePoint } from '../src/data/live.tsx';
import { DriveReview } from '../src/recordings/DriveReview.tsx';
import { Coach, instruction } from '../src/stations/readiness/Coach.tsx';
import { calendarFile } from '../src/stations/readiness/calendar.ts';
import { heardSince } from '../src/stations/readiness/coachLive.ts';
import { DrivePlan } from '../src/stations/readiness/DrivePlan.tsx';
import { typedForecast } from '../src/stations/readiness/forecast.ts';
import { open } from './page.tsx';

afterEach(() => {
  cleanup();
  localStorage.clear();
});

describe('a forecast as it is typed or pasted', () => {
  const now = new Date(2026, 1, 10, 16, 20);
  const local = (...at: [number, number, number, number]) => new Date(2026, ...at).toISOString();
  test('hours run on over midnight; a date may stand before; comma, sign and unit as people write them', () => {
    const { points, bad } = typedForecast('16:00 9\n22:00; 4,5\n\n06:00 −2 °C\n2026-02-12 12:30, +7\n', now);
    expect(bad).toEqual([]);
    expect(points).toEqual([
      { at: local(1, 10, 16, 0), value: 9 },
      { at: local(1, 10, 22, 0), value: 4.5 },
      { at: local(1, 11, 6, 0), value: -2 },
      { at: local(1, 12, 12, 30), value: 7 },
    ]);
  });
  test('what is no line of it is named, the rest is read', () => {
    expect(typedForecast('cold\n25:00 4\n07:00 4\n08:00', now)).toMatchObject({
      bad: [1, 2, 4],
      points: [{ value: 4 }],
    });
  });
});

describe('the calendar file', () => {
  // RFC 5545, read by a general-purpose parser.
  test('says when, how long and what, with a reminder', () => {
    const entry = { uid: 'j1-drive@just-balance', title: 'Drive: Tarn, 2.0; grey', at: '2026-02-11T04:15:00Z' };
    const text = calendarFile([{ ...entry, minutes: 20, words: 'Steady,\nthen stop.' }]);
    const calendar = new ICAL.Component(ICAL.parse(text));
    const [component] = calendar.getAllSubcomponents('vevent');
    const event = new ICAL.Event(component!);
    expect([event.uid, event.summary, event.description]).toEqual([entry.uid, entry.title, 'Steady,\nthen stop.']);
    expect(event.startDate.toJSDate().toISOString()).toBe('2026-02-11T04:15:00.000Z');
    expect(event.duration.toSeconds()).toBe(1200);
    expect(component!.getAllSubcomponents('valarm')).toHaveLength(1);
  });
});

const JOB = {
  id: 'j1',
  vehicle: { label: 'Tarn 2.0', fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4, banks: 1 },
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

describe('the plan on its page', () => {
  test('what the record says stands in it; fuel to burn in litres and kilometres; a figure that cannot be is said', async () => {
    const { person } = open(<DrivePlan job={JOB} />);
    expect(row(/^Lamp/).getByText('✓ holds')).toBeTruthy();
    // A permanent code alone is no code that is set now.
    expect(row(/^Codes/).getByText('✓ holds')).toBeTruthy();
    expect(row(/^Soak/).getByText('? not known')).toBeTruthy();
    await person.type(screen.getByLabelText('Fuel in the tank, %'), '87,5');
    await person.type(screen.getByLabelText('Tank holds, L'), '40');
    await person.type(screen.getByLabelText('Consumption, L/100 km'), '5');
    expect(row(/^Fuel level/).getByText(/Burn 5 L first, about 100 km/)).toBeTruthy();
    expect(screen.getByText('Not by waiting: something must be done first')).toBeTruthy();
    await person.type(screen.getByLabelText('Altitude, m'), '99999');
    expect(screen.getByRole('alert').textContent).toBe('-500 to 9000 m');
  });
  test('all that time can mend: a start, the open monitor, straight to it; a wrong line of the forecast is named', async () => {
    const { person } = open(<DrivePlan job={JOB} />);
    await person.type(screen.getByLabelText('Fuel in the tank, %'), '60');
    await person.type(screen.getByLabelText('Altitude, m'), '200');
    await person.type(screen.getByLabelText('Engine off since'), '2026-01-01T00:00');
    expect(screen.getByText(/^Earliest start: /)).toBeTruthy();
    expect(screen.getByText(/can finish EVAP, in about 20 minutes\. Go straight to it: Stay steady/)).toBeTruthy();
    expect(screen.getByRole('button', { name: /Calendar file/ })).toBeTruthy();
    await person.type(screen.getByLabelText(/^Forecast/), 'warm');
    expect(screen.getByRole('alert').textContent).toBe('line 1: a time, then a temperature');
    await person.selectOptions(screen.getByLabelText('Procedure'), 'general');
    expect(screen.queryByRole('row', { name: /^Soak/ })).toBeNull();
  });
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
    const { person } = open(<DriveReview job={JOB} series={series} seek={(s) => went.push(s)} />);
    expect(screen.getByText('Not all of it was held')).toBeTruthy();
    const lane = row(/^cruise evap/).getByRole('img');
    expect(lane.getAttribute('aria-label')).toMatch(/^from 8:36 to 14:59; break at 8:20$/);
    expect(screen.getByText(/cruise evap: vss left 40 to 43 mph, 55 mph/)).toBeTruthy();
    await person.click(screen.getAllByRole('button', { name: '8:20' }).at(-1)!);
    // Seconds of the drive count from its first sample, the cursor from the start of the recording.
    expect(went).toEqual([504]);
    await person.selectOptions(screen.getByLabelText('Held against'), 'general');
    expect(row(/^cruise/).getByText('✓ done')).toBeTruthy();
  });
});

describe('the coach over the link of the shop', () => {
  test('each moment is heard once, in order, its channels together', () => {
    const traces = new Map<string, TracePoint[]>([
      [
        'vss',
        [
          { t: 10, v: 1 },
          { t: 12, v: 3 },
        ],
      ],
      [
        'rpm',
        [
          { t: 11, v: 800 },
          { t: 12, v: 900 },
        ],
      ],
      ['maf', [{ t: 12, v: 5 }]],
    ]);
    const p = driveProcedure('general')!;
    expect(heardSince(p, traces, 10, 10)).toEqual([
      { t: 1, values: { rpm: 800 } },
      { t: 2, values: { vss: 3, rpm: 900 } },
    ]);
    expect(heardSince(p, traces, 12, 10)).toEqual([]);
  });
  test.each<[Partial<CoachNow>, string]>([
    [{ channel: 'vss', side: 'over', high: 70 }, 'A little slower'],
    [{ channel: 'vss', side: 'under', low: 64, high: 70, value: 61 }, 'A little faster'],
    [{ channel: 'vss', side: 'under', low: 64, high: 70, value: 3 }, 'Up to speed, with the traffic'],
    [{ channel: 'rpm', side: 'over', high: 2500 }, 'A little less'],
    [{ channel: 'rpm', side: 'under', high: 2500 }, 'A little more'],
    [{ channel: 'vss', side: 'inside', low: 64, high: 70 }, 'Hold it'],
    [{ channel: 'vss', side: 'inside', low: null, high: 0.5 }, 'Stand still'],
    [{ channel: 'vss', side: 'over', low: null, high: 0.5 }, 'Stop and stand'],
    [{ channel: 'vss', side: 'unknown' }, 'Nothing heard'],
  ])('%j: %s', (now, words) => expect(instruction(now as CoachNow)).toBe(words));

  test('from the start to what was gained; nothing begins without a link', () => {
    jest.useFakeTimers();
    try {
      const off = { values: {}, traces: new Map(), link: null } as unknown as JobLive;
      const job = { ...JOB, cautions: [] } as unknown as JobView;
      const { unmount } = open(<Coach job={job} live={off} />);
      expect((screen.getByRole('button', { name: 'Start' }) as HTMLButtonElement).disabled).toBe(true);
      unmount();
      const traces = new Map<string, TracePoint[]>([
        ['vss', [{ t: 5, v: 0 }]],
        ['rpm', [{ t: 5, v: 750 }]],
        ['ect', [{ t: 5, v: 82 }]],
      ]);
      open(<Coach job={job} live={{ ...off, traces, link: { state: 'ready' } } as unknown as JobLive} />);
      act(() => screen.getByRole('button', { name: 'Start' }).click());
      const hear = (t: number, vss: number) => {
        traces.get('vss')!.push({ t, v: vss });
        traces.get('rpm')!.push({ t, v: vss === 0 ? 750 : 1700 });
        traces.get('ect')!.push({ t, v: 82 });
        act(() => void jest.advanceTimersByTime(300));
      };
      for (let t = 6; t < 24; t++) hear(t, 0);
      expect(screen.getByText('1 of 3 steps done')).toBeTruthy();
      hear(24, 80);
      const said = () => screen.getByLabelText('Coach').textContent!;
      expect(said()).toMatch(/A little slower.*hold 64 – 69 km\/h/);
      for (let t = 25; t < 60; t++) hear(t, 66);
      expect(said()).toMatch(/Hold it/);
      expect(screen.getByText('2 of 3 steps done')).toBeTruthy();
      act(() => screen.getByRole('button', { name: 'End the drive' }).click());
      expect(screen.getByText('The drive is over')).toBeTruthy();
      expect(document.body.textContent).toMatch(
        /Done: idle, cruise warm\. .*EVAP \(cruise-evap\): running; 34 of 750 s held/,
      );
    } finally {
      jest.useRealTimers();
    }
  });
});
