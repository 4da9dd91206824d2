import { rmSync } from 'node:fs';
import { dirname } from 'node:path';
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { By } from 'selenium-webdriver';
import { type App, type Browser, bodyText, closeDemo, expectAccessible, jobOf, openDemo } from './app.ts';
import { writeCsvFiles } from './csvFiles.ts';

let app: App;
let browser: Browser;
const log = writeCsvFiles()[0]!.path;
beforeAll(async () => {
  ({ app, browser } = await openDemo());
}, 120_000);
afterAll(async () => {
  await closeDemo({ app, browser });
  rmSync(dirname(log), { recursive: true, force: true });
});

const bay = (n: number, command: string, more = {}) => browser.post(`/bays/${n}`, { command, ...more });
const uuid = () => browser.driver.executeScript<string>('return crypto.randomUUID()');

/** The job whose capture a test may leave running. */
let open: string | null = null;
afterEach(async () => {
  if (!open) return;
  // A test that failed leaves its bay to the next one.
  const { captureId } = (await status(open).catch(() => null)) ?? {};
  if (captureId) await browser.post(`/jobs/${open}/captures/${captureId}/command`, { command: 'stop' });
  open = null;
});

/** A job on what stands in a bay; the browser at its Readings. */
async function jobOn(n: number): Promise<string> {
  const { vehicle } = (await browser.json('/api/bays')).find((b: { bay: number }) => b.bay === n);
  const id = await uuid();
  await browser.post('/jobs', {
    id,
    vehicleId: await uuid(),
    vehicle,
    complaint: { symptoms: ['rough-idle'] },
    ambient: { baroKPa: 99.1, airC: 18 },
    adapter: `sim:${n}`,
  });
  open = id;
  await browser.go(`/jobs/${id}/readings`);
  await browser.press('Understood').catch(() => {});
  return id;
}
const job = (id: string) => jobOf(browser, id);
const status = async (id: string) => (await browser.json(`/api/jobs/${id}/captures/running`)).status;

