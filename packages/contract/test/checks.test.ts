import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import {
  ComplaintDto,
  cut,
  dtoProblems,
  FinishImportRequest,
  KnownFigureRequest,
  NewJobRequest,
  NewReadingRequest,
  rawShapeProblem,
  readCase,
  readClientMessage,
  readSettings,
  ShopSettingsRequest,
  shapeProblem,
} from '../src/index.ts';
import { CASE_EXAMPLE } from './contractExamples.ts';

const bytes = (s: string) => new TextEncoder().encode(s);

describe('the shape of what comes in', () => {
  test.each([
    ['[]', null],
    ['{"a":[1,2,{"b":"c"}]}', null],
    [`${'['.repeat(25)}${']'.repeat(25)}`, 'nested deeper than 24'],
    [`[${'1,'.repeat(20_001)}1]`, 'more than 20,000 values'],
    [`"${'['.repeat(100)}"`, null],
    [`["\\"${'{'.repeat(100)}\\\\"]`, null],
  ])('bytes %#', (text, problem) => {
    expect(rawShapeProblem(bytes(text))).toBe(problem);
  });

  test.each<[unknown, string | null]>([
    [{ a: [{ b: 'c' }] }, null],
    [JSON.parse('{"a":{"__proto__":1}}'), 'a'],
    [{ constructor: 1 }, ''],
    [{ a: { b: '\ud83d' } }, 'a.b'],
    [{ a: [1, 1e16] }, 'a[1]'],
    [JSON.parse('[1e999]'), '[0]'],
    [{ ['k'.repeat(201)]: 1 }, ''],
  ])('values %#', (json, field) => {
    expect(shapeProblem(json)?.field ?? null).toBe(field);
  });

  test('bytes that pass are values that pass the same bounds of depth and number; nothing of JSON throws', () => {
    fc.assert(
      fc.property(fc.jsonValue({ maxDepth: 30 }), (json) => {
        const raw = rawShapeProblem(bytes(JSON.stringify(json)));
        const parsed = shapeProblem(json);
        if (parsed && /nested|values|too (long|many)/.test(parsed.message)) expect(raw).not.toBeNull();
        for (const type of [NewJobRequest, NewReadingRequest, ComplaintDto]) dtoProblems(type, json);
        readCase(json);
        readSettings(json);
        readCase({ ...CASE_EXAMPLE, readings: json });
        readCase({ ...CASE_EXAMPLE, vehicle: json, tests: json, recentWork: json });
        readClientMessage(JSON.stringify(json));
      }),
      { numRuns: 300 },
    );
  });
});

describe('lists are no objects, and null is no absence', () => {
  const job = {
    id: '018f7a2e-0000-7000-8000-000000000001',
    vehicleId: '018f7a2e-0000-7000-8000-000000000002',
    vehicle: { label: 'Tarn', fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4 },
    complaint: { symptoms: [] },
  };
  test.each<[object, string]>([
    [{ complaint: [] }, 'complaint'],
    [{ vehicle: [] }, 'vehicle'],
    [{ ambient: [] }, 'ambient'],
    [{ ambient: { baroKPa: null } }, 'ambient.baroKPa'],
    [{ complaint: { symptoms: [], recentWork: [[]] } }, 'complaint.recentWork'],
    [{ complaint: { symptoms: [[]] } }, 'complaint.symptoms'],
    [{ adapter: null }, 'adapter'],
  ])('%j', (change, field) => {
    expect(dtoProblems(NewJobRequest, job)).toEqual([]);
    expect(dtoProblems(NewJobRequest, { ...job, ...change })[0]?.field).toBe(field);
  });
});

describe('settings', () => {
  test.each<[unknown, string]>([
    [{ limits: [] }, 'limits'],
    [{ minutes: null }, 'minutes'],
    [{ limits: { actPct: {} } }, 'limits.actPct'],
    [{ tools: [1] }, 'tools'],
    [{ toolHz: '5' }, 'toolHz'],
    [{ priors: [] }, 'priors'],
    [{ priors: { 'vac-leak': Number.NaN } }, 'priors.vac-leak'],
  ])('%j', (json, field) => {
    const r = readSettings(json);
    expect(r.ok ? null : r.errors[0]!.field).toBe(field);
  });
});

test('a record says which of its entries is wrong, each at a field of its own', () => {
  const parts = { rpm: 2, maf: 0, o2s11: 1.5 };
  const finish = { parts, marks: [], readings: [] };
  expect(dtoProblems(FinishImportRequest, finish)).toEqual([
    { field: 'parts.maf', message: 'the number of its parts, 1 to 1,000' },
    { field: 'parts.o2s11', message: 'the number of its parts, 1 to 1,000' },
  ]);
  expect(dtoProblems(FinishImportRequest, { ...finish, parts: [] })[0]).toEqual({
    field: 'parts',
    message: 'must be an object',
  });
  const settings = { minutes: { compression: -1, 'smoke-all': 3 }, limits: { watchPct: 9, actPct: 3 } };
  expect(dtoProblems(ShopSettingsRequest, { rev: 1, settings })).toEqual([
    { field: 'settings.limits.watchPct', message: 'not above the act limit' },
    { field: 'settings.minutes.compression', message: 'a number, 0 or more' },
    { field: 'settings.minutes.smoke-all', message: 'unknown test "smoke-all"' },
  ]);
});

test('a text is cut at a character, never in one', () => {
  expect(cut('ab\u{1f697}cd', 3)).toBe('ab');
  expect(cut('ab\u{1f697}cd', 4)).toBe('ab\u{1f697}');
  expect(cut('a\ud83db', 9)).toBe('a\ufffdb');
  fc.assert(
    fc.property(fc.string({ unit: 'grapheme' }), fc.nat(20), (s, n) => {
      const c = cut(s, n);
      expect(c.length).toBeLessThanOrEqual(n);
      expect(/\p{Surrogate}/u.test(c)).toBe(false);
    }),
  );
});

test.each([
  ['{"type":"subscribe","jobId":"018f7a2e-0000-7000-8000-000000000001"}', 'object'],
  ['null', 'unknown message'],
  ['[]', 'unknown message'],
  ['{', 'not JSON'],
  ['{"type":"subscribe","jobId":{}}', 'no such job in this shop'],
  ['{"type":"dance"}', 'unknown message'],
])('a frame %s', (text, wanted) => {
  const m = readClientMessage(text);
  expect(typeof m === 'string' ? m : typeof m).toBe(wanted);
});

describe('a figure from … to', () => {
  const figure = { id: '00000000-0000-4000-8000-000000000000', layer: 'entered', at: 'idle', quantity: 'airflow' };
  test.each([
    [3.1, 3.9, []],
    [3.1, 3, ['high must be above the lower end']],
    [3.1, 3.1, ['high must be above the lower end']],
    ['x', 3, ['low must be a number']],
  ])('%p to %p', (low, high, said) => {
    const problems = dtoProblems(KnownFigureRequest, { ...figure, low, high, source: 'service manual' });
    expect(problems.map((p) => `${p.field} ${p.message}`).filter((m) => !/at (least|most)/.test(m))).toEqual(said);
  });
});
