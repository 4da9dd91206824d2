/** A short look at how right the diagnosis is, as JSON: `node scripts/accuracy/quick.mjs CASES SEED`. Run by npm test. */
import { playDrawn } from './play.mjs';
import { summary } from './summary.mjs';
import { TRIM_MOVERS } from './world/faults.mjs';

const [cases, seed] = process.argv.slice(2).map(Number);
const of = (faults) => summary(playDrawn(cases, seed, faults));
process.stdout.write(`${JSON.stringify({ every: of(), movers: of(TRIM_MOVERS) })}\n`);
