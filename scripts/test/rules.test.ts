import { execFileSync } from 'node:child_process';
import { mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { afterEach, describe, expect, test } from '@jest/globals';

const ROOT = join(__dirname, '../..');
let dir = '';
afterEach(() => rmSync(dir, { recursive: true, force: true }));

/** A little tree with one file in it; returns what the command says and whether it passed. */
function plant(files: Record<string, string>, command: (root: string) => [string, string[]]) {
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
    return { passed: true, said: execFileSync(program, args, { encoding: 'utf8', cwd: ROOT }) };
  } catch (e) {
    const { stdout, stderr } = e as { stdout: string; stderr: string };
    return { passed: false, said: `${stdout}${stderr}` };
  }
}

describe('the dependency rules can fail: one planted violation each', () => {
  const check = (files: Record<string, string>) =>
    plant(files, (root) => [process.execPath, [join(ROOT, 'scripts/dependencies.mjs'), '--root', root]]);
  test('an innocent tree passes', () => {
    expect(check({ 'packages/core/src/gas/a.ts': 'export const a = 1;\n' })).toMatchObject({ passed: true });
  });
  test.each([
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
  ])('%s', (rule, files) => {
    const r = check(files as Record<string, string>);
    expect(r.passed).toBe(false);
    expect(r.said).toContain(rule);
  });
});

describe('the linter can fail: core and vehicle take time and seeds as arguments', () => {
  test.each([
    ['Date', 'export const now = () => new Date();\n'],
    ['performance', 'export const now = () => performance.now();\n'],
    ['Math.random', 'export const dice = () => Math.random();\n'],
    ['document', 'export const page = () => document;\n'],
  ])('%s in core', (_, text) => {
    const planted = join(ROOT, 'packages/core/src/planted.ts');
    dir = planted;
    writeFileSync(planted, text);
    let said = '';
    try {
      execFileSync(join(ROOT, 'node_modules/.bin/biome'), ['lint', planted], {
        encoding: 'utf8',
        cwd: ROOT,
        stdio: 'pipe',
      });
    } catch (e) {
      said = String((e as { stderr: string; stdout: string }).stderr) + String((e as { stdout: string }).stdout);
    }
    expect(said).toMatch(/noRestrictedGlobals|plugin|random/i);
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
