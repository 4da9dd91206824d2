import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { FAULT_BY_ID } from '../src/catalogue/index.ts';
import {
  PRACTICE_LEVELS,
  type PracticeMove,
  scenarioProblems,
  scoreDrive,
  scorePractice,
} from '../src/practice/index.ts';
import { type DriveReview, driveProcedure } from '../src/readiness/index.ts';
import { EXAM_CARS, EXAM_LENGTH, examCar, PRACTICE_SCENARIOS } from '../src/scenarios/index.ts';
import { type Said, wordsOf } from '../src/units/index.ts';

const CARS = [...new Set(PRACTICE_SCENARIOS.map((s) => s.vehicle))];
const move = (what: string, minutes: number): PracticeMove => ({
  kind: 'test',
  what,
  bank: null,
  minutes,
  atMs: 0,
  showed: '',
  bits: 0,
  best: null,
  belief: [],
  truth: 0.8,
});
const answer = (fault: string, more: object = {}) => ({
  fault,
  second: null,
  size: null,
  remedy: 'repair' as const,
  atMs: 0,
  ...more,
});
const by = (id: string) => PRACTICE_SCENARIOS.find((s) => s.id === id)!;
const score = (
  id: string,
  a: ReturnType<typeof answer>,
  minutes = 20,
  best: number | null = 20,
  skipped: string[] = [],
  banks: 1 | 2 = 1,
) => scorePractice(by(id), [move('smoke-intake', minutes)], a, { bestMinutes: best, cautionsSkipped: skipped, banks });

test('of two faults the size is that of the one that was named; where neither was, of the first', () => {
  const pair = PRACTICE_SCENARIOS.filter((s) => s.faults.length === 2).find((s) => {
    const [a, b] = s.faults;
    return [a, b].every((f) => FAULT_BY_ID.get(f!.id)?.severity) && a!.severity !== b!.severity;
  })!;
  const [one, two] = pair.faults;
  const why = (fault: string) => score(pair.id, answer(fault)).parts.find((p) => p.id === 'size')!.why;
  const text = (of: Said) => wordsOf(of, 'own');
  // Two digits: a size is not known to more. 0.4 g/s of air, 105 kPa of pressure.
  expect([one!.severity, two!.severity]).toEqual([0.4, 105]);
  expect(text(why(one!.id))).toMatch(/^0\.40 g\/s; /);
  expect(text(why(two!.id))).toMatch(/^1[01]0 kPa; /);
  expect(text(why('balanced'))).toMatch(/^0\.40 g\/s; /);
});

describe('scenarios', () => {
  test('ours are graded, are what the schema says, and read back as they are', () => {
    const schema = JSON.parse(readFileSync(join(__dirname, '../../../docs/formats/practice.schema.json'), 'utf8'));
    const valid = new Ajv2020().compile(schema);
    for (const s of PRACTICE_SCENARIOS) {
      expect([s.id, valid(s), valid.errors]).toEqual([s.id, true, null]);
      expect([s.id, scenarioProblems(JSON.parse(JSON.stringify(s)), CARS)]).toEqual([s.id, []]);
      for (const f of s.faults) expect(FAULT_BY_ID.has(f.id)).toBe(true);
    }
    expect([...new Set(PRACTICE_SCENARIOS.map((s) => s.level))]).toEqual([...PRACTICE_LEVELS]);
    expect(new Set(PRACTICE_SCENARIOS.map((s) => s.id)).size).toBe(PRACTICE_SCENARIOS.length);
  });

  test('each fault of a file is named by its field; nothing is taken on trust', () => {
    const fields = (change: object) =>
      scenarioProblems({ ...by('shaking-hatch'), ...change }, CARS).map((p) => p.field);
    expect(fields({ version: 2 })).toEqual(['version']);
    expect(fields({ faults: [{ id: 'gremlins', severity: '1' }] })).toEqual(['faults[0].id', 'faults[0].severity']);
    expect(fields({ faults: [1, 2, 3] })).toEqual(['faults']);
    expect(fields({ complaint: null })).toEqual(['complaint.story', 'complaint.symptoms']);
    expect(fields({ remedy: 'pray' })).toEqual(['remedy']);
    expect(fields({ level: 'drive' })).toEqual(['drive.script', 'drive.procedure']);
    expect(fields({ level: 'drive', drive: { script: '../x', procedure: 'home' } })).toEqual([
      'drive.script',
      'drive.procedure',
    ]);
    expect(fields({ drive: { script: 'cruise', procedure: 'general' } })).toEqual(['drive']);
    for (const json of [null, 1, 'x', []])
      expect(scenarioProblems(json, CARS)).toEqual([{ field: '', message: 'an object' }]);
  });
});

