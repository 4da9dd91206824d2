import { type ChildProcess, spawn } from 'node:child_process';
import { existsSync, mkdtempSync, readdirSync, readFileSync, rmSync, statSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, describe, expect, test } from '@jest/globals';
import { freePort } from './support/app.ts';

const ROOT = join(__dirname, '..');
const started: ChildProcess[] = [];
const dirs: string[] = [];
afterEach(async () => {
  for (const c of started.splice(0)) {
    if (c.exitCode !== null || c.signalCode !== null) continue;
    const gone = new Promise((r) => c.once('exit', r));
    c.kill('SIGTERM');
    await gone;
  }
  for (const d of dirs.splice(0)) rmSync(d, { recursive: true, force: true });
});

const newDir = () => {
  const d = mkdtempSync(join(tmpdir(), 'jb-start-'));
  dirs.push(d);
  return d;
};

/** The few fixed jobs; one test below starts with the whole year, as a plain npm start does. */
const FEW = { JB_DEMO_YEAR: '0' };

async function start(env: Record<string, string>, { program = [join(ROOT, 'scripts/start.mjs')], cwd = ROOT } = {}) {
  const [web, sim, db, control] = [await freePort(), await freePort(), await freePort(), await freePort()];
  const child = spawn(process.execPath, program, {
    cwd,
    // A process group of its own, as a shell gives it.
    detached: true,
    env: {
      ...process.env,
      JB_PORT: String(web),
      JB_SIM_PORT: String(sim),
      JB_DB_PORT: String(db),
      JB_SIM_CONTROL_PORT: String(control),
      ...env,
    },
    stdio: ['ignore', 'pipe', 'pipe'],
  });
  started.push(child);
  let out = '';
  for (const s of [child.stdout!, child.stderr!])
    s.on('data', (d) => {
      out += d;
    });
  const exited = new Promise<number | null>((r) => child.once('exit', (code) => r(code)));
  const said = async (what: string | RegExp) => {
    for (let i = 0; i < 600 && !(typeof what === 'string' ? out.includes(what) : what.test(out)); i++)
      await new Promise((r) => setTimeout(r, 100));
    expect(out).toMatch(what);
  };
  const health = () =>
    fetch(`http://127.0.0.1:${web}/api/health`).then(
      (r) => r.status,
      () => 0,
    );
  /** How many jobs the demo's lead finds. */
  const logbook = async () => {
    const at = `http://127.0.0.1:${web}/api`;
    const body = JSON.stringify({ email: 'okafor@linden.example', password: 'bench-demo-1' });
    const headers = { 'content-type': 'application/json' };
    const session = await fetch(`${at}/session`, { method: 'POST', headers, body });
    const cookie = session.headers.getSetCookie().map((c) => c.split(';')[0]);
    return (await fetch(`${at}/logbook/counts`, { headers: { cookie: cookie.join('; ') } })).json();
  };
  return { child, exited, said, health, logbook, out: () => out };
}

/** Processes that name a directory in their words. */
const naming = (dir: string) =>
  readdirSync('/proc').filter((p) => {
    try {
      return /^\d+$/.test(p) && readFileSync(`/proc/${p}/cmdline`, 'utf8').includes(dir);
    } catch {
      return false;
    }
  });

describe('npm start', () => {
  test('a second one on the same data is told in one sentence; the first goes on', async () => {
    const dir = newDir();
    const first = await start({ JB_DATA_DIR: dir });
    await first.said('Stop           Ctrl-C');
    const second = await start({ JB_DATA_DIR: dir });
    expect(await second.exited).toBe(1);
    expect(second.out().trim()).toMatch(
      new RegExp(
        `^Just Balance already runs on ${dir} \\(process ${first.child.pid}, http://127\\.0\\.0\\.1:\\d+\\): stop it first`,
      ),
    );
    expect(await first.health()).toBe(200);
    // A shop that looks lived in: the year's jobs stand in the logbook, and days of it can be read.
    expect((await first.logbook()).total).toBeGreaterThan(200);
    // The password stands in one file, for its owner only; the statement that set it is gone.
    expect(existsSync(join(dir, 'init.sql'))).toBe(false);
    expect(statSync(join(dir, 'secret.json')).mode & 0o777).toBe(0o600);
    const { password } = JSON.parse(readFileSync(join(dir, 'secret.json'), 'utf8'));
    for (const f of readdirSync(tmpdir()).filter((n) => n.startsWith('jb-')))
      if (existsSync(join(tmpdir(), f, 'init.sql')))
        expect(readFileSync(join(tmpdir(), f, 'init.sql'), 'utf8')).not.toContain(password);
  });

  test('what ended npm without a word ends the stack too', async () => {
    const dir = newDir();
    // As npm does: a parent that starts the script and is then killed.
    const parent = `const { spawn } = require('node:child_process');
      spawn(process.execPath, ['${join(ROOT, 'scripts/start.mjs')}'], { stdio: 'inherit' });
      setInterval(() => {}, 1000);`;
    const npm = await start({ JB_DATA_DIR: dir, npm_lifecycle_event: 'start', ...FEW }, { program: ['-e', parent] });
    await npm.said('Stop           Ctrl-C');
    npm.child.kill('SIGKILL');
    for (let i = 0; i < 200 && ((await npm.health()) !== 0 || naming(dir).length > 0); i++)
      await new Promise((r) => setTimeout(r, 100));
    expect([await npm.health(), naming(dir)]).toEqual([0, []]);
  });

  test('a relative directory is meant from here; a lost password file is one sentence', async () => {
    const cwd = newDir();
    const first = await start({ JB_DATA_DIR: 'data/here', ...FEW }, { cwd });
    await first.said('Stop           Ctrl-C');
    // As Ctrl-C in a terminal: every process of the group hears it, and none is started again.
    process.kill(-first.child.pid!, 'SIGINT');
    expect(await first.exited).toBe(0);
    expect(first.out()).not.toContain('starting it again');
    expect(existsSync(join(cwd, 'data/here/mariadb'))).toBe(true);
    rmSync(join(cwd, 'data/here/secret.json'));
    const second = await start({ JB_DATA_DIR: 'data/here', ...FEW }, { cwd });
    expect(await second.exited).toBe(1);
    expect(second.out()).toMatch(/secret\.json: the database's password cannot be read from it\. Put the file back/);
  });
});
