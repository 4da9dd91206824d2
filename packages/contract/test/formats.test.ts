import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import { FAULTS, NO_EVIDENCE, TESTS } from '@just-balance/core/catalogue';
import { diagnose } from '@just-balance/core/diagnosis';
import { inWords } from '@just-balance/core/units';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { COMPLAINTS, readCase, readSettings } from '../src/index.ts';
import { CAPTURE_EXAMPLE, CASE_EXAMPLE, DIAGNOSIS_EXAMPLE, TEST_OUTCOMES, TEST_VALUES } from './contractExamples.ts';

const FORMATS = join(__dirname, '../../../docs/formats');
const schema = (name: string) => JSON.parse(readFileSync(join(FORMATS, `${name}.schema.json`), 'utf8'));
const valid = (name: string, value: unknown) => {
  const check = new Ajv2020({ strict: true, allowUnionTypes: true }).compile(schema(name));
  return check(value) ? [] : check.errors;
};

/** A copy with one path set: `set(x, 'readings.0.mafGps', -1)`. */
function set<T>(value: T, path: string, to: unknown): T {
  const copy = structuredClone(value);
  const keys = path.split('.');
  let at = copy as Record<string, unknown>;
  for (const k of keys.slice(0, -1)) at = at[k] as Record<string, unknown>;
  if (to === undefined) delete at[keys.at(-1)!];
  else at[keys.at(-1)!] = to;
  return copy;
}
const problems = (value: unknown) => {
  const r = readCase(value);
  return r.ok ? [] : r.errors;
};

describe('JSON Schemas in docs/formats', () => {
  test('every schema compiles and the examples of the contract satisfy theirs', () => {
    expect(readdirSync(FORMATS).filter((f) => f.endsWith('.schema.json')).length).toBeGreaterThanOrEqual(5);
    expect(valid('case', CASE_EXAMPLE)).toEqual([]);
    expect(valid('diagnosis', DIAGNOSIS_EXAMPLE)).toEqual([]);
    expect(valid('capture', CAPTURE_EXAMPLE)).toEqual([]);
  });
  test('what we compute satisfies the diagnosis schema', () => {
    const r = readCase(CASE_EXAMPLE);
    expect(valid('diagnosis', r.ok && inWords(diagnose(r.value), 'own'))).toEqual([]);
  });
  test('the shipped scenarios satisfy theirs', () => {
    const dir = join(__dirname, '../../../examples/scenarios');
    for (const f of readdirSync(dir))
      expect(valid('scenario', JSON.parse(readFileSync(join(dir, f), 'utf8')))).toEqual([]);
  });
  test('schema and reader agree on what is wrong', () => {
    for (const [path, to] of [
      ['version', 2],
      ['vehicle.fuel', 'steam'],
      ['vehicle.displacementL', undefined],
      ['readings.0.mafGps', -1],
      ['readings.0.lambda.bank1', 0],
      ['complaints', ['hums']],
    ] as const) {
      const bad = set(CASE_EXAMPLE, path, to);
      expect(valid('case', bad)).not.toEqual([]);
      expect(problems(bad)).not.toEqual([]);
    }
  });
});

describe('reading a case', () => {
  test('the example of the contract is a case', () => expect(problems(CASE_EXAMPLE)).toEqual([]));
  test.each(['fuel', 'metering', 'displacementL', 'cylinders'])('vehicle.%s is required, by name', (field) => {
    expect(problems(set(CASE_EXAMPLE, `vehicle.${field}`, undefined)).map((e) => e.field)).toContain(
      `vehicle.${field}`,
    );
  });
  test.each(
    [
      'id',
      'vehicle.induction',
      'vehicle.banks',
      'vehicle.limits',
      'ambient',
      'recentWork',
      'codes',
      'complaints',
      'readings.0.rpm',
      'readings.0.mafGps',
      'readings.0.trims',
      'readings.0.trims.bank1.sd',
      'readings.0.loop',
      'tests',
    ].filter((f) => f !== 'id'),
  )('%s may be absent', (field) => expect(problems(set(CASE_EXAMPLE, field, undefined))).toEqual([]));
  test.each([
    ['readings.0.mafGps', -1, 'readings[0].mafGps'],
    ['readings.0.lambda.bank1', 0, 'readings[0].lambda.bank1'],
    ['readings.0.trims.bank1.stft', 900, 'readings[0].trims.bank1.stft'],
    ['readings.0.at', 'sprint', 'readings[0].at'],
    ['readings.0.rpm', 'fast', 'readings[0].rpm'],
    ['vehicle.cylinders', 4.5, 'vehicle.cylinders'],
    ['codes.0.state', 'maybe', 'codes[0].state'],
    ['tests.0.id', 'tarot', 'tests[0].id'],
    ['tests.0.outcome', 'purple', 'tests[0].outcome'],
    ['tests.1.values.idleKPa', null, 'tests[1].values.idleKPa'],
  ])('%s = %s is refused, naming %s', (path, to, field) => {
    expect(problems(set(CASE_EXAMPLE, path, to)).map((e) => e.field)).toContain(field);
  });
  test('oxygen-sensor figures are numbers of sensors that exist', () => {
    const at = (to: unknown) => problems(set(CASE_EXAMPLE, 'readings.0.o2', to));
    expect(at({ bank1s1: { crossingsPer10s: 'many' } })[0]).toEqual({
      field: 'readings[0].o2',
      message: 'bank1s1.crossingsPer10s must be a number, 0 to 1000',
    });
    expect(at({ left: {} })[0]!.message).toMatch(/left is not a sensor/);
    expect(at({ bank1s1: null })[0]!.message).toMatch(/not an object/);
    expect(at({ bank2s1: { minV: 0.1 } })[0]).toMatchObject({ field: 'readings[0].o2.bank2s1' });
    expect(problems(set(CASE_EXAMPLE, 'readings.0.quantum', { stft: 'fine' }))[0]!.field).toBe('readings[0].quantum');
  });
  test('bank 2 on a one-bank vehicle is refused with its field', () => {
    const bad = set(CASE_EXAMPLE, 'readings.0.trims.bank2', { stft: 1, ltft: 1 });
    expect(problems(bad)).toEqual([{ field: 'readings[0].trims.bank2', message: expect.stringContaining('banks: 1') }]);
  });
  test('without banks it has two as soon as anything names the second', () => {
    const c = set(set(CASE_EXAMPLE, 'vehicle.banks', undefined), 'readings.0.trims.bank2', { stft: 1, ltft: 1 });
    const r = readCase(c);
    expect(r.ok && diagnose(r.value).causes.map((x) => x.fault)).toContain('vac-leak-bank2');
  });
  test('another format, a newer version, nothing to judge', () => {
    expect(problems(set(CASE_EXAMPLE, 'format', 'x/y'))[0]!.field).toBe('format');
    expect(problems(set(CASE_EXAMPLE, 'version', 2))[0]!.message).toMatch(/newer than this program reads/);
    expect(problems({ ...CASE_EXAMPLE, readings: [], tests: [] })[0]!.message).toMatch(/at least one reading or test/);
    for (const x of [null, 3, 'case', []]) expect(problems(x)[0]!.message).toMatch(/JSON object/);
  });
  test('unknown fields are ignored', () => {
    expect(problems({ ...CASE_EXAMPLE, colour: 'green', vehicle: { ...CASE_EXAMPLE.vehicle, wheels: 4 } })).toEqual([]);
  });
});

