/** npm test: everything, from nothing. Last line: `N passed, N failed`. Node built-ins only. */

import { spawn } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuilt, ensureModules, ROOT } from './lib/build.mjs';
import { BROWSER, DATABASE, ensurePrograms, READERS } from './lib/packages.mjs';
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

/** Jest on some of its projects; their numbers are added up. A project without tests is a failure. */
async function jest(projects, workers) {
  const name = projects.join(' and ');
  say(`${name} tests`);
  const file = join(work, `${name}.json`);
  await show(process.execPath, [
    join(ROOT, 'node_modules/jest/bin/jest.js'),
    '--selectProjects',
    ...projects,
    `--maxWorkers=${workers}`,
    '--json',
    `--outputFile=${file}`,
  ]);
  try {
    const r = JSON.parse(readFileSync(file, 'utf8'));
    passed += r.numPassedTests;
    failed += r.numFailedTests + r.numRuntimeErrorTestSuites;
    for (const p of projects)
      if (!r.testResults.some((t) => t.name.startsWith(join(ROOT, FOLDERS[p])))) {
        failed++;
        process.stdout.write(`FAILED: no ${p} test ran\n`);
      }
  } catch {
    failed++;
    process.stdout.write(`FAILED: ${name} tests gave no result\n`);
  }
  say(`${name} tests done`);
}

/** Where each project's tests lie; one of them must have run. */
const FOLDERS = { unit: 'packages', web: 'apps/web', api: 'apps/server', e2e: 'e2e' };

try {
  mkdirSync(work, { recursive: true });
  // Both wait for the network: side by side.
  await Promise.all([ensurePrograms([...DATABASE, ...BROWSER, ...READERS]), ensureModules()]);
  await ensureBuilt();
  const bin = (n) => join(ROOT, 'node_modules/.bin', n);
  await Promise.all([
    check('types of the tests', bin('tsc'), ['-b', 'tsconfig.tests.json']),
    check('format and lint', bin('biome'), ['check', '.']),
    check('dependencies', process.execPath, ['scripts/dependencies.mjs']),
    check('unused code', bin('knip'), []),
  ]);
  // Tests of the API wait for real time more than they work: a third worker on two cores, and the kills beside them.
  await Promise.all([
    jest(['unit', 'web', 'api'], 3),
    check('faults, short', process.execPath, ['scripts/faults.mjs', '--short', '--seed', '1']),
  ]);
  // The browser's tests wait for captures of ten seconds and longer: a third fills the waiting.
  await jest(['e2e'], 3);
} catch (e) {
  failed++;
  process.stdout.write(`${e.message}\n`);
}
rmSync(work, { recursive: true, force: true });
process.stdout.write(`${passed} passed, ${failed} failed\n`);
process.exit(failed === 0 && passed > 0 ? 0 : 1);
