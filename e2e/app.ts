import { type ChildProcess, spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { connect, createServer } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { expect, jest } from '@jest/globals';
import type { WebDriver } from 'selenium-webdriver';

const ROOT = join(__dirname, '..');
jest.setTimeout(180_000);

/** What scripts/lib/browser.mjs offers. */
export interface Browser {
  driver: WebDriver;
  base: string;
  go(path: string): Promise<void>;
  // biome-ignore lint/suspicious/noExplicitAny: selenium's own element type
  find(by: unknown, ms?: number): Promise<any>;
  text(s: string, ms?: number): Promise<void>;
  /** Of several names: whichever is there. */
  press(name: string | readonly string[], css?: string): Promise<void>;
  fill(label: string, value: string): Promise<void>;
  size(width: number, height: number): Promise<void>;
  settle(): Promise<void>;
  // biome-ignore lint/suspicious/noExplicitAny: whatever the API answers
  json(path: string): Promise<any>;
  // biome-ignore lint/suspicious/noExplicitAny: whatever the API answers
  post(path: string, body: unknown): Promise<any>;
  dark(): Promise<void>;
  close(): Promise<void>;
}

export interface App {
  base: string;
  /** Write into the database past the server, as a hand or an older version might have. */
  sql(text: string, values?: unknown[]): Promise<void>;
  output(): string;
  /** Kill the server process at once, as a crash would; npm start then ends the rest. */
  stop(signal?: NodeJS.Signals): Promise<number | null>;
  start(): Promise<void>;
  remove(): Promise<void>;
}

export function freePort(): Promise<number> {
  return new Promise((resolve, reject) => {
    const s = createServer();
    s.once('error', reject);
    s.listen(0, '127.0.0.1', () => {
      const { port } = s.address() as { port: number };
      s.close(() => resolve(port));
    });
  });
}

/** Whether anybody listens there. */
function answers(port: number): Promise<boolean> {
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
export async function startApp(env: Record<string, string> = {}): Promise<App> {
  const dataDir = mkdtempSync(join(tmpdir(), 'jb-e2e-'));
  const [web, sim, db, control] = [await freePort(), await freePort(), await freePort(), await freePort()];
  let child: ChildProcess | null = null;
  let output = '';
  const app: App = {
    base: `http://127.0.0.1:${web}`,
    output: () => output,
    async sql(text, values = []) {
      const { createConnection } = await import('mariadb');
      const { password } = JSON.parse(readFileSync(join(dataDir, 'secret.json'), 'utf8'));
      const c = await createConnection({ host: '127.0.0.1', port: db, user: 'jb', password, database: 'just_balance' });
      await c.query(text, values);
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
          ...env,
        },
        stdio: ['ignore', 'pipe', 'pipe'],
      });
      child = started;
      started.stdout!.on('data', (d) => {
        output += d;
      });
      started.stderr!.on('data', (d) => {
        output += d;
      });
      await new Promise<void>((resolve, reject) => {
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
    async stop(signal = 'SIGTERM') {
      const running = child;
      if (!running || running.exitCode !== null) return running?.exitCode ?? null;
      const exited = new Promise<number | null>((r) => running.once('exit', (code) => r(code)));
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

export async function openBrowser(base: string): Promise<Browser> {
  const { openBrowser: open } = await import('../scripts/lib/browser.mjs' as string);
  return open(base);
}

/** The demo running and a browser on it, signed in as its lead; both gone after the file's tests. */
export async function openDemo(signedIn = true): Promise<{ app: App; browser: Browser }> {
  const app = await startApp();
  const browser = await openBrowser(app.base);
  await browser.size(1280, 800);
  if (signedIn) {
    await browser.go('/');
    await browser.press('R. Okafor');
    await browser.text('Everyone');
  }
  return { app, browser };
}

export async function closeDemo(demo: { app?: App; browser?: Browser }): Promise<void> {
  await demo.browser?.close();
  await demo.app?.remove();
}

/** A job with all its nouns, as its page has it. */
// biome-ignore lint/suspicious/noExplicitAny: whatever the API answers
export async function jobOf(browser: Browser, id: string): Promise<any> {
  const nouns = [
    'records',
    'readings',
    'tests',
    'repairs',
    'captures',
    'known',
    'cautions',
    'diagnosis',
    'runs',
    'entries',
    'photos',
  ];
  const [head, ...rows] = await browser.driver.executeAsyncScript<Record<string, unknown>[]>(
    `const [paths, done] = arguments;
     Promise.all(paths.map((p) => fetch(p).then((r) => r.json()))).then(done, (e) => done([{ error: String(e) }]))`,
    [`/api/jobs/${id}`, ...nouns.map((n) => `/api/jobs/${id}/${n}`)],
  );
  const of = Object.fromEntries(nouns.map((n, i) => [n, rows[i]]));
  return { ...head, ...of, diagnoses: of.diagnosis };
}

/** A job put in through the API; returns its id. */
export async function newJob(browser: Browser, body: Record<string, unknown>): Promise<string> {
  const id = randomUUID();
  const made = await browser.post('/jobs', { id, vehicleId: randomUUID(), ...body });
  expect(made.id).toBe(id);
  return id;
}

/** Rows put into a job through the API, in this order: what a test stands on and is not about. */
export async function put(browser: Browser, id: string, rows: readonly (readonly [noun: string, body: object])[]) {
  for (const [noun, body] of rows) {
    const made = await browser.post(`/jobs/${id}/${noun}`, { id: randomUUID(), ...body });
    if (made.statusCode) throw new Error(`${noun}: ${JSON.stringify(made)}`);
  }
}

/** All the page says. */
export async function bodyText(browser: Browser): Promise<string> {
  const { By } = await import('selenium-webdriver');
  return (await browser.find(By.css('body'))).getText();
}

/** What changes with the theme and the width; the rest of a screen is the same and looked at once. */
export const AGAIN = ['color-contrast', 'target-size', 'scrollable-region-focusable'];

/** No violation, of WCAG or of good practice, on the screen as it stands; `rules`: of these alone. */
export async function expectAccessible(browser: Browser, screen: string, rules?: string[]): Promise<void> {
  const { AxeBuilder } = await import('@axe-core/webdriverjs');
  // There are no frames here; the other mode opens a window, and what was open on the page closes.
  const axe = new AxeBuilder(browser.driver).setLegacyMode();
  const { violations } = await (rules ? axe.withRules(rules) : axe).analyze();
  const found = violations.map((v) => `${screen}: ${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(' | ')}`);
  expect(found).toEqual([]);
}
