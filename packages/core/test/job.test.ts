import { describe, expect, test } from '@jest/globals';
import { limitsWith } from '../src/case/index.ts';
import { caseOfJob, type JobEvidence, trailSentence } from '../src/job/index.ts';
import { FOUR, reading } from './cases.ts';

describe('the job as a case', () => {
  const job: JobEvidence = {
    id: 'j',
    vehicle: { ...FOUR, banks: 1 },
    ambient: { baroKPa: 99 },
    complaint: { symptoms: ['rough-idle', 'none'] },
    records: [{ phase: 'before', codes: [{ code: 'P0171', state: 'stored' }] }],
    readings: [
      { phase: 'before', reading: reading('idle', 2, 18) },
      { phase: 'after', reading: reading('idle', 2.4, 1) },
    ],
    tests: [
      { undone: false, test: { id: 'smoke-intake', outcome: 'pcv' } },
      { undone: true, test: { id: 'pinch-pcv', outcome: 'no-change' } },
    ],
  };
  test('readings of the phase, tests that stand, codes of its record', () => {
    const c = caseOfJob(job);
    expect(c.readings).toHaveLength(1);
    expect(c.tests).toEqual([{ id: 'smoke-intake', outcome: 'pcv' }]);
    expect(c.codes).toEqual([{ code: 'P0171', state: 'stored' }]);
    expect(c.complaints).toEqual(['rough-idle']);
    const calm = caseOfJob({ ...job, complaint: { symptoms: ['none'] } });
    expect(calm.complaints).toEqual(['none']);
  });
  test('after the repair the old tests and codes do not speak', () => {
    const c = caseOfJob(job, 'after');
    expect(c.tests).toEqual([]);
    expect(c.codes).toBeUndefined();
    expect(c.readings![0]!.mafGps).toBe(2.4);
  });
});

describe('figures of the vehicle itself', () => {
  const vehicle = { fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4 } as const;
  test('win over its card, the newest of a quantity over the others; what has no name in the judgement changes nothing', () => {
    const value = (quantity: string, value_: number, unit: string) => ({ quantity, value: value_, unit });
    const limits = limitsWith({ relativeThrottleIdleDeg: 2, fuelPressureKPa: 300 }, [
      value('Relative throttle at hot idle, at most', 4.1, '%'),
      value('Relative throttle at hot idle, at most', 3.7, '%'),
      value('Fuel pressure at idle', 352, 'kPa'),
      value('Fuel pressure at idle', 51, 'V'),
      value('Wheel bolts', 110, 'N·m'),
    ]);
    expect(limits).toEqual({
      relativeThrottleIdleDeg: 2,
      relativeThrottleIdle: 3.7,
      relativeThrottleUnit: '%',
      fuelPressureKPa: 352,
    });
    expect(limitsWith(undefined, [])).toBeUndefined();
    const evidence = {
      id: 'x',
      vehicle,
      ambient: {},
      complaint: { symptoms: [] },
      records: [],
      readings: [],
      tests: [],
    };
    const c = caseOfJob({ ...evidence, values: [value('Fuel pressure at idle', 352, 'kPa')] });
    expect(c.vehicle.limits).toEqual({ fuelPressureKPa: 352 });
  });
});

test('a change of the settings is told from what to what; of many the first, the others counted', () => {
  const told = (d: Record<string, unknown>) => trailSentence('R. Okafor', 'settings', d);
  expect(told({ limits: { before: { watchPct: 8, actPct: 10 }, after: { watchPct: 8, actPct: 20 } } })).toBe(
    'R. Okafor changed the shop’s settings: limits, act past, % from 10 to 20.',
  );
  expect(told({ place: { before: null, after: { altitudeM: 410 } } })).toContain(
    'place, altitude, m from not set to 410',
  );
  expect(told({ hazards: { before: ['spray', 'fuel-line'], after: ['spray'] } })).toContain(
    'hazards without fuel line',
  );
  expect(told({ learning: { before: { priors: false }, after: { priors: true } } })).toContain('from off to on');
  const minutes = Object.fromEntries(['a', 'b', 'c', 'd', 'e', 'f', 'g', 'h'].map((k, i) => [k, i]));
  expect(told({ minutes: { before: null, after: minutes } })).toMatch(/f from not set to 5; and 2 more\.$/);
});
