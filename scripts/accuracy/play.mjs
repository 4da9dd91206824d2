import { diagnose } from '@just-balance/core/diagnosis';

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
