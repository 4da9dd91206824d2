import { describe, expect, test } from '@jest/globals';
import { minutesLeft, type Procedure, runState, SHIPPED_PROCEDURES, waitingMinutes } from '../src/procedures/index.ts';

const event = (what: object) => ({ id: JSON.stringify(what), atMs: 0, by: 'x', what }) as never;
const left = (p: Procedure, events: object[], nowMs = 0) => minutesLeft(p, runState(p, events.map(event)), nowMs);
const done = (step: string, more: object = {}) => ({ kind: 'done', step, round: 0, ...more });

const SMALL = {
  ...SHIPPED_PROCEDURES[0]!,
  minutes: 20,
  steps: [
    { id: 'hot', kind: 'decide', text: 'Hot?', answers: [{ text: 'no', goTo: 'a' }, { text: 'yes' }] },
    { id: 'cool', kind: 'timer', text: 'Let it cool.', seconds: 1200 },
    { id: 'a', kind: 'do', text: 'A.' },
    { id: 'dry', kind: 'timer', text: 'Let it dry.', seconds: 600 },
    { id: 'b', kind: 'do', text: 'B.' },
    { id: 'c', kind: 'do', text: 'C.' },
  ],
} as unknown as Procedure;

describe('minutes left of a run', () => {
  test('begun: its hands-on minutes and the waits of the first way', () => {
    expect(left(SMALL, [])).toBe(20 + 10);
    for (const p of SHIPPED_PROCEDURES)
      expect(Math.abs(left(p, []) - p.minutes - waitingMinutes(p))).toBeLessThanOrEqual(0.5);
  });

  test('an unusual answer brings its wait; steps behind take their share along', () => {
    expect(left(SMALL, [done('hot', { answer: 'yes' })])).toBe(15 + 30);
    expect(left(SMALL, [done('hot', { answer: 'no' })])).toBe(15 + 10);
    expect(left(SMALL, [done('hot', { answer: 'no' }), done('a')])).toBe(10 + 10);
  });

  test('a running wait counts what it has still to run; at the end nothing is left', () => {
    const dry = [done('hot', { answer: 'no' }), done('a'), { kind: 'timer', step: 'dry', round: 0 }];
    expect(left(SMALL, dry, 240_000)).toBe(10 + 6);
    expect(left(SMALL, dry, 1e9)).toBe(10);
    expect(left(SMALL, [...dry, done('dry'), done('b'), done('c')], 1e9)).toBe(0);
  });
});
