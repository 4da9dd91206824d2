import { readdirSync, readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import { Ajv2020 } from 'ajv/dist/2020.js';
import fc from 'fast-check';
import { readProcedure } from '../src/procedures/index.ts';

const ROOT = join(__dirname, '../../..');
const FOLDER = join(ROOT, 'examples/procedures');
const OURS = readFileSync(join(FOLDER, 'airflow-sensor-clean.yaml'), 'utf8');
const schema = new Ajv2020({ strict: true, allowUnionTypes: true }).compile(
  JSON.parse(readFileSync(join(ROOT, 'docs/formats/procedure.schema.json'), 'utf8')),
);
const errors = (text: string) => {
  const r = readProcedure(text);
  return r.ok ? [] : r.errors;
};
/** Line number of the first line that contains this. */
const line = (text: string, part: string) => text.split('\n').findIndex((l) => l.includes(part)) + 1;

describe('a service procedure', () => {
  test.each(readdirSync(FOLDER))('%s passes the reader that a shop’s own pass, and the schema', (file) => {
    const r = readProcedure(readFileSync(join(FOLDER, file), 'utf8'));
    expect(r).toMatchObject({ ok: true });
    expect(r.ok && schema(r.procedure)).toBe(true);
    expect(r.ok && `${r.procedure.id}.yaml`).toBe(file);
  });

  test('the same as JSON is the same', () => {
    const r = readProcedure(OURS);
    expect(readProcedure(JSON.stringify(r.ok && r.procedure, null, 2))).toEqual(r);
  });

  const FAULTY: readonly [
    what: string,
    change: (text: string) => string,
    field: string,
    message: RegExp,
    at?: string,
  ][] = [
    [
      'an unknown key',
      (t) => t.replace('    seconds: 1500', '    seconds: 1500\n    bursts: 12'),
      'steps[7].bursts',
      /unknown key/,
      'bursts: 12',
    ],
    ['an unknown key at the top', (t) => `${t}colour: red\n`, 'colour', /unknown key/, 'colour: red'],
    [
      'a jump to nowhere',
      (t) => t.replace('goTo: note', 'goTo: later'),
      'steps[0].answers[0].goTo',
      /no step has the id "later"/,
      'goTo: later',
    ],
    [
      'a rule that is not there',
      (t) => t.replace('stopRule: the element is damaged', 'stopRule: it rains'),
      'steps[5].answers[1].stopRule',
      /no stop rule/,
      'stopRule: it rains',
    ],
    [
      'a refit of what stayed on',
      (t) => t.replace('    item: airflow sensor\n    count: 2\n  - id: plug', '    item: air box\n  - id: plug'),
      'steps[9].item',
      /was not taken off/,
      'item: air box',
    ],
    ['one id twice', (t) => t.replace('id: dry', 'id: spray'), 'steps[7].id', /is the id of step 7 already/],
    [
      'a timer without a time',
      (t) => t.replace('    seconds: 1500\n', ''),
      'steps[7].seconds',
      /a step of kind timer needs it/,
      'id: dry',
    ],
    [
      'a look without answers',
      (t) => t.replace('kind: decide', 'kind: look').replace(/ {4}answers:\n {6}- text: filter[\s\S]*?not found\n/, ''),
      'steps[8].answers',
      /needs it/,
      'id: source',
    ],
    [
      'a kind that is none',
      (t) => t.replace('kind: photo', 'kind: film'),
      'steps[2].kind',
      /must be one of/,
      'kind: film',
    ],
    [
      'a fault nobody knows',
      (t) => t.replace('[maf-dirty]', '[gremlins]'),
      'for.faults',
      /faults of the catalogue/,
      'gremlins',
    ],
    [
      'a caution nobody knows',
      (t) => t.replace('caution: solvents-fuel', 'caution: wet-paint'),
      'steps[6].caution',
      /caution of the table/,
      'wet-paint',
    ],
    ['a missing title', (t) => t.replace('title: Clean the airflow sensor\n', ''), 'title', /must be a string/],
    ['a newer version', (t) => t.replace('version: 1', 'version: 2'), 'version', /version 2 is newer/, 'version: 2'],
    [
      'another format',
      (t) => t.replace('just-balance/procedure', 'just-balance/case'),
      'format',
      /must be "just-balance\/procedure"/,
      'just-balance/case',
    ],
    ['the same key twice', (t) => `${t}minutes: 30\n`, '', /"minutes" stands twice/, undefined],
    ['a line out of place', (t) => t.replace('  - id: note', ' - id: note'), '', /./],
  ];
  // As one value: a parameter more than a row has would be Jest's own `done`.
  test.each(FAULTY.map((f) => [f[0], f] as const))('%s: line and field', (_, [, change, field, message, at]) => {
    const text = change(OURS);
    expect(text).not.toBe(OURS);
    const [first] = errors(text);
    expect(first).toBeDefined();
    expect(first!.field).toBe(field);
    expect(first!.message).toMatch(message);
    if (at) expect(first!.line).toBe(line(text, at));
    expect(first!.line).toBeGreaterThan(0);
  });

  test('a measured value needs a limit, and the right way round', () => {
    const measure = (limits: string) =>
      OURS.replace(
        '  - id: end\n    kind: do',
        `  - id: end\n    kind: measure\n    quantity: supply\n    unit: V\n${limits}`,
      );
    expect(errors(measure(''))[0]).toMatchObject({
      field: 'steps[12].low',
      message: expect.stringMatching(/needs a limit/),
    });
    expect(errors(measure('    low: 14\n    high: 11\n'))[0]).toMatchObject({
      field: 'steps[12].high',
      message: 'below low',
    });
    expect(errors(measure('    low: 11.5\n'))).toEqual([]);
  });

  test('no rubbish throws, and nothing grows without bound', () => {
    fc.assert(
      fc.property(fc.oneof(fc.string(), fc.json(), fc.string({ unit: 'binary' })), (text) => {
        expect(errors(text).length).toBeGreaterThan(0);
      }),
      { numRuns: 300 },
    );
    const laughs = [
      'a: &a [x, x]',
      ...'bcdefghij'.split('').map((c, i) => `${c}: &${c} [${'*'}${'abcdefghij'[i]}, *${'abcdefghij'[i]}]`),
    ];
    expect(errors(laughs.join('\n')).length).toBeGreaterThan(0);
    expect(errors('x'.repeat(200_001))[0]!.message).toMatch(/200,000 characters/);
    // Every list and text cut short or changed somewhere in the middle is said or read, never thrown.
    const lines = OURS.split('\n');
    for (let i = 0; i < lines.length; i += 3) {
      readProcedure([...lines.slice(0, i), ...lines.slice(i + 1)].join('\n'));
      readProcedure([...lines.slice(0, i), lines[i]!.replace(/: .*/, ': []'), ...lines.slice(i + 1)].join('\n'));
    }
  });
});

describe('a file is bounded before it is made into anything', () => {
  const many = (n: number, line: (i: number) => string) => Array.from({ length: n }, (_, i) => line(i)).join('\n');
  const HUGE: readonly (readonly [string, string, RegExp, number])[] = [
    ['keys', many(20_000, (i) => `k${i}: 1`), /more than 10,000 values/, 5001],
    ['texts in quotes', many(12_000, () => '- "a"'), /more than 10,000 values/, 5001],
    ['lists with nothing in them', `a: [${'[],'.repeat(12_000)}]`, /more than 10,000 values/, 1],
    ['brackets', `a:\n  ${'['.repeat(100_000)}`, /nested deeper/, 2],
    ['lists in lists', '- '.repeat(60_000), /nested deeper/, 1],
    ['maps in maps', many(60, (i) => `${' '.repeat(i)}k:`), /nested deeper/, 26],
    ['a second document', 'a: 1\n---\nb: 2\n', /second document/, 2],
  ];
  test.each(HUGE)('%s: refused in words, with the line', (_, text, message, at) => {
    const r = readProcedure(text);
    expect(r.ok).toBe(false);
    const [first] = r.ok ? [] : r.errors;
    expect([first!.message, first!.line]).toEqual([expect.stringMatching(message), expect.any(Number)]);
    expect(Math.abs(first!.line - at)).toBeLessThanOrEqual(1);
  });

  test('so many faults and no more are told, the first ones', () => {
    const r = readProcedure(`format: just-balance/procedure\nversion: 1\n${many(3000, (i) => `k${i}: 1`)}`);
    expect(r.ok ? 0 : r.errors.length).toBe(100);
  });
});
