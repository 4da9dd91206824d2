import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join, relative } from 'node:path';
import { afterEach, describe, expect, test } from '@jest/globals';

const ROOT = join(__dirname, '../..');
let dir = '';
afterEach(() => rmSync(dir, { recursive: true, force: true }));

/** A little tree with one file in it; returns what the command says and whether it passed. */
function plant(files: Record<string, string>, command: (root: string) => [string, string[]], inside = false) {
  dir = mkdtempSync(join(tmpdir(), 'jb-rules-'));
  for (const [name, text] of Object.entries({
    'package.json': '{"type":"module"}',
    'apps/.keep': '',
    'packages/.keep': '',
    ...files,
  })) {
    mkdirSync(dirname(join(dir, name)), { recursive: true });
    writeFileSync(join(dir, name), text);
  }
  const [program, args] = command(dir);
  try {
    return {
      passed: true,
      said: execFileSync(program, args, { encoding: 'utf8', cwd: inside ? dir : ROOT, stdio: 'pipe' }),
    };
  } catch (e) {
    const { stdout, stderr } = e as { stdout: string; stderr: string };
    return { passed: false, said: `${stdout}${stderr}` };
  }
}

describe('the dependency rules can fail: one planted violation each', () => {
  /** One file that imports another it may not. */
  const imports = (from: string, to: string) => ({
    [`${from}/a.ts`]: `import { d } from '${relative(from, to)}/d.ts';\nexport const a = d;\n`,
    [`${to}/d.ts`]: 'export const d = 1;\n',
  });
  const core = (folder: string) => `packages/core/src/${folder}`;
  const check = (files: Record<string, string>) =>
    plant(files, (root) => [process.execPath, [join(ROOT, 'scripts/dependencies.mjs'), '--root', root]]);
  test('an innocent tree passes', () => {
    expect(check({ 'packages/core/src/gas/a.ts': 'export const a = 1;\n' })).toMatchObject({ passed: true });
  });
  const PLANTED: readonly (readonly [rule: string, files: Readonly<Record<string, string>>])[] = [
    [
      'core-points-nowhere',
      {
        'packages/core/src/gas/a.ts': "import { b } from '../../../contract/src/b.ts';\nexport const a = b;\n",
        'packages/contract/src/b.ts': 'export const b = 1;\n',
      },
    ],
    [
      'core-no-packages',
      { 'packages/core/src/gas/a.ts': "import { readFileSync } from 'node:fs';\nexport const a = readFileSync;\n" },
    ],
    [
      'vehicle-knows-only-the-wire',
      {
        'packages/vehicle/src/a.ts': "import { d } from '../../core/src/diagnosis/d.ts';\nexport const a = d;\n",
        'packages/core/src/diagnosis/d.ts': 'export const d = 1;\n',
      },
    ],
    [
      'web-not-server',
      {
        'apps/web/src/a.tsx': "import { s } from '../../server/src/s.ts';\nexport const A = () => <p>{s}</p>;\n",
        'apps/server/src/s.ts': 'export const s = 1;\n',
      },
    ],
    [
      'no-circular',
      {
        'packages/core/src/gas/a.ts': "import { b } from './b.ts';\nexport const a = () => b;\n",
        'packages/core/src/gas/b.ts': "import { a } from './a.ts';\nexport const b = () => a;\n",
      },
    ],
    // By the last folder of its line, and one built on it.
    ['core-order-can', imports(core('can'), core('obd'))],
    ['core-order-catalogue', imports(core('case'), core('trims'))],
    ['core-order-series', imports(core('series'), core('diagnosis'))],
    ['core-order-obd', imports(core('obd'), core('trims'))],
    ['core-order-link', imports(core('link'), core('capture'))],
    ['core-order-recordingFiles', imports(core('recordingFiles'), core('capture'))],
    ['core-order-capture', imports(core('capture'), core('diagnosis'))],
    ['core-order-diagnosis', imports(core('diagnosis'), core('procedures'))],
    ['core-order-job', imports(core('job'), core('handOver'))],
    ['core-order-handOver', imports(core('handOver'), core('standing'))],
    ['core-order-standing', imports(core('standing'), core('practice'))],
    ['core-order-practice', imports(core('practice'), core('scenarios'))],
    ['what-is-hidden-stays-in-the-shop', imports('apps/web/src/pages', core('scenarios'))],
    ['core-folders-have-a-place', imports(core('gas'), core('newFolder'))],
    ['case-stands-on-the-ground', imports(core('case'), core('catalogue'))],
    ['catalogue-stands-on-the-ground', imports(core('catalogue'), core('case'))],
    ['contract-points-inwards', imports('packages/contract/src', 'packages/vehicle/src')],
    ['vehicle-points-inwards', imports('packages/vehicle/src', 'packages/contract/src')],
    ['server-not-web', imports('apps/server/src', 'apps/web/src')],
    ['no-deep-imports', imports('apps/server/src', 'packages/core/dist')],
    ['no-unresolved', { 'packages/core/src/gas/a.ts': "import { d } from './nowhere.ts';\nexport const a = d;\n" }],
    ['stations-know-no-page', imports('apps/web/src/stations/prove', 'apps/web/src/pages/job')],
    // Named by no rule: inside as every new folder is.
    ['ui-and-data-know-no-station', imports('apps/web/src/newFolder', 'apps/web/src/stations/balance')],
    [
      'services-are-given-by-their-module',
      {
        'apps/server/src/a/a.ts': "import { B } from '../b/b.service.ts';\nexport const a = B;\n",
        'apps/server/src/b/b.service.ts': 'export class B {}\n',
        'apps/server/src/b/b.module.ts': '@Module({ providers: [B], exports: [] })\nexport class M {}\n',
      },
    ],
    [
      'no-circle-between-folders',
      {
        'apps/server/src/a/a.ts': "import { b } from '../b/b.ts';\nexport const a = b;\n",
        'apps/server/src/a/c.ts': 'export const c = 1;\n',
        'apps/server/src/b/b.ts': 'export const b = 1;\n',
        'apps/server/src/b/d.ts': "import { c } from '../a/c.ts';\nexport const d = c;\n",
      },
    ],
    [
      'stations-are-apart',
      {
        'apps/web/src/stations/prove/a.ts': "import { b } from '../balance/b.ts';\nexport const a = b;\n",
        'apps/web/src/stations/balance/b.ts': 'export const b = 1;\n',
      },
    ],
    [
      'ui-and-data-know-no-station',
      {
        'apps/web/src/ui/a.ts': "import { b } from '../stations/balance/b.ts';\nexport const a = b;\n",
        'apps/web/src/stations/balance/b.ts': 'export const b = 1;\n',
      },
    ],
    [
      'pages-are-opened-by-the-router',
      {
        'apps/web/src/pages/a/a.ts': "import { b } from '../b/b.ts';\nexport const a = b;\n",
        'apps/web/src/pages/b/b.ts': 'export const b = 1;\n',
      },
    ],
    [
      'server-modules-keep-their-insides',
      {
        'apps/server/src/a/a.ts': "import { b } from '../b/b.controller.ts';\nexport const a = b;\n",
        'apps/server/src/b/b.controller.ts': 'export const b = 1;\n',
      },
    ],
  ];

  test('of every rule there is', () => {
    const { forbidden } = require(join(ROOT, '.dependency-cruiser.cjs')) as { forbidden: { name: string }[] };
    expect([...new Set(PLANTED.map(([rule]) => rule))].sort()).toEqual(forbidden.map((r) => r.name).sort());
  });

  test('a service that its module exports is anyone’s', () => {
    expect(
      check({
        'apps/server/src/a/a.ts': "import { B } from '../b/b.service.ts';\nexport const a = B;\n",
        'apps/server/src/b/b.service.ts': 'export class B {}\n',
        'apps/server/src/b/b.module.ts': '@Module({ exports: [B] })\nexport class M {}\n',
      }),
    ).toMatchObject({ passed: true });
  });

  /** The same files under names of their own: all of them stand in one tree, read once. */
  const own = (text: string, i: number) => text.replace(/\b([a-ds])((?:\.controller)?\.tsx?)\b/g, `$1${i}$2`);
  let all: { passed: boolean; said: string } | null = null;
  const checked = () => {
    all ??= check(
      Object.fromEntries(
        PLANTED.flatMap(([, files], i) => Object.entries(files).map(([name, text]) => [own(name, i), own(text, i)])),
      ),
    );
    return all;
  };

  test.each(PLANTED.map(([rule], i) => [rule, i] as const))('%s', (rule, i) => {
    const { passed, said } = checked();
    expect(passed).toBe(false);
    const files = Object.keys(PLANTED[i]![1]).map((name) => own(name, i));
    const lines = said.split('\n').filter((l) => l.includes(` ${rule}: `));
    // Of a circle between folders the folders are named.
    expect(lines.some((l) => files.some((f) => l.includes(f) || l.includes(dirname(f))))).toBe(true);
  });
});

