import { describe, expect, test } from '@jest/globals';
import { complaintLabel, partLabel, pointLabel } from '../src/case/index.ts';
import { outcomeLabel, outcomesOf, standTogether, TEST_GROUPS, TESTS, testLabel } from '../src/catalogue/index.ts';
import { chanceText, firstPart } from '../src/units/index.ts';

describe('what ids are called', () => {
  test.each([
    [partLabel('egr-valve'), 'Exhaust gas recirculation valve (EGR)'],
    [partLabel('pcv-valve'), 'Crankcase valve (PCV)'],
    [partLabel('tow-bar'), 'tow bar'],
    [complaintLabel('hard-start-hot'), 'hard start hot'],
    [outcomeLabel('smoke-intake', 'gasket-bank1'), 'at the intake gasket, bank 1'],
    [outcomeLabel('pinch-pcv', 'changes'), 'something changes'],
    [outcomeLabel('fuse-check', 'inconclusive'), 'could not tell'],
    [pointLabel('idle-ac'), 'Idle with A/C'],
    [testLabel('smoke-intake'), 'Smoke the intake'],
    [testLabel('a-test-of-tomorrow'), 'a test of tomorrow'],
  ])('%s', (is, wanted) => {
    expect(is).toBe(wanted);
  });
  test('no outcome of the catalogue keeps a dash or an id of a bank', () => {
    for (const t of TESTS)
      for (const o of outcomesOf(t)) {
        expect(outcomeLabel(t.id, o)).not.toMatch(/-|bank\d/);
        // A word of its own, or one that is a word already.
        if (/[-0-9]/.test(o)) expect(outcomeLabel(t.id, o)).not.toBe(o);
      }
  });
});

describe('the catalogue as it is looked through', () => {
  test('every test stands in one group', () => {
    expect(TEST_GROUPS.flatMap((g) => g.tests).sort()).toEqual(TESTS.map((t) => t.id).sort());
  });
  test.each([
    ['map-port-probe', ['clear', 'hose-split'], true],
    ['map-port-probe', ['clear', 'blocked'], false],
    ['borescope-cat', ['sooted', 'broken'], true],
    ['borescope-cat', ['clean', 'broken'], false],
    ['smoke-intake', ['none', 'duct'], false],
    ['smoke-intake', ['egr', 'duct', 'pcv'], true],
    ['compression', ['even', 'low'], false],
    ['compression', ['low'], true],
  ])('%s: %p together: %p', (test, outcomes, can) => {
    expect(standTogether(test, outcomes)).toBe(can);
  });
});

describe('a probability', () => {
  test.each([
    [1, 'over 99 %'],
    [0.9951, 'over 99 %'],
    [0.99, '99 %'],
    [0.5, '50 %'],
    [0.0101, '1 %'],
    [0.004, 'under 1 %'],
    [0, 'under 1 %'],
  ])('%p', (p, said) => {
    expect(chanceText(p)).toBe(said);
  });
});

describe('the part of a sentence that is spoken', () => {
  test.each([
    ['Waiting for 2,400–2,600 rpm: now 1,210.', 'Waiting for 2,400–2,600 rpm.'],
    ['Waiting for warm coolant: 40 of 80 °C, about 90 s to go.', 'Waiting for warm coolant.'],
    ['Hold 2,500, then let go.', 'Hold 2,500.'],
    ['Waiting for the engine to run.', 'Waiting for the engine to run.'],
  ])('%s', (sentence, said) => expect(firstPart(sentence)).toBe(said));
});
