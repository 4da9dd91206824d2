import { afterEach, describe, expect, test } from '@jest/globals';
import type { JobView } from '@just-balance/contract';
import type { Series } from '@just-balance/core/series';
import { cleanup, screen, within } from '@testing-library/react';
import ICAL from 'ical.js';
import { DriveReview } from '../src/recordings/DriveReview.tsx';
import { calendarFile } from '../src/stations/readiness/calendar.ts';
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