describe('the linter can fail: core and vehicle take time and seeds as arguments', () => {
  test.each([
    ['Date', 'export const now = () => new Date();\n'],
    ['performance', 'export const now = () => performance.now();\n'],
    ['Math.random', 'export const dice = () => Math.random();\n'],
    ['document', 'export const page = () => document;\n'],
  ])('%s in core', (_, text) => {
    // A copy of the rules with one file in it: the tree itself is never touched.
    const config = JSON.parse(readFileSync(join(ROOT, 'biome.json'), 'utf8'));
    const r = plant(
      {
        'biome.json': JSON.stringify({ ...config, vcs: undefined, $schema: undefined }),
        'scripts/lint/no-random.grit': readFileSync(join(ROOT, 'scripts/lint/no-random.grit'), 'utf8'),
        'packages/core/src/planted.ts': text,
      },
      (root) => [join(ROOT, 'node_modules/.bin/biome'), ['lint', `--config-path=${root}`, join(root, 'packages')]],
      true,
    );
    expect(r.passed).toBe(false);
    expect(r.said).toMatch(/noRestrictedGlobals|plugin|random/i);
  });
});

describe('what a machine without help must find in the repository', () => {
  const text = (f: string) => readFileSync(join(ROOT, f), 'utf8');
  test('the lock file records no download address; the bin is committed', () => {
    expect(text('package-lock.json')).not.toMatch(/"resolved": "https?:/);
    expect(text('apps/cli/bin/jb.mjs')).toMatch(/run npm run build/);
  });
  test('README links pictures that exist, fewer than twenty', () => {
    const pictures = [...text('README.md').matchAll(/\((docs\/screenshots\/[^)]+\.png)\)/g)].map((m) => m[1]!);
    expect(pictures.length).toBeGreaterThan(0);
    for (const p of pictures) expect(readFileSync(join(ROOT, p)).subarray(1, 4).toString()).toBe('PNG');
  });
});
