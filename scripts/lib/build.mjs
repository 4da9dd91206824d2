import { createHash } from 'node:crypto';
import { existsSync, mkdirSync, readdirSync, readFileSync, rmSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { run } from './run.mjs';
import { say } from './say.mjs';

export const ROOT = new URL('../..', import.meta.url).pathname.replace(/\/$/, '');
const STAMPS = join(ROOT, 'node_modules', '.just-balance');

function stamp(name) {
  const file = join(STAMPS, name);
  return {
    matches: (value) => existsSync(file) && readFileSync(file, 'utf8') === value,
    set(value) {
      mkdirSync(STAMPS, { recursive: true });
      writeFileSync(file, value);
    },
  };
}

/**
 * npm ci when node_modules is missing or belongs to another lock file. `run`: what building and running need, about half
 * of it; a whole installation serves for that too.
 */
export async function ensureModules({ run: onlyRun = false } = {}) {
  const lock = createHash('sha256')
    .update(readFileSync(join(ROOT, 'package-lock.json')))
    .digest('hex');
  const [all, some] = [stamp('lock'), stamp('lock-run')];
  const there = existsSync(join(ROOT, 'node_modules', '.package-lock.json'));
  if (there && (all.matches(lock) || (onlyRun && some.matches(lock)))) return;
  if (there && !some.matches(lock) && lockIsInstalled()) {
    all.set(lock);
    return;
  }
  say('installing npm packages (once, about a minute)');
  await run('npm', ['ci', '--no-audit', '--no-fund', ...(onlyRun ? ['--omit=dev'] : [])], {
    cwd: ROOT,
    label: 'npm ci',
  });
  (onlyRun ? some : all).set(lock);
}

/** An install made by hand counts when it is not older than the lock file. */
function lockIsInstalled() {
  return (
    statSync(join(ROOT, 'node_modules', '.package-lock.json')).mtimeMs >=
    statSync(join(ROOT, 'package-lock.json')).mtimeMs
  );
}

function fingerprint() {
  const hash = createHash('sha256');
  const walk = (dir) => {
    for (const e of readdirSync(dir, { withFileTypes: true }).sort((a, b) => (a.name < b.name ? -1 : 1))) {
      const path = join(dir, e.name);
      if (e.isDirectory()) {
        if (!['node_modules', 'dist', 'test', '.data'].includes(e.name)) walk(path);
      } else hash.update(path.slice(ROOT.length)).update(readFileSync(path));
    }
  };
  walk(join(ROOT, 'packages'));
  walk(join(ROOT, 'apps'));
  for (const f of ['tsconfig.base.json', 'tsconfig.json', 'package-lock.json'])
    hash.update(readFileSync(join(ROOT, f)));
  return hash.digest('hex');
}

/** Build when a source changed since the last build. */
export async function ensureBuilt() {
  const now = fingerprint();
  const done = stamp('build');
  if (
    done.matches(now) &&
    existsSync(join(ROOT, 'apps/web/dist/index.html')) &&
    existsSync(join(ROOT, 'apps/server/dist/main.js'))
  )
    return;
  say('building');
  rmSync(join(STAMPS, 'build'), { force: true });
  // Hashed files of earlier builds would stay for ever.
  rmSync(join(ROOT, 'apps/web/dist/assets'), { recursive: true, force: true });
  // A test runner says NODE_ENV=test; what is built is the page that people get.
  const env = { ...process.env, NODE_ENV: 'production' };
  await run('npm', ['run', 'build'], { cwd: ROOT, env, label: 'npm run build' });
  done.set(now);
}
