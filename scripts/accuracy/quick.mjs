/** A short look at how right the diagnosis is, as JSON: `node scripts/accuracy/quick.mjs CASES SEED`. Run by npm test. */
import { TRIM_MOVERS } from './drawn.mjs';
import { playDrawn } from './play.mjs';
import { summary } from './summary.mjs';

const [cases, seed] = process.argv.slice(2).map(Number);
const of = (faults) => {
  const { results, ideal } = playDrawn(cases, seed, faults);
  return { ...summary(results), idealFirst: ideal.first / cases };
};
process.stdout.write(`${JSON.stringify({ every: of(), movers: of(TRIM_MOVERS) })}\n`);