describe('points', () => {
  test('all of it right, by the best path: one hundred', () => {
    expect(score('shaking-hatch', answer('vac-leak', { size: 0.55 })).total).toBe(100);
  });
  test('twice the minutes cost half of theirs; none are earned with the wrong cause', () => {
    const slow = score('shaking-hatch', answer('vac-leak', { size: 0.55 }), 40, 20);
    expect(slow.total).toBe(90);
    const wrong = score('shaking-hatch', answer('fuel-low'), 5, 20);
    expect(wrong.parts.find((p) => p.id === 'minutes')!.points).toBe(0);
    expect(wrong.total).toBeLessThan(20);
  });
  test('half as large again is still right, twice is not', () => {
    const of = (size: number) =>
      score('shaking-hatch', answer('vac-leak', { size })).parts.find((p) => p.id === 'size')!.points;
    expect([of(0.52 * 1.49), of(0.52 / 1.49), of(1.04)]).toEqual([10, 10, 0]);
  });
  test('of two banks the other bank’s leak is half right; with one bank a runner leak is the leak', () => {
    expect(score('one-side-of-the-six', answer('vac-leak-bank1'), 20, 20, [], 2).parts[0]!.points).toBe(23);
    expect(score('shaking-hatch', answer('vac-leak-bank1')).parts[0]!.points).toBe(45);
  });
  test('right by a guess is half: nothing that was asked spoke for it', () => {
    const of = (truth: number) =>
      scorePractice(by('shaking-hatch'), [{ ...move('smoke-intake', 20), truth }], answer('vac-leak', { size: 0.55 }), {
        bestMinutes: 20,
        cautionsSkipped: [],
        banks: 1,
      }).parts[0]!;
    expect(of(0.8)).toMatchObject({ points: 45, why: 'Right.' });
    expect(of(0.2)).toMatchObject({ points: 23, why: expect.stringMatching(/^Right, and a guess/) });
  });
  test('what each part is worth, of one hundred; a guess is one below four in ten', () => {
    const s = score('shaking-hatch', answer('vac-leak', { size: 0.55 }));
    expect(s.parts.map((p) => [p.id, p.of])).toEqual([
      ['cause', 45],
      ['size', 10],
      ['remedy', 10],
      ['minutes', 20],
      ['parts', 10],
      ['cautions', 5],
    ]);
    const at = (truth: number) =>
      scorePractice(by('shaking-hatch'), [{ ...move('smoke-intake', 20), truth }], answer('vac-leak'), {
        ...{ bestMinutes: 20, cautionsSkipped: [], banks: 1 },
      }).parts[0]!.points;
    expect([at(0.41), at(0.39)]).toEqual([45, 23]);
  });
  test('a drive: what broke 60, its second within twenty 15, what is next 25', () => {
    const p = driveProcedure('general')!;
    const step = p.steps[1]!.id;
    const review = {
      result: 'incomplete',
      conditions: p.before.map((c) => ({ id: c.id, state: 'met', why: '' })),
      steps: p.steps.map((s, i) => ({
        ...{ id: s.id, state: i === 1 ? 'part' : 'done', why: '' },
        broken: i === 1 ? [{ atS: 300 }] : [],
      })),
      remains: ['Two minutes of it.'],
      nextAttempt: 'Now.',
    } as unknown as DriveReview;
    const of = (what: string, second: number | null, next: 'rest' | 'again') =>
      scoreDrive(p, review, { what, second, next, atMs: 0 }).parts.map((x) => x.points);
    expect(of(`step:${step}`, 320, 'rest')).toEqual([60, 15, 25]);
    expect(of(`step:${step}`, 321, 'again')).toEqual([60, 0, 0]);
    expect(of('step:elsewhere', null, 'rest')).toEqual([0, 0, 25]);
    expect(of('step:elsewhere', 280, 'rest')).toEqual([0, 15, 25]);
  });
  test('a sound part condemned and a caution skipped cost theirs', () => {
    const s = score('new-sensor-old-trouble', answer('maf-damaged', { remedy: 'replace' }), 20, 20, ['Running engine']);
    const of = (id: string) => s.parts.find((p) => p.id === id)!;
    expect([of('parts').points, of('cautions').points]).toEqual([0, 0]);
    expect(of('cautions').why).toContain('Running engine');
  });
});

describe('an exam is drawn', () => {
  const exam = (seed: number) => Array.from({ length: EXAM_LENGTH }, (_, i) => examCar(seed, i + 1));

  test('three cars of other families and a drive, each one that can be played; the same seed, the same exam', () => {
    const families = new Map<string, string>([
      ...['vac-leak', 'vac-leak-bank1', 'vac-leak-bank2', 'crankcase-leak'].map((f) => [f, 'air'] as const),
      ...['maf-dirty', 'maf-under', 'duct-leak'].map((f) => [f, 'metering'] as const),
      ...['fuel-low', 'fuel-high', 'purge-open'].map((f) => [f, 'fuel'] as const),
      ['exhaust-leak', 'exhaust'],
    ]);
    const fleet = ['quillon-18', 'aldwin-30', 'fallow-25f', 'elmstone-20t', ...CARS];
    for (let seed = 0; seed < 200; seed++) {
      const all = exam(seed * 7919);
      for (const s of all) expect([s.id, scenarioProblems(JSON.parse(JSON.stringify(s)), fleet)]).toEqual([s.id, []]);
      const cars = all.slice(0, EXAM_CARS);
      expect(new Set(cars.map((s) => families.get(s.faults[0]!.id))).size).toBe(EXAM_CARS);
      expect([all.at(-1)!.level, all.at(-1)!.drive !== undefined]).toEqual(['drive', true]);
      // Nothing of its name, story or history names what it is.
      for (const s of cars) expect(`${s.id} ${s.title} ${s.complaint.story}`).not.toContain(s.faults[0]!.id);
    }
    expect(exam(42)).toEqual(exam(42));
  });

  test('other seeds, other exams: every fault of the list comes, and sizes differ', () => {
    const cars = Array.from({ length: 300 }, (_, i) => exam(i * 104_729)).flatMap((all) => all.slice(0, EXAM_CARS));
    expect(new Set(cars.map((s) => s.faults[0]!.id)).size).toBe(11);
    expect(new Set(cars.map((s) => `${s.faults[0]!.id} ${s.faults[0]!.severity}`)).size).toBeGreaterThan(60);
    expect(() => examCar(1, 0)).toThrow(/1 to 4/);
  });
});
