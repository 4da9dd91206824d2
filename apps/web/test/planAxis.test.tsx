import { afterEach, describe, expect, test } from '@jest/globals';
import { driveProcedure, planDrive } from '@just-balance/core/readiness';
import { cleanup, screen } from '@testing-library/react';
import { axisOf, timeOn } from '../src/stations/readiness/axis.ts';
import { PlanAxis } from '../src/stations/readiness/PlanAxis.tsx';
import { open } from './page.tsx';

afterEach(cleanup);

const HOUR_MS = 3_600_000;
const NOW = new Date(2026, 2, 4, 17, 10);
const later = (hours: number) => new Date(NOW.getTime() + hours * HOUR_MS).toISOString();

describe('the axis of a plan', () => {
  test('from now to tomorrow evening, or to four hours after the start; whole hours of the clock', () => {
    const axis = axisOf(NOW, null);
    expect(axis.at(NOW.toISOString())).toBe(0);
    expect(axis.at(new Date(2026, 2, 5, 20).toISOString())).toBe(100);
    expect(axis.at(later(-5))).toBe(0);
    expect(axis.ticks.map((t) => t.hour)).toEqual(['18', '21', '00', '03', '06', '09', '12', '15', '18']);
    expect(axis.ticks.map((t) => t.day)).toEqual([null, null, 'Thursday', ...Array(6).fill(null)]);
    const start = new Date(2026, 2, 6, 8).toISOString();
    expect(axisOf(NOW, start).at(new Date(2026, 2, 6, 12).toISOString())).toBe(100);
  });

  test('a time of another day is named with it', () => {
    expect([timeOn(NOW), timeOn(NOW, NOW), timeOn(new Date(2026, 2, 5, 7), NOW)]).toEqual([
      '17:10',
      '17:10',
      'Thu 07:00',
    ]);
  });
});

describe('conditions on one axis', () => {
  const procedure = driveProcedure('steady-cruise')!;
  const plan = (state: object, airC: number[]) => {
    const forecast = airC.map((t, i) => ({ at: later(i * 3), airC: t }));
    const made = planDrive({ procedure, now: NOW.toISOString(), state, forecast });
    open(
      <PlanAxis
        earliest={made.earliestStart}
        minutes={made.minutes}
        procedure={procedure}
        counts={made.conditions}
        forecast={forecast}
        now={NOW}
      />,
    );
    return made;
  };
  const car = { engineOffSince: later(-1), altitudeM: 150, fuelPct: 60, lamp: 'off', codes: [] };

  test('air that ends and comes again is drawn as often as it holds, decides, and no last start is made up', () => {
    // 4 °C is crossed on the way down, and up again after midnight.
    const made = plan(car, [9, 5, 2, 1, 2, 6, 10, 12, 11, 9]);
    expect(made.earliestStart).not.toBeNull();
    const picture = screen.getByRole('img', { name: /^When each condition holds\./ });
    expect(picture.querySelectorAll('.h-20 .bg-band')).toHaveLength(2);
    expect(screen.getByText('decides').closest('div')!.textContent).toMatch(/^Outside air/);
    expect(screen.getByText(/^from \d\d:\d\d$/)).toBeTruthy();
  });

  test('what nobody knows is not drawn as if it did not hold; what no waiting mends has no start', () => {
    plan({ ...car, fuelPct: 90, altitudeM: undefined }, [12, 13, 12, 12, 12, 12, 12, 12, 12, 12]);
    expect(screen.getByText('not known')).toBeTruthy();
    expect(screen.getByText('not by waiting')).toBeTruthy();
    expect(screen.queryByText('Start')).toBeNull();
  });
});
