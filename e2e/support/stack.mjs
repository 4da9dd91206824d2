/**
 * What the browser tests stand on, outside of Jest's sandbox: npm start on free ports, and one shared demo with a
 * browser for the files that a worker runs one after the other. What is left at the end goes by `endShared`.
 */
import { spawn } from 'node:child_process';
import { mkdtempSync, readdirSync, readFileSync, rmSync } from 'node:fs';
import { connect } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createConnection } from 'mariadb';
import { openBrowser } from '../../scripts/lib/browser.mjs';
import { fillLogbook } from '../../scripts/lib/manyJobs.mjs';
import { pagePort } from '../../scripts/lib/pagePort.mjs';
import { freePorts } from '../../scripts/lib/ports.mjs';

export { pagePort };

const ROOT = join(import.meta.dirname, '../..');
/** Everything of one run lies in here; told to the workers by their environment. */
export const RUN_DIR = 'JB_E2E_DIR';

export const freePort = async () => (await freePorts(1))[0];

/** Whether anybody listens there. */
function answers(port) {
  return new Promise((resolve) => {
    const s = connect(port, '127.0.0.1');
    s.once('connect', () => {
      s.destroy();
      resolve(true);
    });
    s.once('error', () => resolve(false));
  });
}

/** The real thing: what npm start runs, on free ports, with a data directory of its own. */
export async function startApp(env = {}) {
  const dataDir = mkdtempSync(join(process.env[RUN_DIR] ?? tmpdir(), 'app-'));
  const [web, sim, db, control] = [await freePort(), await freePort(), await freePort(), await freePort()];
  let child = null;
  let output = '';
  const app = {
    base: `http://127.0.0.1:${web}`,
    output: () => output,
    running: () => child !== null && child.exitCode === null && child.signalCode === null,
    async sql(text, values = []) {
      const { password } = JSON.parse(readFileSync(join(dataDir, 'secret.json'), 'utf8'));
      const c = await createConnection({ host: '127.0.0.1', port: db, user: 'jb', password, database: 'just_balance' });
      await c.query(text, values);
      await c.end();
    },
    /** A logbook of many jobs, put into the demo's shop by the database itself. */
    async manyJobs(count) {
      const { password } = JSON.parse(readFileSync(join(dataDir, 'secret.json'), 'utf8'));
      const c = await createConnection({ host: '127.0.0.1', port: db, user: 'jb', password, database: 'just_balance' });
      const [{ shopId }] = await c.query("SELECT shopId FROM account WHERE email = 'okafor@linden.example'");
      // Older than every job of the demo: its board and its first pages stay as they are.
      await fillLogbook(c, { shopId, count, until: new Date(Date.now() - 30 * 86_400_000) });
      await c.end();
    },
    async start() {
      output = '';
      const started = spawn(process.execPath, [join(ROOT, 'scripts/start.mjs')], {
        cwd: ROOT,
        env: {
          ...process.env,
          JB_PORT: String(web),
          JB_SIM_PORT: String(sim),
          JB_DB_PORT: String(db),
          JB_SIM_CONTROL_PORT: String(control),
          JB_DATA_DIR: dataDir,
          JB_DEMO: '1',
          // The few fixed jobs: the year has a test of its own.
          JB_DEMO_YEAR: '0',
          // As under npm: it ends with whoever started it, a worker of the tests too.
          npm_lifecycle_event: 'start',
          ...env,
        },
        stdio: ['ignore', 'pipe', 'pipe'],
      });
      child = started;
      for (const stream of [started.stdout, started.stderr])
        stream.on('data', (d) => {
          output += d;
        });
      await new Promise((resolve, reject) => {
        const look = setInterval(() => {
          if (!output.includes('Stop           Ctrl-C')) return;
          clearInterval(look);
          resolve();
        }, 50);
        started.once('exit', (code) => {
          clearInterval(look);
          reject(new Error(`npm start ended with ${code}:\n${output}`));
        });
      });
    },
    /** Kill the process with a signal; npm start then ends the rest. */
    async stop(signal = 'SIGTERM') {
      const running = child;
      if (!running || running.exitCode !== null) return running?.exitCode ?? null;
      const exited = new Promise((r) => running.once('exit', (code) => r(code)));
      running.kill(signal);
      const code = await exited;
      // Killed without a word, npm start cannot end the rest itself: it ends on its own, and then a start is possible.
      for (const port of [web, sim, db]) while (await answers(port)) await new Promise((r) => setTimeout(r, 50));
      return code;
    },
    async remove() {
      await app.stop();
      rmSync(dataDir, { recursive: true, force: true });
    },
  };
  await app.start();
  return app;
}

export { openBrowser };

let shared = null;
/** The demo and the browser of this worker: made at the first call, the same at every later one. */
export async function sharedDemo() {
  if (shared && !shared.app.running()) await shared.app.start();
  if (!shared) {
    const app = await startApp();
    shared = { app, browser: await openBrowser(app.base, process.env[RUN_DIR]) };
    return { ...shared, fresh: true };
  }
  return { ...shared, fresh: false };
}

/** What runs with the run's directory in its command line. */
function left(dir) {
  return readdirSync('/proc').flatMap((pid) => {
    try {
      const line = /^\d+$/.test(pid) ? readFileSync(`/proc/${pid}/cmdline`, 'utf8') : '';
      return line.includes(dir) ? [{ pid: Number(pid), line }] : [];
    } catch {
      // It went while we looked.
      return [];
    }
  });
}

/** End what the workers left: npm start sees that its parent is gone and ends the rest itself, a browser does not. */
export async function endShared(dir) {
  if (shared) {
    await shared.browser.close();
    await shared.app.remove();
    shared = null;
  }
  for (const { pid, line } of left(dir)) {
    if (!/chrom/.test(line)) continue;
    try {
      process.kill(pid, 'SIGTERM');
    } catch {
      // It has gone by itself.
    }
  }
  for (let i = 0; i < 300 && left(dir).length > 0; i++) await new Promise((r) => setTimeout(r, 100));
  rmSync(dir, { recursive: true, force: true });
}
