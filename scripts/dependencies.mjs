/**
 * The rules of the house over every import (rules: .dependency-cruiser.cjs). `--root DIR` checks another tree, with
 * which the tests plant violations. Fails below a sensible number of modules: a checker that reads nothing finds nothing.
 */
import { createRequire } from 'node:module';
import { join } from 'node:path';

const require = createRequire(import.meta.url);
// dependency-cruiser 18 parses TypeScript through swc without JSX; the .tsx files need it switched on.
const swc = require('@swc/core');
const parseFileSync = swc.parseFileSync;
swc.parseFileSync = (file, options) => parseFileSync(file, file.endsWith('.tsx') ? { ...options, tsx: true } : options);

const at = process.argv.indexOf('--root');
const root = at > 0 ? process.argv[at + 1] : new URL('..', import.meta.url).pathname;
const least = at > 0 ? 1 : 150;
const { cruise } = await import('dependency-cruiser');
process.chdir(root);
// After the change of folder: what modules of the server give to others is read from the tree that is checked.
const { forbidden, options } = require(
  join(import.meta.dirname ?? new URL('.', import.meta.url).pathname, '../.dependency-cruiser.cjs'),
);
const { output } = await cruise(
  ['packages', 'apps'],
  {
    ...options,
    validate: true,
    ruleSet: { forbidden },
  },
  {
    conditionNames: options.enhancedResolveOptions.conditionNames,
    exportsFields: ['exports'],
    extensions: ['.ts', '.tsx', '.mjs', '.js'],
  },
);
const { violations, totalCruised } = output.summary;
for (const v of violations) process.stdout.write(`${v.rule.severity} ${v.rule.name}: ${v.from} → ${v.to}\n`);
process.stdout.write(`${totalCruised} modules, ${violations.length} violations\n`);
if (totalCruised < least) process.stdout.write(`fewer than ${least} modules: the checker is not reading the tree\n`);
process.exit(violations.length === 0 && totalCruised >= least ? 0 : 1);
