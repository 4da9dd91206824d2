/**
 * A wire with a mind of its own, by seed: nothing that the link takes for a value of the car was not said by it, as the
 * car's own log has it. Short here; `npm run test:wire -- --seed N --minutes M` is the long form.
 */
import { expect, test } from '@jest/globals';
import { hostileRun } from './hostileWire.ts';

const seconds = Number(process.env.JB_WIRE_S ?? 40);
const first = Number(process.env.JB_WIRE_SEED ?? 1);
const SEEDS = Array.from({ length: process.env.JB_WIRE_SEED ? 1 : 4 }, (_, i) => first + i);

test.each(SEEDS)('seed %i: no value that the car has not said, and in the calm all is well again', (seed) => {
  const r = hostileRun(seed, seconds);
  if (process.env.JB_WIRE_SEED) process.stdout.write(`${JSON.stringify({ seed, seconds, ...r })}\n`);
  expect(r.strange).toEqual([]);
  // Something was heard all the same, and something set aside: the run compares what there is to compare.
  expect(r.samples).toBeGreaterThan(5 * seconds);
  expect(r.samples).toBeLessThanOrEqual(r.said);
  expect(r.setAside).toBeGreaterThan(seconds);
  for (const what of ['foreign', 'lost', 'twice', 'pending', 'lag']) expect(r.happened[what]).toBeGreaterThan(0);
  expect(r.calmWithoutS).toBeLessThan(1);
});
