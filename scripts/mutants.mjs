/**
 * npm run mutants -- [--seed N] [--n K] [--files GLOB]: plants K single-line changes one by one in a copy, runs the tests
 * that are related to the file, and says which were noticed. A change that does not compile is not counted. Files: those
 * of core, server and web where nothing else is said.
 */
import { execFileSync, spawn } from 'node:child_process';
import {
  lstatSync,
  mkdirSync,
  mkdtempSync,
  readdirSync,
  readFileSync,
  rmSync,
  symlinkSync,
  writeFileSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { basename, dirname, join } from 'node:path';
import { parseArgs } from 'node:util';
import { ensureBuilt, ensureModules, ROOT } from './lib/build.mjs';
import { DATABASE, ensurePrograms } from './lib/packages.mjs';
import { generator } from './lib/random.mjs';
import { say } from './lib/say.mjs';
import { changesOf } from './mutants/changes.mjs';

const { values } = parseArgs({
  options: { seed: { type: 'string', default: '1' }, n: { type: 'string', default: '12' }, files: { type: 'string' } },
});
const EVERYTHING = [
  'packages/core/src/**/*.ts',
  'apps/server/src/**/*.ts',
  'apps/web/src/**/*.ts',
  'apps/web/src/**/*.tsx',
];
/** Tables and what only starts: a figure of a table is its source's matter. */
const LEFT_OUT = /\/(index|main|shipped|tools)\.ts$|\/(shipped|migrations|demo|catalogue)\/|\.module\.ts$/;
/** One change at most this long, s. */
const LONGEST_S = 240;
const FAILED_AT_ALL = 1;

await ensurePrograms(DATABASE);
await ensureModules();
await ensureBuilt();
const copy = mkdtempSync(join(tmpdir(), 'jb-mutants-'));
const end = () => rmSync(copy, { recursive: true, force: true });
for (const signal of ['SIGINT', 'SIGTERM'])
  process.on(signal, () => {
    end();
    process.exit(FAILED_AT_ALL);
  });

/** Files of the tree by glob, committed or about to be. */
const listed = (...globs) =>
  execFileSync(
    'git',
    ['ls-files', '-z', '--cached', '--others', '--exclude-standard', '--', ...globs.map((g) => `:(glob)${g}`)],
    { cwd: ROOT, encoding: 'utf8' },
  )
    .split('\0')
    .filter((f) => f !== '' && lstatSync(join(ROOT, f), { throwIfNoEntry: false })?.isFile());

/** The tree as it lies here; packages of others by links. */
function copied() {
  const files = listed('**');
  for (const f of files) {
    mkdirSync(dirname(join(copy, f)), { recursive: true });
    writeFileSync(join(copy, f), readFileSync(join(ROOT, f)));
  }
  const link = (from, to) => {
    mkdirSync(to, { recursive: true });
    for (const e of readdirSync(from)) {
      if (e.startsWith('.') && e !== '.bin') continue;
      if (e.startsWith('@') && e !== '@just-balance') link(join(from, e), join(to, e));
      else if (e !== '@just-balance') symlinkSync(join(from, e), join(to, e));
    }
  };
  link(join(ROOT, 'node_modules'), join(copy, 'node_modules'));
  mkdirSync(join(copy, 'node_modules/@just-balance'));
  for (const p of ['packages', 'apps'].flatMap((d) => readdirSync(join(copy, d)).map((n) => `${d}/${n}`))) {
    symlinkSync(join(copy, p), join(copy, 'node_modules/@just-balance', basename(p)));
    const own = join(ROOT, p, 'node_modules');
    if (lstatSync(own, { throwIfNoEntry: false })) link(own, join(copy, p, 'node_modules'));
  }
}

const of = (args, seconds) =>
  new Promise((resolve) => {
    const child = spawn(process.execPath, args, {
      cwd: copy,
      stdio: 'ignore',
      env: { ...process.env, CI: '1' },
      detached: true,
    });
    const timer = setTimeout(() => process.kill(-child.pid, 'SIGKILL'), seconds * 1000);
    child.on('exit', (code) => {
      clearTimeout(timer);
      resolve(code === 0);
    });
  });
const tsc = (project) => of([join(ROOT, 'node_modules/typescript/bin/tsc'), '-b', project], LONGEST_S);
const jest = (args) => of([join(ROOT, 'node_modules/jest/bin/jest.js'), '--bail', '--silent', ...args], LONGEST_S);

/** Folders of the server whose routes have another name, or that have none: where they are reached from. */
const REACHED_BY = {
  fromVehicle: ['links'],
  sockets: ['accounts', 'links'],
  live: ['links'],
  learning: ['logbook', 'service', 'trainer'],
  common: ['hostile', 'routes', 'rights', 'races'],
  database: ['races', 'rows'],
  rows: ['rows', 'oldRows', 'people', 'service'],
  demo: ['setup', 'board'],
  reports: ['handOver'],
};
/** Tests that wait for a car in real time: only where the car is the matter. */
const AT_THE_CAR = ['bays', 'links'];

/** API tests are of the built server: those that import from the folder or ask its routes. */
function apiTestsOf(file) {
  const [folder] = file.split('/').slice(3);
  const asks = new RegExp(`src/${folder}/|[/\`']${folder}[/\`'?]`);
  const all = listed('apps/server/test/*.test.ts');
  const named = REACHED_BY[folder] ?? [];
  const name = (t) => basename(t, '.test.ts');
  return all.filter(
    (t) =>
      named.includes(name(t)) ||
      name(t) === 'jobs' ||
      (folder !== 'rows' && !AT_THE_CAR.includes(name(t)) && asks.test(readFileSync(join(ROOT, t), 'utf8'))) ||
      name(t) === folder,
  );
}

/** Tests of other packages that import the folder of core: Jest relates files within a package only. */
function importersOf(file) {
  const [root, name, , folder] = file.split('/');
  if (root !== 'packages' || name !== 'core') return [];
  const tests = listed('packages/*/test/*.test.ts', 'apps/cli/test/*.test.ts', 'apps/web/test/*.test.ts');
  return tests.filter((t) => readFileSync(join(ROOT, t), 'utf8').includes(`@just-balance/core/${folder}'`));
}

/** Whether the tests fail with the change in place; null where it does not compile. */
async function noticed(file) {
  const [root, name] = file.split('/');
  if (!(await tsc(join(root, name)))) return null;
  if (root === 'apps' && name === 'server') return !(await jest([...apiTestsOf(file), '--selectProjects', 'api']));
  if (!(await jest(['--selectProjects', 'unit', 'web', '--findRelatedTests', file]))) return true;
  const importers = importersOf(file);
  return importers.length > 0 && !(await jest([...importers, '--selectProjects', 'unit']));
}

try {
  copied();
  say('a copy is made; building it');
  if (!(await tsc('.'))) throw new Error('the copy does not build');
  const { pick } = generator(Number(values.seed));
  const files = listed(...(values.files ? [values.files] : EVERYTHING))
    .filter((f) => !LEFT_OUT.test(f))
    .sort();
  if (files.length === 0) throw new Error(`no file is called ${values.files}`);
  // By lines, not by files: a long file has more to be noticed.
  const all = files.flatMap((file) => changesOf(readFileSync(join(copy, file), 'utf8')).map((c) => ({ file, ...c })));
  const wanted = Number(values.n);
  let [planted, seen] = [0, 0];
  const missed = [];
  while (planted < wanted) {
    const { file, at, to } = pick(all);
    const path = join(copy, file);
    const text = readFileSync(path, 'utf8');
    const lines = text.split('\n');
    const was = lines[at];
    lines[at] = to;
    writeFileSync(path, lines.join('\n'));
    const found = await noticed(file);
    writeFileSync(path, text);
    if (found === null) continue;
    planted++;
    if (found) seen++;
    else missed.push(`${file}:${at + 1}\n  - ${was.trim()}\n  + ${to.trim()}`);
    say(`${planted} of ${wanted}: ${found ? 'noticed' : 'not noticed'}, ${file}:${at + 1}`);
  }
  for (const m of missed) process.stdout.write(`${m}\n`);
  process.stdout.write(`${planted} planted, ${seen} noticed\n`);
} finally {
  end();
}
