import { diagnose } from '@just-balance/core/diagnosis';
import { generator } from '../lib/random.mjs';
import { drawCase, drawTwo, kindOf, runTest, stateOf } from './world/draw.mjs';

/** The first cause this likely: the work stops. */
const SURE = 0.85;
const MOST_TESTS = 8;
/** Causes this close stand side by side. */
const TIE = 1e-5;

/**
 * One case to its end: always the first test recommended, until the first cause is sure, nothing is left or eight are
 * done. `answer(test, diagnosis)` gives `{ reading }`, `{ tests }`, or null where it cannot be done here. Every step
 * says what was asked, the bits promised for it and what the true fault's probability was before.
 */
export function play(c, fault, answer, settings) {
  const these = [fault].flat();
  const steps = [];
  const cannot = new Set();
  let minutes = 0;
  let tests = 0;
  for (;;) {
    const d = diagnose(c, settings);
    const [first] = d.causes;
    const at = d.causes.findIndex((x) => these.includes(x.fault));
    steps.push({
      top: first.fault,
      p: first.probability,
      rank: at + 1,
      tied: at > 0 && first.probability - d.causes[at].probability < TIE,
      truth: at < 0 ? 0 : d.causes[at].probability,
    });
    if (first.probability >= SURE || tests === MOST_TESTS) break;
    const next = d.nextTests.find((t) => !cannot.has(t.test));
    if (!next) break;
    const a = answer(next.test, d);
    if (!a) {
      cannot.add(next.test);
      continue;
    }
    tests++;
    minutes += next.minutes;
    Object.assign(steps.at(-1), { asked: next.test, promised: next.informationBits });
    if (a.reading) c.readings.push(a.reading);
    else c.tests.push(...a.tests);
  }
  return { fault: these.join(' + '), first: steps[0], last: steps.at(-1), minutes, tests, steps };
}

/** Drawn cars with two faults at once, played to their ends: right is either of them. */
export function playTwo(cases, seed, faults) {
  return Array.from({ length: cases }, (_, i) => {
    const r = generator(seed * 1_000_003 + i);
    const { truth, c } = drawTwo(r, faults);
    const named = [truth.fault, truth.also.fault];
    return { ...play(c, named, (test) => runTest(r, truth, test)), kind: kindOf(truth.v), state: stateOf(truth) };
  });
}

/** Drawn cases played to their ends. */
export function playDrawn(cases, seed, faults, progress = () => {}, kind = undefined) {
  return Array.from({ length: cases }, (_, i) => {
    progress(i);
    // Each case has its own chance: another order of tests leaves the other cases as they are.
    const r = generator(seed * 1_000_003 + i);
    const { truth, c } = drawCase(r, { faults, kind });
    return { ...play(c, truth.fault, (test) => runTest(r, truth, test)), kind: kindOf(truth.v), state: stateOf(truth) };
  });
}
