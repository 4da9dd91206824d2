import { execFileSync } from 'node:child_process';
import { beforeAll, describe, expect, test } from '@jest/globals';
import { By, Key } from 'selenium-webdriver';
import { AGAIN, type Browser, bodyText, expectAccessible, newJob, openDemo, put } from './support/app.ts';

let browser: Browser;
let id: string;

const vehicle = {
  label: 'Corvane 1.4',
  note: 'grey estate',
  fuel: 'petrol',
  metering: 'both',
  displacementL: 1.4,
  cylinders: 4,
  banks: 1,
};
const reading = (at: string, rpm: number, mafGps: number, mapKPa: number, ltft: number) => ({
  at,
  rpm,
  mafGps,
  mapKPa,
  ectC: 91,
  iatC: 26,
  loop: 'closed',
  trims: { bank1: { stft: 0.6, ltft, sd: 0.9, n: 92 } },
});
const record = { lampOn: true, stored: ['P0171'], pending: [] };

/** A job that has been through everything, so that every station has something to show. */
beforeAll(async () => {
  ({ browser } = await openDemo());
  const complaint = { symptoms: ['rough-idle'], story: 'Shakes at the lights.' };
  id = await newJob(browser, { vehicle, complaint, ambient: { baroKPa: 97.8, airC: 21 }, adapter: 'sim:1' });
  await put(browser, id, [
    ['records/by-hand', { phase: 'before', ...record }],
    ['readings', { phase: 'before', reading: reading('idle', 735, 1.9, 31.5, 15.4) }],
    ['readings', { phase: 'before', reading: reading('hold-2500', 2515, 7.4, 30.2, 3.7) }],
    ['tests', { test: { id: 'smoke-intake', outcome: 'brake-booster' } }],
    ['repairs', { text: 'Booster hose renewed', fault: 'vac-leak', adaptation: 'relearn' }],
    ['readings', { phase: 'after', reading: reading('idle', 730, 2.2, 29.8, 0.9) }],
    ['readings', { phase: 'after', reading: reading('hold-2500', 2510, 7.5, 30, 0.5) }],
    ['records/by-hand', { phase: 'after', ...record, stored: [], lampOn: false }],
  ]);
});

const sideways = () =>
  browser.driver.executeScript<number>('return document.documentElement.scrollWidth - window.innerWidth');

const STATIONS = ['complaint', 'readings', 'balance', 'service', 'prove', 'readiness', 'hand-over'];

/** By its key, without the page being read anew. */
async function to(station: string): Promise<void> {
  await (await browser.find(By.css('body'))).sendKeys(String(STATIONS.indexOf(station) + 1));
  await browser.driver.wait(async () => (await browser.driver.getCurrentUrl()).endsWith(`/${station}`), 5000);
  await browser.find(By.css('h1'));
  await browser.settle();
}

describe('every station', () => {
  test('keys 1 to 7 go to the stations, not while typing, and can be switched off', async () => {
    await browser.go(`/jobs/${id}/readings`);
    await browser.text('Hold 2,500');
    const at = async () => /([a-z-]+)(?:\?.*)?$/.exec(await browser.driver.getCurrentUrl())![1];
    const body = await browser.find(By.css('body'));
    for (const [key, station] of [
      ['1', 'complaint'],
      ['3', 'balance'],
      ['5', 'prove'],
      ['7', 'hand-over'],
    ]) {
      await body.sendKeys(key);
      expect(await at()).toBe(station);
      // Where one is, for the ear: the title names the station, and reading goes on at the top of its page.
      await browser.driver.wait(
        async () => (await browser.driver.getTitle()).toLowerCase().startsWith(station.split('-')[0]),
        5000,
      );
      expect(await browser.driver.switchTo().activeElement().getAttribute('id')).toBe('main');
    }
    await body.sendKeys('4');
    await browser.press('By hand', '[role="tab"]');
    const field = await browser.find(By.css('textarea'));
    await field.sendKeys('2 clamps');
    expect(await at()).toBe('service');
    await field.sendKeys(Key.chord(Key.CONTROL, 'a'), Key.BACK_SPACE);
    await browser.press('R. Okafor', 'summary');
    await browser.press('Keys: 1–7', 'label');
    await browser.press('R. Okafor', 'summary');
    await body.sendKeys('1');
    expect(await at()).toBe('service');
    await browser.press('R. Okafor', 'summary');
    await browser.press('Keys: 1–7', 'label');
    await browser.press('R. Okafor', 'summary');
  });

  test('metric and US everywhere at once', async () => {
    await browser.go(`/jobs/${id}/balance`);
    await browser.text('What fits');
    await browser.press('units, now', 'header button');
    await browser.text('lb/min');
    expect(await bodyText(browser)).not.toMatch(/\d kPa/);
    await browser.press('units, now', 'header button');
  });

  test('the sheet of the road test is reached from Prove, live and on paper', async () => {
    await browser.go(`/jobs/${id}/prove`);
    await browser.press('Open the sheet');
    await browser.text('sheet for the passenger');
    await expectAccessible(browser, 'road test');
    // Of two banks it has ten columns: all of them are on paper, whole.
    const complaint = { symptoms: ['rough-idle'], story: 'Shakes.' };
    const wide = { ...vehicle, banks: 2, cylinders: 6 };
    const two = await newJob(browser, { vehicle: wide, complaint, ambient: { baroKPa: 97.8 } });
    await browser.go(`/jobs/${two}/prove?road-test=1`);
    await browser.text('sheet for the passenger');
    const { data } = await browser.devTools('Page.printToPDF', {});
    const paper = execFileSync('pdftotext', ['-bbox-layout', '-', '-'], {
      input: Buffer.from(data, 'base64'),
    }).toString();
    const lines = paper.replace(/<[^>]*>/g, ' ').replace(/\s+/g, ' ');
    for (const c of ['STFT,', 'LTFT,', 'Total,']) expect([c, lines.split(c).length - 1]).toEqual([c, 2]);
    expect(lines).toContain('What was noticed');
    const width = Number(/<page width="([\d.]+)"/.exec(paper)![1]);
    for (const [, right] of paper.matchAll(/xMax="([\d.]+)"/g)) expect(Number(right)).toBeLessThanOrEqual(width);
    await browser.go(`/jobs/${id}/prove?road-test=1`);
    await browser.press('Back to Prove');
    await browser.text('Before and after, one picture');
  });

  test('dark and on a phone every station stays accessible, without sideways scrolling', async () => {
    await browser.dark();
    await browser.size(390, 844);
    for (const station of STATIONS) {
      await to(station);
      expect([station, (await sideways()) <= 0]).toEqual([station, true]);
      await expectAccessible(browser, `${station}, dark, phone`, AGAIN);
    }
    await browser.size(1280, 800);
  });
});
