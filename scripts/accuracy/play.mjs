import { diagnose } from '@just-balance/core/diagnosis';
import { generator } from '../lib/random.mjs';
import { drawCase, idealRank, runTest } from './drawn.mjs';

/** The first cause this likely: the work stops. */
const SURE = 0.85;
const MOST_TESTS = 8;

/**
 * One case to its end: always the first test recommended, until the first cause is sure, nothing is left or eight are
 * done. `answer(test, diagnosis)` gives `{ reading }`, `{ tests }`, or null where it cannot be done here.
 */
export function play(c, fault, answer, settings) {
  const steps = [];
  const cannot = new Set();
  let minutes = 0;
  let tests = 0;
  for (;;) {
    const d = diagnose(c, settings);
    steps.push({
      top: d.causes[0].fault,
      p: d.causes[0].probability,
      rank: d.causes.findIndex((x) => x.fault === fault) + 1,
    });
    if (d.causes[0].probability >= SURE || tests === MOST_TESTS) break;
    const next = d.nextTests.find((t) => !cannot.has(t.test));
    if (!next) break;
    const a = answer(next.test, d);
    if (!a) {
      cannot.add(next.test);
      continue;
    }
    tests++;
    minutes += next.minutes;
    steps.at(-1).asked = next.test;
    if (a.reading) c.readings.push(a.reading);
    else c.tests.push(...a.tests);
  }
  return { fault, first: steps[0], last: steps.at(-1), minutes, tests, steps };
}

/** Drawn cases played to their ends, and how often an observer who knows their generator ranks the true fault first. */
export function playDrawn(cases, seed, faults, progress = () => {}) {
  const r = generator(seed);
  const ideal = { first: 0, three: 0 };
  const results = Array.from({ length: cases }, (_, i) => {
    progress(i);
    const { truth, c } = drawCase(r, { faults });
    const rank = idealRank(truth, c, faults);
    if (rank === 1) ideal.first++;
    if (rank > 0 && rank <= 3) ideal.three++;
    return play(c, truth.fault, (test) => runTest(r, truth, test));
  });
  return { results, ideal };
}