describe('the vocabulary of the contract', () => {
  const withTest = (t: unknown) => ({ ...CASE_EXAMPLE, vehicle: { ...CASE_EXAMPLE.vehicle, banks: 2 }, tests: [t] });
  test.each(Object.entries(TEST_OUTCOMES))('%s has every outcome', (id, outcomes) => {
    for (const o of [...outcomes, ...NO_EVIDENCE]) expect(problems(withTest({ id, outcome: o }))).toEqual([]);
    expect(problems(withTest({ id, outcome: outcomes }))).toEqual([]);
  });
  test.each(TEST_VALUES)('%j', (t) => {
    const r = readCase(withTest(t));
    expect(r.ok).toBe(true);
    if (r.ok) expect(diagnose(r.value).nextTests.map((n) => n.test)).not.toContain(t.id);
  });
  test('no test of the catalogue is missing from the contract', () => {
    const known = new Set([...Object.keys(TEST_OUTCOMES), ...TEST_VALUES.map((t) => t.id), 'hold-2500', 'road-load']);
    expect(TESTS.map((t) => t.id).filter((id) => !known.has(id))).toEqual([]);
    expect([...known].filter((id) => !TESTS.some((t) => t.id === id))).toEqual([]);
  });
  test('complaints and faults', () => {
    expect(COMPLAINTS).toHaveLength(18);
    // 47 that are met often, and sensors plugged in crosswise.
    expect(FAULTS).toHaveLength(48);
  });
});

describe('settings', () => {
  test.each([
    [{ limits: { actPct: -1 } }, 'limits.actPct'],
    [{ priors: { 'vac-leak': 'much' } }, 'priors.vac-leak'],
    [{ minutes: { 'smoke-intake': -3 } }, 'minutes.smoke-intake'],
    [{ tools: 'all' }, 'tools'],
  ])('%j is refused', (s, field) => {
    const r = readSettings(s);
    expect(!r.ok && r.errors[0]!.field).toBe(field);
  });
  test('settings: what is wrong, with its field', () => {
    const wrong = (x: unknown) => {
      const r = readSettings(x);
      return r.ok ? [] : r.errors.map((e) => e.field);
    };
    expect(wrong({ limits: { watchPct: 12, actPct: 8 } })).toEqual(['limits.watchPct']);
    expect(wrong({ minutes: { 'smoke-all': 3 }, priors: { gremlins: 1 } })).toEqual([
      'minutes.smoke-all',
      'priors.gremlins',
    ]);
    expect(wrong({ hazards: 'none', toolHz: 0 })).toEqual(['hazards', 'toolHz']);
    const sound = { hazards: ['road-test'], tools: [], toolHz: 8, limits: { watchPct: 5, actPct: 20 } };
    expect(wrong(sound)).toEqual([]);
    expect(valid('settings', sound)).toEqual([]);
    for (const bad of [
      { toolHz: 0 },
      { hazards: 'none' },
      { minutes: { compression: -1 } },
      { limits: { actPct: 0 } },
    ]) {
      expect(wrong(bad)).not.toEqual([]);
      expect(valid('settings', bad)).not.toEqual([]);
    }
  });
  test('empty settings are the defaults', () => expect(readSettings({})).toEqual({ ok: true, value: {} }));
});
