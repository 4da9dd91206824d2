/**
 * The drawn world as tables, by drawing from it: how frequent faults are, how often their owners say what, how often each
 * leaves its code, and how often each test shows what of each fault. JSON.
 */
import { drawCase, runTest } from '../accuracy/world/draw.mjs';
import { FAULTS } from '../accuracy/world/faults.mjs';
import { codeOf } from '../accuracy/world/people.mjs';
import { TESTS } from '../accuracy/world/tests.mjs';
import { generator } from '../lib/random.mjs';

const CARS = 60;
/** Cars that are only asked what their owners say and which codes they have. */
const ASKED = 600;
const NOTHING = ['lamp-only', 'none', 'failed-inspection'];
const shows = {};
const owners = {};
const says = {};
const codes = {};
const r = generator(11);
for (const fault of Object.keys(FAULTS)) {
  says[fault] = {};
  owners[fault] = 0;
  codes[fault] = 0;
  for (let i = 0; i < ASKED; i++) {
    const { c, truth } = drawCase(r, { faults: [fault] });
    const words = c.complaints.filter((w) => !NOTHING.includes(w));
    if (words.length > 0) owners[fault] += 1 / ASKED;
    for (const w of words) says[fault][w] = (says[fault][w] ?? 0) + 1 / ASKED;
    const own = codeOf(fault)?.slice(0, 2) ?? [];
    // A misfire may be named by its cylinder.
    if (c.codes.some(({ code }) => own.some((o) => code === o || (o === 'P0300' && code.startsWith('P030')))))
      codes[fault] += 1 / ASKED;
    if (i >= CARS) continue;
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

const weights = Object.fromEntries(Object.entries(FAULTS).map(([id, row]) => [id, row.of]));
process.stdout.write(JSON.stringify({ weights, owners, says, codes, shows }));
