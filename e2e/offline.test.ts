import { rmSync } from 'node:fs';
import { dirname } from 'node:path';
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { By } from 'selenium-webdriver';
import { type App, type Browser, bodyText, expectAccessible, LONG, openDemo } from './support/app.ts';
import { bays } from './support/bays.ts';
import { writeCsvFiles } from './support/csvFiles.ts';

let app: App;
let browser: Browser;
const log = writeCsvFiles('words.csv')[0]!.path;
beforeAll(async () => {
  ({ app, browser } = await openDemo());
});
afterAll(async () => {
  rmSync(dirname(log), { recursive: true, force: true });
});

const { bay, jobOn, job, status, release } = bays(() => browser);
afterEach(release);

describe('the server killed in the middle of a capture', () => {
  test('every acknowledged second is there once, the gap is marked, the page takes it up again', async () => {
    await bay(1, 'repair');
    await bay(1, 'idle');
    const id = await jobOn(1);
    await bay(1, 'cold');
    await browser.press('Start');
    await browser.text('Waiting');
    await browser.driver.wait(async () => ((await status(id))?.keptSeconds ?? 0) >= 5, LONG);
    const acknowledged = await status(id);
    const before = (await browser.json(`/api/jobs/${id}/export`)).seconds[acknowledged.captureId];
    expect(before.length).toBeGreaterThanOrEqual(acknowledged.keptSeconds);
    const jobs = (await browser.json('/api/jobs')).length;
    await app.stop('SIGKILL');
    await browser.text('The server does not answer');
    await app.start();
    // The car was started again too, and stands warm: the capture goes on, and would be through before this page looks.
    await bay(1, 'cold');
    expect((await browser.json('/api/jobs')).length).toBe(jobs);
    await browser.driver.navigate().refresh();
    await browser.text('Waiting');
    await browser.driver.wait(async () => ((await status(id))?.keptSeconds ?? 0) > acknowledged.keptSeconds + 3, LONG);
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
      LONG,
    );
    await browser.go(`/jobs/${id}/readings`);
    await browser.text('Take idle');
    await browser.driver.wait(
      () =>
        browser.driver.executeAsyncScript<boolean>(
          "const done = arguments[0]; caches.open('jb-page').then((c) => c.keys()).then((k) => done(k.length > 8))",
        ),
      LONG,
    );
    await app.stop('SIGTERM');
    await browser.driver.navigate().refresh();
    await browser.text('The server does not answer');
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
    await browser.text('What fits');
    await browser.go(`/jobs/${id}/readings`);
    await browser.text('+15.5 %');
    await expectAccessible(browser, 'offline');
    // A log too: read, looked over and kept here.
    await browser.press('Import a log');
    await (await browser.find(By.css('input[type=file]'))).sendKeys(log);
    await browser.press('Read it');
    await browser.press('Keep');
    await browser.text('words.csv is kept on this device');
    await browser.text('2 entries wait on this device');
    await app.start();
    await browser.driver.wait(async () => !/waits? on this device/.test(await bodyText(browser)), LONG);
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

  test('a session that ended by itself leaves nothing to whoever is next, with the server there or not', async () => {
    await browser.press('R. Okafor');
    await browser.text('Everyone');
    const id = await jobOn(1);
    await browser.go(`/jobs/${id}/readings`);
    await browser.text('Take idle');
    const keptOf = () =>
      browser.driver.executeAsyncScript<string[]>(
        "const done = arguments[0]; caches.open('jb-api').then((c) => c.keys()).then((k) => done(k.map((r) => new URL(r.url).pathname)))",
      );
    await browser.driver.wait(async () => (await keptOf()).includes(`/api/jobs/${id}`), LONG);
    // It ended without a sign-out: the cookie is gone, and the page is opened again by somebody else.
    await browser.driver.manage().deleteAllCookies();
    await browser.go('/');
    await browser.text('Sign in');
    await browser.driver.wait(async () => !(await keptOf()).some((p) => p.startsWith('/api/jobs')), LONG);
    await browser.press('M. Duarte');
    await browser.text('Everyone');
    await browser.driver.wait(async () => (await keptOf()).includes('/jb-who'), LONG);
    await app.stop('SIGTERM');
    await browser.go(`/jobs/${id}/readings`);
    await browser.text('The server does not answer');
    expect(await bodyText(browser)).not.toMatch(/Take idle|R\. Okafor/);
    await app.start();
  });
});
