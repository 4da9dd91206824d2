import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from '@jest/globals';
import { BROKEN, csvOf, scenarioOf } from '@just-balance/vehicle';
import { By } from 'selenium-webdriver';
import { patient } from '../scripts/lib/patience.cjs';
import { type App, type Browser, bodyText, expectAccessible, jobOf, LONG, newJob, openDemo } from './support/app.ts';
import { type PagePort, pagePort } from './support/serialPort.ts';

let app: App;
let browser: Browser;
let port: PagePort;
/** How many simulated seconds a second. */
const HURRY = 30;
beforeAll(async () => {
  ({ app, browser } = await openDemo());
  port = await pagePort(browser);
});
afterAll(() => port.stop());
// A test that failed while the shop was away leaves the next one nothing to work with.
beforeEach(async () => {
  if (!app.running()) await app.start();
});

const CAR = {
  label: 'Quillon 1.8',
  year: 2014,
  fuel: 'petrol',
  metering: 'maf',
  induction: 'na',
  displacementL: 1.8,
  cylinders: 4,
  banks: 1,
};
/** The steady cruise, its times divided by how the simulated car is hurried. */
const HURRIED = `format: just-balance/drive-procedure
version: 1
id: hurried-cruise-${Date.now()}
title: Steady cruise, hurried
source: common practice, no source
before:
  - { id: fuel-level, low: 50, high: 75, unit: "%" }
steps:
  - id: idle
    says: Idle where it stands.
    standing: true
    hold: [{ channel: rpm, low: 400, unit: rpm, ifKnown: true }]
    seconds: 0.2
    graceSeconds: 10
  - id: cruise
    says: Steady at 40 to 43 mph, the pedal still.
    finishes: [evap]
    hold: [{ channel: vss, low: 40, high: 43, unit: mph }]
    seconds: 12
    graceSeconds: 10
    after: [idle]
totalMinutes: 30
`;

