/**
 * npm run test:faults -- [--seed N] [--short]: parts left alone, kills of each part and of the whole, migrations cut off, two
 * servers on one database; an independent checker reads the database itself. Says what it did and how often.
 */
import { spawn } from 'node:child_process';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { kills } from './faults/kills.mjs';
import { migrations } from './faults/migrations.mjs';
import { orphans } from './faults/orphans.mjs';
import { twoServers } from './faults/twoServers.mjs';
import { ensureBuilt, ensureModules, ROOT } from './lib/build.mjs';
import { DATABASE, ensurePrograms } from './lib/packages.mjs';
import { generator } from './lib/random.mjs';
import { say } from './lib/say.mjs';

const at = process.argv.indexOf('--seed');
const seed = at > 0 ? Number(process.argv[at + 1]) : 1;
const short = process.argv.includes('--short');
await ensurePrograms(DATABASE);
await ensureModules();
await ensureBuilt();

const work = mkdtempSync(join(tmpdir(), 'jb-faults-'));
const stops = [];
const end = async () => {
  for (const stop of stops.splice(0).reverse()) await stop().catch(() => {});
  rmSync(work, { recursive: true, force: true });
};
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => void end().then(() => process.exit(1)));

/** Node on a script of ours; resolves with its exit, and keeps its words. */
const run = (file, args, env = {}) =>
  new Promise((resolve) => {
    const child = spawn(process.execPath, [join(ROOT, file), ...args], {
      cwd: ROOT,
      env: { ...process.env, ...env },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    let out = '';
    child.stdout.on('data', (d) => {
      out += d;
    });
    child.stderr.on('data', (d) => {
      out += d;
    });
    child.on('exit', (code, signal) => resolve({ code, signal, out }));
  });

const failures = [];
const rows = [];
for (const [name, scenario] of Object.entries({ orphans, migrations, kills, twoServers })) {
  say(`${name}, seed ${seed}`);
  const context = { seed, short, work: join(work, name), stops, run, random: generator(seed).next, failures: [] };
  try {
    rows.push([name, await scenario(context)]);
  } catch (e) {
    context.failures.push(e.stack);
  }
  failures.push(...context.failures.map((f) => `${name}: ${f}`));
  for (const stop of stops.splice(0).reverse()) await stop().catch(() => {});
}
await end();
for (const [name, said] of rows) process.stdout.write(`${name.padEnd(12)} ${said}\n`);
for (const f of failures) process.stdout.write(`FAILED ${f}\n`);
process.stdout.write(
  failures.length === 0 ? `no promise broken (seed ${seed})\n` : `${failures.length} broken (seed ${seed})\n`,
);
process.exit(failures.length === 0 ? 0 : 1);