describe('guided capture on three simulated cars', () => {
  test('a V6 with a leak at one bank: both banks side by side, the rate of each channel shown', async () => {
    await bay(1, 'vehicle', { vehicle: 'aldwin-30' });
    await bay(1, 'fault', { fault: 'vac-leak-bank1', severity: 0.3 });
    for (const c of ['idle', 'warm', 'settle']) await bay(1, c);
    const id = await jobOn(1);
    await browser.press('Start');
    await browser.text('capturing,', 40_000);
    expect(await bodyText(browser)).toMatch(/Total trim, bank 2 ◇/);
    expect(await bodyText(browser)).toMatch(/Airflow \(MAF\)\s+\d+(\.\d)?\/s/);
    await browser.text('Take hold 2,500', 60_000);
    const [r] = (await job(id)).readings;
    const total = (b: 'bank1' | 'bank2') => r.reading.trims[b].stft + r.reading.trims[b].ltft;
    expect(total('bank1') - total('bank2')).toBeGreaterThan(8);
    expect(r.reading.o2.bank1s1.crossingsPer10s).toBeGreaterThan(0);
  });

  test('one that never warms up: it waits, says that the coolant no longer rises, and keeps nothing as warm', async () => {
    await bay(2, 'vehicle', { vehicle: 'aldwin-30' });
    await bay(2, 'ambient', { airC: -12 });
    await bay(2, 'fault', { fault: 'thermostat-open', severity: 1 });
    await bay(2, 'idle');
    await bay(2, 'rate', { rate: 1 });
    // Half an hour of idling in the cold: as warm as it will get.
    await bay(2, 'step', { seconds: 1800 });
    const id = await jobOn(2);
    await browser.press('Start');
    await browser.text('Waiting for warm: ', 40_000);
    await browser.text('no longer rising', 90_000);
    expect((await job(id)).readings).toEqual([]);
    await expectAccessible(browser, 'waiting for warm');
    // Kept all the same, if a person says so: marked.
    await browser.press('Pause');
    await browser.text('paused.');
    const before = (await status(id)).keptSeconds;
    await new Promise((r) => setTimeout(r, 2500));
    expect((await status(id)).keptSeconds).toBe(before);
    await browser.press('Go on');
    await browser.text('Waiting');
    await browser.driver.wait(async () => (await status(id)).keptSeconds > before, 10_000);
    await browser.press('Stop');
    await browser.text('Take idle');
    const { captures } = await job(id);
    expect(captures).toMatchObject([{ state: 'stopped' }]);
    const r = await browser.json(`/api/jobs/${id}/captures/${captures[0].id}/recording`);
    expect(r.gapSpans.length).toBeGreaterThan(0);
    await bay(2, 'ambient', { airC: 18 });
  });

  test('an adapter that browns out when the engine cranks: lost, said so, and back by itself', async () => {
    await bay(2, 'vehicle', { vehicle: 'quillon-18' });
    await bay(2, 'repair');
    await bay(2, 'koeo');
    await bay(2, 'warm');
    await bay(2, 'degrade', { degradation: { brownOut: true } });
    const id = await jobOn(2);
    await browser.press('Start');
    await browser.text('Waiting', 40_000);
    await browser.driver.wait(async () => ((await status(id))?.keptSeconds ?? 0) >= 3, 20_000);
    await bay(2, 'idle');
    await browser.text('Adapter lost', 20_000);
    const kept = (await status(id)).keptSeconds;
    await bay(2, 'warm');
    await bay(2, 'settle');
    await browser.text('Take hold 2,500', 90_000);
    const { readings, captures } = await job(id);
    expect(readings).toMatchObject([{ source: 'capture', reading: { at: 'idle' } }]);
    const r = await browser.json(`/api/jobs/${id}/captures/${captures[0].id}/recording`);
    expect(r.seconds).toBeGreaterThan(kept);
    expect(r.gapSpans.length).toBeGreaterThan(0);
    await bay(2, 'degrade', { degradation: {} });
  });

  test('one sensor alone, as fast as the bus goes: its transitions can be timed', async () => {
    const id = await jobOn(1);
    await bay(1, 'hold', { rpm: 2500 });
    const select = await browser.find(By.css('select[aria-label="What to record freely"]'));
    await select.findElement(By.css('option[value="o2s11"]')).click();
    await browser.press('Record freely');
    await browser.text('Recording freely');
    await browser.driver.wait(async () => ((await status(id))?.keptSeconds ?? 0) >= 12, 30_000);
    await browser.press('Stop');
    await browser.press('Free recording');
    await browser.press('Oxygen sensors', '[role="tab"]');
    await browser.text('narrow-band');
    const { captures } = await job(id);
    const r = await browser.json(`/api/jobs/${id}/captures/${captures.at(-1).id}/recording`);
    const c = r.channels.find((x: { id: string }) => x.id === 'o2s11');
    expect(c.n / c.toS).toBeGreaterThan(20);
    expect(await bodyText(browser)).toMatch(/crossings in 10 s, \d+ ms|takes \d+ ms/);
    expect((await job(id)).readings).toEqual([]);
  });
});

describe('the server killed in the middle of a capture', () => {
  test('every acknowledged second is there once, the gap is marked, the page takes it up again', async () => {
    await bay(1, 'repair');
    await bay(1, 'idle');
    const id = await jobOn(1);
    await bay(1, 'cold');
    await browser.press('Start');
    await browser.text('Waiting', 40_000);
    await browser.driver.wait(async () => ((await status(id))?.keptSeconds ?? 0) >= 5, 30_000);
    const acknowledged = await status(id);
    const before = (await browser.json(`/api/jobs/${id}/export`)).seconds[acknowledged.captureId];
    expect(before.length).toBeGreaterThanOrEqual(acknowledged.keptSeconds);
    await app.stop('SIGKILL');
    await browser.text('The server does not answer', 20_000);
    await new Promise((r) => setTimeout(r, 1500));
    await app.start();
    await browser.driver.navigate().refresh();
    await browser.text('Waiting', 60_000);
    await browser.driver.wait(
      async () => ((await status(id))?.keptSeconds ?? 0) > acknowledged.keptSeconds + 3,
      60_000,
    );
    expect((await status(id)).captureId).toBe(acknowledged.captureId);
    const rows = (await browser.json(`/api/jobs/${id}/export`)).seconds[acknowledged.captureId];
    const keyOf = (r: { epoch: number; seq: number }) => `${r.epoch}.${r.seq}`;
    expect(new Set(rows.map(keyOf)).size).toBe(rows.length);
    // What was acknowledged before is there, unchanged, first.
    expect(rows.slice(0, before.length)).toEqual(before);
    await browser.press('Stop');
    await browser.text('Take idle');
    const r = await browser.json(`/api/jobs/${id}/captures/${acknowledged.captureId}/recording`);
    expect(r.seconds).toBeGreaterThanOrEqual(rows.length);
    expect(r.gapSpans).toHaveLength(1);
    const capture = await browser.json(`/api/jobs/${id}/captures/${acknowledged.captureId}/export?as=json`);
    for (const c of capture.channels)
      for (let i = 1; i < c.time.length; i++) expect(c.time[i]).toBeGreaterThanOrEqual(c.time[i - 1]);
  });
});

