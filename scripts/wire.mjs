/**
 * npm run test:wire -- [--seed N] [--minutes M]: the link over a hostile wire for so long (ten minutes where nothing else
 * is said), held against the simulated car's own log. Says what happened on the wire. A short form is in npm test.
 */
import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { parseArgs } from 'node:util';
import { ensureModules, ROOT } from './lib/build.mjs';

const { values } = parseArgs({
  options: { seed: { type: 'string', default: '1' }, minutes: { type: 'string', default: '10' } },
});
await ensureModules();
const jest = join(ROOT, 'node_modules/jest/bin/jest.js');
const { status } = spawnSync(
  process.execPath,
  [jest, 'packages/vehicle/test/hostileWire', '--selectProjects', 'unit'],
  {
    cwd: ROOT,
    stdio: 'inherit',
    env: { ...process.env, JB_WIRE_SEED: values.seed, JB_WIRE_S: String(60 * Number(values.minutes)) },
  },
);
process.exit(status ?? 1);
