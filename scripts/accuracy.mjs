/**
 * npm run accuracy [cases] [seed]: the diagnosis on cases it was not built from, each played to the end with the tests
 * it recommends itself. Two sources: simulated vehicles, and cases drawn from a statistical model of their own.
 * Writes docs/diagnosis-accuracy.md.
 */
import { writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuilt, ensureModules, ROOT } from './lib/build.mjs';
import { say } from './lib/say.mjs';

await ensureModules();
await ensureBuilt();
const { FAULTS } = await import('@just-balance/core/catalogue');
const { TRIM_MOVERS } = await import('./accuracy/drawn.mjs');
const { playDrawn } = await import('./accuracy/play.mjs');
const { generator } = await import('./lib/random.mjs');
const { playSimulated } = await import('./accuracy/simulated.mjs');
const { byFault, confused, summary } = await import('./accuracy/summary.mjs');

const CASES = Number(process.argv[2] ?? 300);
const SEED = Number(process.argv[3] ?? 1);
const WEIGHTS = new Map(FAULTS.map((f) => [f.id, f.weight]));

function progress(what, i) {
  if (process.stderr.isTTY && i % 20 === 0) process.stderr.write(`\r${what}: ${i} of ${CASES}   `);
}

function simulated() {
  const r = generator(SEED);
  return Array.from({ length: CASES }, (_, i) => {
    progress('simulated vehicles', i);
    return playSimulated(r, WEIGHTS);
  });
}

const pct = (x) => `${(100 * x).toFixed(0)} %`;
const sim = simulated();
const every = playDrawn(CASES, SEED, undefined, (i) => progress('drawn cases', i));
const movers = playDrawn(CASES, SEED, TRIM_MOVERS, (i) => progress('drawn cases', i));
const columns = [summary(sim), summary(every.results), summary(movers.results)];
const row = (what, of) => `| ${what} | ${columns.map(of).join(' | ')} |`;
const lines = [
  '# How right the diagnosis is',
  '',
  `Made by \`npm run accuracy ${CASES} ${SEED}\`: ${CASES} cases each, seed ${SEED}. Idle and 2,500 rpm readings first, then always`,
  'the first recommended test until the first cause reaches 0.85, nothing is left or eight are done. Faults are drawn by the',
  'starting weights.',
  '',
  '- **Simulated vehicles**: petrol cars of the simulated fleet, which shares no code with the diagnosis; sizes 0.55 to 1.65',
  '  times the usual one, own healthy offset, altitude and weather; a look may be wrong.',
  '- **Drawn cases** (`scripts/accuracy/drawn.mjs`): a statistical model with its own tables and formulas and imperfect tests;',
  '  once over every fault, once over those that move a trim. “Ideal” knows that model exactly, and the true flow ratio.',
  '',
  '| measure | simulated | drawn, every fault | drawn, trim movers |',
  '|---|---|---|---|',
  row('true fault first from the two readings', (s) => pct(s.first)),
  row('among the first three from the two readings', (s) => pct(s.three)),
  `| ideal observer: first / first three | — | ${[every, movers].map((d) => `${pct(d.ideal.first / CASES)} / ${pct(d.ideal.three / CASES)}`).join(' | ')} |`,
  row('right at the end', (s) => pct(s.right)),
  row('minutes, mean', (s) => s.minutes.toFixed(1)),
  row('tests, mean', (s) => s.tests.toFixed(1)),
  row('calibration error of the first cause, every step, five bins', (s) => s.ece.toFixed(3)),
  '',
  '## Calibration',
  '',
  'Said on average → right, and how many steps.',
  '',
  '| first cause | simulated | drawn, every fault | drawn, trim movers |',
  '|---|---|---|---|',
  ...[0, 1, 2, 3, 4].map((b) =>
    row(`${b * 20}–${b * 20 + 20} %`, (s) =>
      s.bins[b].n === 0 ? '—' : `${pct(s.bins[b].said)} → ${pct(s.bins[b].right)}, ${s.bins[b].n}`,
    ),
  ),
  '',
  '## Simulated vehicles, by fault',
  '',
  '| fault | cases | first from readings | right at the end | minutes |',
  '|---|---|---|---|---|',
  ...byFault(sim).map((f) => `| \`${f.fault}\` | ${f.cases} | ${f.first} | ${f.right} | ${f.minutes.toFixed(0)} |`),
  '',
  '## Simulated vehicles, confused at the end',
  '',
  '| true | said instead | cases |',
  '|---|---|---|',
  ...confused(sim).map(
    ([k, n]) =>
      `| ${k
        .split(' → ')
        .map((f) => `\`${f}\``)
        .join(' | ')} | ${n} |`,
  ),
  '',
];
writeFileSync(join(ROOT, 'docs/diagnosis-accuracy.md'), `${lines.join('\n')}`);
say(lines.slice(12, 21).join('\n'));
