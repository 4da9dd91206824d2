/** npm run bench: speed and memory as ratios against a named reference in the same run, one table; names after it measure only those. */
import { readdirSync } from 'node:fs';
import { join } from 'node:path';
import { ensureBuilt, ensureModules, ROOT } from './lib/build.mjs';

await ensureModules();
await ensureBuilt();
const rows = [];
const only = process.argv.slice(2);
for (const file of readdirSync(join(ROOT, 'bench'))
  .filter((f) => f.endsWith('.mjs') && (only.length === 0 || only.includes(f.replace('.mjs', ''))))
  .sort()) {
  process.stderr.write(`measuring ${file.replace('.mjs', '')}\n`);
  const { measure } = await import(join(ROOT, 'bench', file));
  rows.push(...(await measure()));
}
const head = ['what', 'ours', 'reference', 'ratio', 'aim'];
const table = [head, ...rows.map((r) => [r.what, r.ours, r.reference, r.ratio, r.aim])];
const width = head.map((_, c) => Math.max(...table.map((r) => String(r[c]).length)));
for (const r of table) process.stdout.write(`${r.map((v, c) => String(v).padEnd(width[c])).join('  ')}\n`);
