/** npm test: everything, from nothing. Last line: `N passed, N failed`. Node built-ins only. */

import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuilt, ensureModules, ROOT } from './lib/build.mjs';
import { BROWSER, DATABASE, ensurePrograms } from './lib/packages.mjs';
import { say } from './lib/say.mjs';

let passed = 0;
let failed = 0;
const children = new Set();
const work = mkdtempSync(join(tmpdir(), 'jb-test-'));
for (const signal of ['SIGINT', 'SIGTERM']) {
  process.on(signal, () => {
    for (const c of children) c.kill('SIGTERM');
    rmSync(work, { recursive: true, force: true });
    process.exit(1);
  });
}

function show(command, args, env = {}) {
  return new Promise((resolve) => {
    const child = spawn(command, args, { cwd: ROOT, stdio: 'inherit', env: { ...process.env, ...env } });
    children.add(child);
    child.on('error', () => resolve(1));
    child.on('exit', (code) => {
      children.delete(child);
      resolve(code ?? 1);
    });
  });
}

/** One check that passes or fails as a whole. */
async function check(what, command, args) {
  say(what);
  const code = await show(command, args);
  if (code === 0) passed++;
  else {
    failed++;
    process.stdout.write(`FAILED: ${what}\n`);
  }
  return code === 0;
}

/** One Jest project; its numbers are added up. A project without tests is a failure. */
async function jest(project, args = []) {
  say(`${project} tests`);
  const file = join(work, `${project}.json`);
  await show(process.execPath, [
    join(ROOT, 'node_modules/jest/bin/jest.js'),
    '--selectProjects',
    project,
    '--json',
    `--outputFile=${file}`,
    ...args,
  ]);
  try {
    const r = JSON.parse(readFileSync(file, 'utf8'));
    passed += r.numPassedTests;
    failed += r.numFailedTests + r.numRuntimeErrorTestSuites;
    if (r.numTotalTests === 0) failed++;
  } catch {
    failed++;
    process.stdout.write(`FAILED: ${project} tests gave no result\n`);
  }
}

try {
  mkdirSync(work, { recursive: true });
  await ensurePrograms([...DATABASE, ...BROWSER]);
  await ensureModules();
  await ensureBuilt();
  const bin = (n) => join(ROOT, 'node_modules/.bin', n);
  await check('types of the tests', bin('tsc'), ['-b', 'tsconfig.tests.json']);
  await check('format and lint', bin('biome'), ['check', '.']);
  await check('dependencies', process.execPath, ['scripts/dependencies.mjs']);
  await check('unused code', bin('knip'), []);
  // Left alone Jest keeps one core free for a person.
  await jest('unit', ['--maxWorkers=2']);
  await jest('api', ['--runInBand']);
  await jest('e2e', ['--runInBand']);
  await check('faults, short', process.execPath, ['scripts/faults.mjs', '--short', '--seed', '1']);
} catch (e) {
  failed++;
  process.stdout.write(`${e.message}\n`);
}
rmSync(work, { recursive: true, force: true });
process.stdout.write(`${passed} passed, ${failed} failed\n`);
process.exit(failed === 0 && passed > 0 ? 0 : 1);
