import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { expect } from '@jest/globals';
import type { WebDriver } from 'selenium-webdriver';
import { patient } from '../../scripts/lib/patience.cjs';

/** What comes at all comes within this, in milliseconds. */
export const LONG = patient(90_000);

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
  /** One command of the browser's own protocol, and what it answers. */
  // biome-ignore lint/suspicious/noExplicitAny: answers of many shapes
  devTools(command: string, params: object): Promise<any>;
  dark(): Promise<void>;
  /** Notifications allowed to this origin, as a person would have allowed them. */
  allowNotifications(origin: string): Promise<void>;
  /** Nothing of a person is left in the browser: cookies and stores. The app's own files stay, as they do in life. */
  forget(origin: string): Promise<void>;
  close(): Promise<void>;
}

export interface App {
  base: string;
  running(): boolean;
  /** Write into the database past the server, as a hand or an older version might have. */
  sql(text: string, values?: unknown[]): Promise<void>;
  manyJobs(count: number): Promise<void>;
  output(): string;
  /** Kill the server process at once, as a crash would; npm start then ends the rest. */
  stop(signal?: NodeJS.Signals): Promise<number | null>;
  start(): Promise<void>;
  remove(): Promise<void>;
}

/** What support/stack.mjs offers; it lives as long as the worker does. */
interface Stack {
  freePort(): Promise<number>;
  startApp(env?: Record<string, string>): Promise<App>;
  openBrowser(base: string): Promise<Browser>;
  sharedDemo(): Promise<{ app: App; browser: Browser; fresh: boolean }>;
}
export const { freePort, startApp, openBrowser, sharedDemo } = (globalThis as unknown as { jb: Stack }).jb;

/** The bays as the demo has them at its first start. */
async function baysAsAtFirst(browser: Browser): Promise<void> {
  const cars = ['quillon-18', 'aldwin-30', 'dunmore-16'];
  for (const [i, vehicle] of cars.entries())
    for (const c of [
      { command: 'degrade', degradation: {} },
      { command: 'vehicle', vehicle },
      { command: 'ambient', airC: 18, baroKPa: 99.1 },
      { command: 'rate', rate: 1 },
    ])
      await browser.post(`/bays/${i + 1}`, c);
  await browser.post('/bays/1', { command: 'fault', fault: 'vac-leak', severity: 0.34 });
  for (const command of ['idle', 'warm', 'settle']) await browser.post('/bays/1', { command });
}

/**
 * The demo running and a browser on it, signed in as its lead or not at all. Files that a worker runs one after the
 * other share both: the bays and the browser's store are as at first, the jobs of earlier files are still there.
 */
export async function openDemo(signedIn = true): Promise<{ app: App; browser: Browser }> {
  const { app, browser, fresh } = await sharedDemo();
  await browser.size(1280, 800);
  if (!fresh) {
    await browser.driver.get('about:blank');
    await browser.forget(app.base);
  }
  const enter = async () => {
    await browser.go('/');
    await browser.press('R. Okafor');
    await browser.text('Everyone');
  };
  if (!fresh) {
    await enter();
    await baysAsAtFirst(browser);
    if (!signedIn) await browser.forget(app.base);
  } else if (signedIn) await enter();
  return { app, browser };
}

const RESOURCES = [
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
] as const;

/** A job with its resources, as its page has it; a poll names those it looks at. */
// biome-ignore lint/suspicious/noExplicitAny: whatever the API answers
export async function jobOf(browser: Browser, id: string, ...resources: (typeof RESOURCES)[number][]): Promise<any> {
  const asked = resources.length > 0 ? resources : RESOURCES;
  const [head, ...rows] = await Promise.all(
    ['', ...asked.map((n) => `/${n}`)].map((n) => browser.json(`/api/jobs/${id}${n}`)),
  );
  const of = Object.fromEntries(asked.map((n, i) => [n, rows[i]]));
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
export async function put(browser: Browser, id: string, rows: readonly (readonly [resource: string, body: object])[]) {
  for (const [resource, body] of rows) {
    const made = await browser.post(`/jobs/${id}/${resource}`, { id: randomUUID(), ...body });
    if (made.statusCode) throw new Error(`${resource}: ${JSON.stringify(made)}`);
  }
}

/** All the page says. */
export async function bodyText(browser: Browser): Promise<string> {
  const { By } = await import('selenium-webdriver');
  return (await browser.find(By.css('body'))).getText();
}

/** What changes with the theme and the width; the rest of a screen is the same and looked at once. */
export const AGAIN = ['color-contrast', 'target-size', 'scrollable-region-focusable'];

const AXE = readFileSync(require.resolve('axe-core/axe.min.js'), 'utf8');

/** What stands out of a page that is wider than the screen: then nothing is where it is seen. */
const WIDER = `
  const { scrollWidth, clientWidth } = document.documentElement;
  if (scrollWidth <= clientWidth + 1) return [];
  const scrolls = (el) => {
    for (let p = el.parentElement; p && p !== document.body; p = p.parentElement)
      if (getComputedStyle(p).overflowX !== 'visible') return true;
    return false;
  };
  return [...document.querySelectorAll('body *')]
    .filter((el) => el.getBoundingClientRect().right > clientWidth + 1 && !scrolls(el))
    .slice(0, 5)
    .map((el) => el.outerHTML.slice(0, 120));`;

/** No violation, of WCAG or of good practice, on the screen as it stands; `rules`: of these alone. */
export async function expectAccessible(browser: Browser, screen: string, rules?: string[]): Promise<void> {
  if (!(await browser.driver.executeScript('return "axe" in window'))) await browser.driver.executeScript(AXE);
  const found = await browser.driver.executeAsyncScript<{ id: string; nodes: { html: string }[] }[] | string>(
    `const [rules, done] = arguments;
     axe.run(document, { resultTypes: ['violations'], ...(rules ? { runOnly: rules } : {}) })
       .then((r) => done(r.violations.map(({ id, nodes }) => ({ id, nodes: nodes.map(({ html }) => ({ html })) }))), (e) => done(String(e)))`,
    rules ?? null,
  );
  if (typeof found === 'string') throw new Error(`${screen}: ${found}`);
  const wider = await browser.driver.executeScript<string[]>(WIDER);
  expect({ screen, wider }).toEqual({ screen, wider: [] });
  expect(found.map((v) => `${screen}: ${v.id}: ${v.nodes.map((n) => n.html.slice(0, 160)).join(' | ')}`)).toEqual([]);
}
