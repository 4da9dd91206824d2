/** The drawn world as tables, by drawing: weights, who notices, and how often each test shows what of each fault. JSON. */
import { coded, drawCase, noticed, runTest } from '../accuracy/world/draw.mjs';
import { FAULTS } from '../accuracy/world/faults.mjs';
import { TESTS } from '../accuracy/world/tests.mjs';
import { generator } from '../lib/random.mjs';

const CARS = 60;
const shows = {};
const r = generator(11);
for (const fault of Object.keys(FAULTS)) {
  for (let i = 0; i < CARS; i++) {
    const { truth } = drawCase(r, { faults: [fault] });
    for (const test of Object.keys(TESTS)) {
      const outcome = runTest(r, truth, test)?.tests?.[0]?.outcome;
      if (outcome === undefined) continue;
      shows[test] ??= {};
      shows[test][fault] ??= { done: 0 };
      const of = shows[test][fault];
      of.done++;
      of[outcome] = (of[outcome] ?? 0) + 1;
    }
  }
}
for (const byFault of Object.values(shows))
  for (const of of Object.values(byFault)) for (const o of Object.keys(of)) if (o !== 'done') of[o] /= of.done;

/** Over all sizes. */
const over = (f) => Array.from({ length: 50 }, (_, i) => f((i + 0.5) / 50)).reduce((a, b) => a + b, 0) / 50;
const column = (f) => Object.fromEntries(Object.entries(FAULTS).map(([id, row]) => [id, f(row)]));
process.stdout.write(
  JSON.stringify({
    weights: column((row) => row.of),
    owners: column((row) => over((big) => noticed(row.says?.[0] ?? 0, big))),
    codes: column((row) => over((big) => coded(row.code?.[2] ?? 0, big))),
    shows,
  }),
);