describe('without the server', () => {
  test('the page stays alive; a reading, a result and an import wait, stand in the job already, and go up once', async () => {
    const id = await jobOn(1);
    // The page has been seen by the service worker.
    await browser.driver.wait(
      () => browser.driver.executeScript<boolean>('return navigator.serviceWorker.controller !== null'),
      20_000,
    );
    await browser.go(`/jobs/${id}/readings`);
    await browser.text('Take idle');
    await browser.driver.wait(
      () =>
        browser.driver.executeAsyncScript<boolean>(
          "const done = arguments[0]; caches.open('jb-page').then((c) => c.keys()).then((k) => done(k.length > 8))",
        ),
      20_000,
    );
    await app.stop('SIGTERM');
    await browser.driver.navigate().refresh();
    await browser.text('The server does not answer', 20_000);
    await browser.text('Take idle');
    await browser.press('by hand');
    await browser.fill('Engine speed', '733');
    await browser.fill('Airflow', '2,6');
    await browser.fill('Short-term trim', '6,1');
    await browser.fill('Long-term trim', '9.4');
    await browser.press('Keep this reading');
    await browser.text('One entry waits on this device');
    // It stands among the points already, and is weighed.
    await browser.text('+15.5 %');
    await browser.go(`/jobs/${id}/balance`);
    await browser.text('What fits', 20_000);
    await browser.go(`/jobs/${id}/readings`);
    await browser.text('+15.5 %');
    await expectAccessible(browser, 'offline');
    // A log too: read, looked over and kept here.
    await browser.press('Import a log');
    await (await browser.find(By.css('input[type=file]'))).sendKeys(log);
    await browser.press('Read it');
    await browser.press('Keep');
    await browser.text('words.csv is kept on this device', 20_000);
    await browser.text('2 entries wait on this device');
    await app.start();
    await browser.driver.wait(async () => !/waits? on this device/.test(await bodyText(browser)), 30_000);
    const j = await job(id);
    expect(j.readings.map((r: { source: string; reading: { at: string } }) => [r.source, r.reading.at])).toEqual([
      ['hand', 'idle'],
      ['import', 'idle'],
      ['import', 'hold-2500'],
    ]);
    expect(j.readings[0].reading).toMatchObject({ rpm: 733, mafGps: 2.6 });
    expect(j.captures).toMatchObject([{ source: 'import', state: 'done', name: 'words.csv' }]);
    await browser.go(`/jobs/${id}/readings`);
    await browser.text('words.csv');
    expect((await job(id)).readings).toHaveLength(3);
  });

  test('signed out, nothing of the shop is left on the device', async () => {
    await browser.press('R. Okafor', 'summary');
    await browser.press('Sign out');
    await browser.text('Sign in');
    const kept = await browser.driver.executeAsyncScript<string[]>(
      "const done = arguments[0]; setTimeout(() => caches.open('jb-api').then((c) => c.keys()).then((k) => done(k.map((r) => new URL(r.url).pathname).filter((p) => p.startsWith('/api/jobs')))), 500)",
    );
    expect(kept).toEqual([]);
  });
});
