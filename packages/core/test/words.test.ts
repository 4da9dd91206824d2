import { describe, expect, test } from '@jest/globals';
import { complaintLabel, partLabel, pointLabel } from '../src/case/index.ts';
import { outcomeLabel, outcomesOf, TESTS, testLabel } from '../src/catalogue/index.ts';
import { chanceText } from '../src/units/index.ts';

describe('what ids are called', () => {
  test.each([
    [partLabel('egr-valve'), 'Exhaust gas recirculation valve (EGR)'],
    [partLabel('pcv-valve'), 'Crankcase valve (PCV)'],
    [partLabel('tow-bar'), 'tow bar'],
    [complaintLabel('hard-start-hot'), 'hard start hot'],
    [outcomeLabel('gasket-bank1'), 'gasket bank 1'],
    [pointLabel('idle-ac'), 'Idle with A/C'],
    [testLabel('smoke-intake'), 'Smoke the intake'],
    [testLabel('a-test-of-tomorrow'), 'a test of tomorrow'],
  ])('%s', (is, wanted) => {
    expect(is).toBe(wanted);
  });
  test('no outcome of the catalogue keeps a dash or an id of a bank', () => {
    for (const t of TESTS) for (const o of outcomesOf(t)) expect(outcomeLabel(o)).not.toMatch(/-|bank\d/);
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
