/** npm run screenshots: the pictures in docs/screenshots, from the demo data, at 1280×800 and phone width. */
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuilt, ensureModules, ROOT } from './lib/build.mjs';
import { BROWSER, DATABASE, ensurePrograms } from './lib/packages.mjs';
import { freePorts } from './lib/ports.mjs';
import { say } from './lib/say.mjs';
import { startStack } from './lib/stack.mjs';

const only = process.argv[2];
const stops = [];
const dataDir = mkdtempSync(join(tmpdir(), 'jb-shots-'));
const out = process.env.JB_SHOTS ?? join(ROOT, 'docs/screenshots');
mkdirSync(out, { recursive: true });

try {
  await ensurePrograms([...DATABASE, ...BROWSER]);
  await ensureModules();
  await ensureBuilt();
  const [web, sim, db, control] = await freePorts(4);
  await startStack({
    dataDir,
    ports: { web, sim, db, control },
    demo: true,
    host: '127.0.0.1',
    fast: true,
    year: true,
    stops,
  });
  const { openBrowser } = await import('./lib/browser.mjs');
  const browser = await openBrowser(`http://127.0.0.1:${web}`);
  stops.push(() => browser.close());
  const shot = async (name) => {
    if (only && !name.startsWith(only)) return;
    await browser.settle();
    writeFileSync(join(out, `${name}.png`), Buffer.from(await browser.driver.takeScreenshot(), 'base64'));
    say(name);
  };
  const { By } = await import('selenium-webdriver');
  const wait = (ms) => new Promise((r) => setTimeout(r, ms));
  await browser.size(1280, 800);
  await browser.go('/');
  await browser.find(By.css('h1'));
  await browser.press('R. Okafor');
  await browser.text('Everyone');
  await browser.text('jobs open ·').catch(() => {});
  await wait(1500);
  await shot('board');
  const jobs = await browser.json('/api/jobs');
  const job = (label) => jobs.find((j) => j.label === label).id;
  await browser.go(`/jobs/${job('Quillon 1.8')}/complaint`);
  await browser.press('Read from the vehicle');
  await browser.text('Kept: ');
  await shot('complaint');
  await browser.go(`/jobs/${job('Quillon 1.8')}/readings`);
  await browser.press('Understood').catch(() => {});
  await browser.press('Start');
  await browser.text('capturing,');
  await wait(6000);
  await shot('readings');
  await browser.text('Take hold 2,500', 30_000);
  await browser.press('Hold 2,500', 'section[aria-label^="Bay"] button');
  await wait(3000);
  await browser.press('Start');
  await browser.text('Both points are kept', 60_000);
  await browser.go(`/jobs/${job('Quillon 1.8')}/balance`);
  await browser.text('What fits');
  await wait(900);
  await browser.go(`/jobs/${job('Pelora 2.4')}/balance`);
  await browser.text('What fits');
  await wait(900);
  await shot('balance');
  await browser.go(`/jobs/${job('Pelora 2.4')}/service`);
  await browser.press('Understood');
  await browser.text('What it needs');
  await wait(500);
  await shot('service');
  const begun = await browser.find(By.css('input[placeholder="part of its name"]'));
  await begun.sendKeys('Clean the throttle body', '\uE007');
  await browser.press('Begin it');
  await browser.press('More: skip');
  await browser.press('Skip', 'details button');
  await browser.fill('Why this step', 'on record from the first visit');
  await browser.press('Skip it');
  await browser.press('Understood', 'main button');
  await browser.press('warm', 'fieldset button');
  await browser.press('Start 60 min');
  await wait(1500);
  await shot('service-step');
  await browser.go(`/jobs/${job('Pelora 1.6')}/prove`);
  await browser.text('Before and after');
  await wait(500);
  await shot('prove');
  await browser.go(`/jobs/${job('Pelora 1.6')}/readiness`);
  await browser.text('Would a rule take it');
  await shot('readiness');
  await browser.go(`/jobs/${job('Pelora 1.6')}/hand-over`);
  await browser.text('What was wrong');
  await shot('hand-over');
  await browser.go('/practice');
  await browser.text('Find what is wrong');
  await shot('practice');
  await browser.go('/logbook');
  await browser.text('in the logbook');
  await browser.text('handed over');
  await wait(800);
  await shot('logbook');
  await browser.go('/learned');
  await browser.text('jobs count');
  await wait(800);
  await shot('learned');
  await browser.go('/new');
  await browser.text('Complaint and surroundings');
  await shot('new-job');
  await browser.go('/calculators');
  for (const [label, value] of [
    ['Pressure across it, as it should be', '350'],
    ['Pressure across it, as it is', '291'],
    ['Elevation, m', '640'],
    ['Vacuum on the gauge', '58'],
    ['Total trim at idle', '14.2'],
    ['Airflow, g/s', '2.6'],
    ['Manifold pressure, absolute', '34'],
    ['Station pressure, kPa', '97.4'],
    ['Airflow at the raised speed', '9.2'],
    ['Manifold pressure there', '31'],
  ])
    await browser.fill(label, value);
  await shot('calculators');
  await browser.go('/shop');
  await browser.text('Tools here');
  await shot('shop');
  await browser.go('/people');
  await browser.text('Who may do what');
  await shot('people');
  await browser.size(390, 844);
  await browser.go(`/jobs/${job('Pelora 2.4')}/balance`);
  await browser.text('What fits');
  await wait(900);
  await shot('phone-balance');
  await browser.size(1280, 800);
  await browser.go(`/jobs/${job('Quillon 1.8')}/readings?import=1`);
  await browser.text('Drag a log here');
  const file = await browser.find(By.css('input[type=file]'));
  await file.sendKeys(join(ROOT, 'examples/idle-and-hold-air-leak.candump'));
  await browser.press('Read it');
  await browser.text('Operating points found', 30_000);
  await browser.press('Keep');
  await browser.press('Look at it');
  await browser.find(By.css('[role="tabpanel"][aria-busy="false"]'));
  await browser.press('Coolant', 'button[aria-pressed]').catch(() => {});
  await browser.driver.executeScript('window.scrollTo(0, 0)');
  await shot('recording');
  await browser.dark();
  await browser.go(`/jobs/${job('Quillon 1.8')}/readiness?coach`);
  await browser.text('Coach the drive');
  // Its link may still stand from the reading.
  await wait(1500);
  await browser.driver.executeScript(
    "[...document.querySelectorAll('button')].find((b) => b.textContent.startsWith('Connect the shop'))?.click()",
  );
  const drives = async (command) => {
    const { error } = await browser.post('/bays/1', command);
    if (error) throw new Error(error);
  };
  // It was held at 2,500 for its reading.
  await drives({ command: 'idle' });
  await browser.press('Start', 'button.btn-lg:enabled');
  await browser.text('1 of 3 steps done', 60_000);
  await drives({ command: 'rate', rate: 8 });
  await drives({ command: 'script', script: 'cruise' });
  await browser.text('Hold it', 60_000);
  await drives({ command: 'rate', rate: 1 });
  await wait(2500);
  await shot('coach');
} catch (e) {
  process.exitCode = 1;
  process.stderr.write(`${e.stack ?? e}\n`);
} finally {
  for (const stop of stops.reverse()) await stop().catch(() => {});
  rmSync(dataDir, { recursive: true, force: true });
}
