import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import { DRIVE_PROCEDURES, planDrive, reviewDrive } from '@just-balance/core/readiness';
import { inWords } from '@just-balance/core/units';
import { Ajv2020 } from 'ajv/dist/2020.js';
import fc from 'fast-check';
import { stringify } from 'yaml';
import { checkDriveProcedure, readCarState, readDriveProcedure, readPlanRequest } from '../src/drives/index.ts';

const problems = (name: string, value: unknown) => {
  const file = join(__dirname, `../../../docs/formats/${name}.schema.json`);
  const check = new Ajv2020({ strict: true, allowUnionTypes: true }).compile(JSON.parse(readFileSync(file, 'utf8')));
  return check(value) ? [] : check.errors;
};
/** The example of the contract. */
const REQUEST = {
  format: 'just-balance/drive-plan-request',
  version: 1,
  procedure: 'steady-cruise',
  now: '2026-03-02T18:00:00Z',
  state: {
    engineOffSince: '2026-03-02T17:10:00Z',
    coolantC: 78,
    intakeC: 16,
    altitudeM: 240,
    fuelPct: 91,
    tankL: 50,
    consumptionLPer100Km: 8.0,
    lamp: 'off',
    codes: [],
    incomplete: ['evap'],
  },
  forecast: [
    { at: '2026-03-02T18:00:00Z', airC: 9 },
    { at: '2026-03-03T06:00:00Z', airC: 2 },
  ],
};

/** As they stand in a file. */
const OURS = DRIVE_PROCEDURES.map((p) => inWords(p, 'own'));

describe('drive procedures', () => {
  test('ours pass the reader that a shop’s own pass, as JSON and as YAML, and satisfy the schema', () => {
    for (const p of OURS) {
      expect(readDriveProcedure(JSON.stringify(p))).toEqual({ ok: true, procedure: p });
      expect(readDriveProcedure(stringify(p))).toEqual({ ok: true, procedure: p });
      expect(problems('drive-procedure', p)).toEqual([]);
    }
  });
  test('what is wrong is said with line and field', () => {
    const text = stringify(OURS[0]).replace('unit: mph', 'unit: psi').replace('seconds: 15', 'seconds: soon');
    const line = (what: string) => text.split('\n').findIndex((l) => l.includes(what)) + 1;
    const r = readDriveProcedure(text);
    expect(r.ok ? [] : r.errors).toEqual([
      { line: line('seconds: soon'), field: 'steps[0].seconds', message: expect.stringMatching(/number/) },
    ]);
    const units = readDriveProcedure(text.replace('seconds: soon', 'seconds: 15'));
    expect(units.ok ? null : units.errors[0]).toEqual({
      line: line('unit: psi'),
      field: 'steps[1].hold[0].unit',
      message: '"psi" is no unit of vss',
    });
    for (const bad of ['', '- 1', 'format: x', 'a: [', '&a [*a, *a]']) expect(readDriveProcedure(bad).ok).toBe(false);
    const newer = checkDriveProcedure({ ...DRIVE_PROCEDURES[0], version: 2 });
    expect(newer.ok ? [] : newer.errors[0]!.message).toMatch(/newer/);
  });
  test('an unknown field is passed over; any unit of the quantity will do', () => {
    const own = { ...DRIVE_PROCEDURES[2], id: 'own', colour: 'red', before: [{ id: 'soak', low: 480, unit: 'min' }] };
    expect(checkDriveProcedure(own).ok).toBe(true);
  });
  test('no rubbish throws', () => {
    fc.assert(
      fc.property(fc.anything(), (x) => {
        for (const read of [checkDriveProcedure, readCarState, readPlanRequest])
          expect(typeof read(x).ok).toBe('boolean');
      }),
      { numRuns: 300 },
    );
  });
});

describe('plans and reviews', () => {
  test('the contract’s request gives the contract’s plan', () => {
    expect(problems('drive-plan-request', REQUEST)).toEqual([]);
    const r = readPlanRequest(REQUEST);
    if (!r.ok) throw new Error(JSON.stringify(r.errors));
    const plan = inWords(planDrive(r.value), 'own');
    expect(problems('drive-plan', plan)).toEqual([]);
    expect(plan).toMatchObject({
      procedure: 'steady-cruise',
      earliestStart: null,
      couldFinish: ['evap'],
      minutes: 20,
      goStraightTo: 'cruise-evap',
    });
    const of = (id: string) => plan.conditions.find((c) => c.id === id);
    expect(of('soak')).toMatchObject({ state: 'not-yet', holdsFrom: '2026-03-03T01:10:00Z', holdsUntil: null });
    expect(of('fuel-level')).toMatchObject({ state: 'never', litres: -8, km: 100 });
  });
  test('a request that cannot be: each fault at its field', () => {
    const wrong = (change: object) => {
      const r = readPlanRequest({ ...REQUEST, ...change });
      return r.ok ? [] : r.errors.map((e) => e.field);
    };
    expect(wrong({ procedure: 'moon-shot' })).toEqual(['procedure']);
    expect(wrong({ now: 'tonight' })).toEqual(['now']);
    expect(wrong({ state: { ...REQUEST.state, fuelPct: 140 } })).toEqual(['state.fuelPct']);
    expect(wrong({ forecast: [{ at: '2026-03-02', airC: 9 }] })).toEqual(['forecast[0].at']);
    expect(wrong({ procedure: { ...DRIVE_PROCEDURES[0], steps: [] } })).toEqual(['procedure.steps']);
    expect(wrong({ version: 2 })).toEqual(['version']);
  });
  test('a state by itself, or within what holds it', () => {
    for (const json of [REQUEST.state, { state: REQUEST.state }, REQUEST])
      expect(readCarState(json)).toEqual({ ok: true, value: REQUEST.state });
  });
  test('a review of any drive satisfies its schema', () => {
    const t = Float64Array.from({ length: 60 }, (_, i) => i);
    const channels = [{ id: 'vss', unit: 'km/h', time: t, value: t.map((x) => (x < 30 ? 0 : 67)) }];
    for (const p of DRIVE_PROCEDURES) {
      const series = { startedAt: null, channels, marks: [] };
      expect(problems('drive-review', inWords(reviewDrive(p, series, REQUEST.state as never), 'own'))).toEqual([]);
    }
  });
});