describe('the drive, through the adapter at the tablet', () => {
  test('planned, refused, coached; reloaded on the way with the shop away; back, uploaded, reviewed, ready', async () => {
    await browser.post('/procedures/file', { id: randomUUID(), kind: 'drive', text: HURRIED });
    const id = await newJob(browser, { vehicle: CAR, complaint: { symptoms: ['lamp-only'] } });
    await port.vehicle({ do: 'vehicle', vehicle: 'quillon-18' });
    await port.vehicle({ do: 'koeo' });
    await browser.go(`/jobs/${id}/complaint`);
    await browser.press('Understood');
    await browser.press('Connect an adapter at this device');
    await browser.text('Adapter at this device');
    // The same link serves the complaint: read here, sent as it was heard.
    await browser.press('Read from the vehicle');
    await browser.text('Kept: no codes');
    const [record] = (await jobOf(browser, id, 'records')).records;
    expect(record).toMatchObject({ source: 'link', vin: 'ZZZK18AB9E0004217', lampOn: false });
    expect(record.counters.minutesSinceClear).toBeGreaterThan(1000);

    // A tank too full: no waiting helps, litres to burn do.
    await browser.go(`/jobs/${id}/readiness`);
    await browser.text('Still open: EVAP');
    await browser.fill('Procedure', 'Steady cruise, hurried');
    await browser.fill('Fuel in the tank', '91');
    await browser.fill('Tank holds', '50');
    await browser.fill('Consumption', '5');
    await browser.text('Burn 8 L first, about 160 km');
    await browser.text('Not by waiting');
    await browser.fill('Fuel in the tank', '61');
    await browser.text('Earliest start');
    await browser.press('Tank holds', 'label');
    await browser.driver.wait(
      async () =>
        (await jobOf(browser, id, 'entries')).entries.some(
          (e: { data: { state?: { fuelPct?: number } } }) => e.data.state?.fuelPct === 61,
        ),
      LONG,
    );
    // Kept with the job.
    await browser.driver.navigate().refresh();
    await browser.text('Earliest start');
    await browser.text('Adapter at this device');

    await browser.press('Coach the drive');
    await browser.press('Understood');
    await browser.fill('Procedure', 'Steady cruise, hurried');
    await browser.size(390, 844);
    await browser.text('Go');
    await browser.press('Start');
    await browser.text('0 of 2 steps done');
    await expectAccessible(browser, 'coach on a phone');
    // The road has no shop network, and somebody closes the lid.
    await browser.driver.wait(
      () => browser.driver.executeScript<boolean>('return navigator.serviceWorker.controller !== null'),
      LONG,
    );
    // Ended in order; the next start takes the data as it is.
    expect(await app.stop('SIGTERM')).toBe(0);
    await port.vehicle({ do: 'idle' });
    await browser.text('1 of 2 steps done');
    await port.vehicle({ do: 'rate', rate: HURRY });
    await port.vehicle({ do: 'script', script: 'cruise' });
    await browser.text('Hold it');
    await browser.driver.navigate().refresh();
    await browser.text('1 of 2 steps done');
    // The car says what is in its tank: nothing is left unchecked.
    await browser.text('Driven as asked');
    await browser.size(1280, 800);
    const captures = async () => (await jobOf(browser, id, 'captures')).captures;
    await app.start();
    expect(app.output()).not.toMatch(/installing|creating the database/);
    await browser.driver.wait(async () => {
      const all = await captures();
      return Array.isArray(all) && all.some((c: { state: string }) => c.state === 'done');
    });
    const [capture] = await captures();
    expect(capture).toMatchObject({ at: 'free', source: 'link', state: 'done' });
    expect(capture.seconds).toBeGreaterThan(8);
    await browser.driver.wait(async () => !/wait on this device/.test(await bodyText(browser)), LONG);

    // The drive counts for the car; its recording is reviewed; the car is read again.
    await browser.press('Back to Readiness');
    await browser.text('One drive so far');
    await port.vehicle({ do: 'rate', rate: 1 });
    // On a machine that hardly keeps up the vehicle may seem silent: whoever stands there presses again.
    for (let i = 0; i < 3; i++) {
      await browser.press('Read again');
      await browser.driver
        .wait(
          async () =>
            /All supported monitors are complete.*to spare|Nothing was recorded/s.test(await bodyText(browser)),
          patient(40_000),
        )
        .catch(() => {});
      if (/to spare/.test(await bodyText(browser))) break;
    }
    await browser.text('All supported monitors are complete');
    await browser.text('to spare');
    await browser.text('EVAP has completed.');
    await browser.go(`/jobs/${id}/readings?recording=${capture.id}`);
    await browser.press('Drive', '[role=tab]');
    await browser.fill('Held against', 'Steady cruise, hurried');
    await browser.text('Everything was driven as asked');
    await browser.text('Counted among the drives of this vehicle');
    await expectAccessible(browser, 'review of a drive');
    await browser.go(`/jobs/${id}/hand-over`);
    await browser.press('For the next technician', '[role=tab]');
    await browser.text('all complete');
  });

  test('a log of a drive that broke one condition, imported as CSV: the second and the reason, and once more by another procedure', async () => {
    const dir = mkdtempSync(join(tmpdir(), 'jb-drive-'));
    try {
      const broken = BROKEN.find((b) => b.id === 'cruise-without-speed')!;
      const file = join(dir, 'slowed-down.csv');
      writeFileSync(file, [...csvOf(scenarioOf(broken, 'quillon-18', 5))].join('\n'));
      const id = await newJob(browser, { vehicle: CAR, complaint: { symptoms: ['lamp-only'] } });
      await browser.go(`/jobs/${id}/readings?import=1`);
      await (await browser.find(By.css('input[type=file]'))).sendKeys(file);
      await browser.press('Read it');
      await browser.press('Keep');
      await browser.driver.wait(async () => (await jobOf(browser, id, 'captures')).captures.length > 0, LONG);
      const [capture] = (await jobOf(browser, id, 'captures')).captures;
      await browser.go(`/jobs/${id}/readings?recording=${capture.id}`);
      await browser.press('Drive', '[role=tab]');
      await browser.text('Not all of it was held');
      // It brakes at second 444 and is out of the band within two.
      await browser.driver.wait(
        async () =>
          /7:2[4-6]\s*cruise evap: road speed left 64 to 69 km\/h/.test((await bodyText(browser)).replace(/\s+/g, ' ')),
        LONG,
      );
      await browser.text('Fuel level');
      await browser.press('7:2', 'button');
      await browser.text('Engine speed');
    } finally {
      rmSync(dir, { recursive: true, force: true });
    }
  });

  test('a guided reading over it: kept second by second, the adapter pulled and put back, the same reading in the shop', async () => {
    await port.vehicle({ do: 'rate', rate: 1 });
    for (const c of ['idle', 'warm', 'settle']) await port.vehicle({ do: c });
    const id = await newJob(browser, { vehicle: CAR, complaint: { symptoms: ['rough-idle'] } });
    await browser.go(`/jobs/${id}/readings`);
    await browser.press('Understood');
    await browser.press('Connect an adapter at this device');
    await browser.text('Adapter at this device');
    await browser.press('Start');
    await browser.driver.wait(async () => /kept|to go|Capturing|Waiting/.test(await bodyText(browser)), LONG);
    port.plugged(false);
    await browser.text('adapter lost');
    port.plugged(true);
    await browser.driver.wait(async () => ((await jobOf(browser, id, 'readings')).readings ?? []).length === 1, LONG);
    const { readings } = await jobOf(browser, id, 'readings');
    expect(readings[0]).toMatchObject({ source: 'capture', reading: { at: 'idle' } });
    expect(readings[0].reading.mafGps).toBeGreaterThan(1.5);
    expect(readings[0].reading.mafGps).toBeLessThan(3);
    // What was on the adapter's bus came up with it, and is the log.
    const fetched = (path: string) =>
      browser.driver.executeAsyncScript<string>(
        'const done = arguments[1]; fetch(arguments[0]).then((r) => r.text()).then(done)',
        path,
      );
    const at = `/jobs/${id}/captures/${readings[0].captureId}`;
    const { onTheBus } = JSON.parse(await fetched(`/api${at}/recording`));
    const lines = (await fetched(`/api${at}/export?as=candump`)).trim().split('\n');
    expect([lines.length, onTheBus.lost]).toEqual([onTheBus.frames, 0]);
    expect(lines.filter((l) => / 7E0#/.test(l)).length).toBeGreaterThan(20);
    expect(lines.filter((l) => / 7E8#/.test(l)).length).toBeGreaterThan(20);
  });
});
