import { afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { By } from 'selenium-webdriver';
import { type Browser, bodyText, expectAccessible, LONG, openDemo } from './support/app.ts';
import { bays } from './support/bays.ts';

let browser: Browser;
beforeAll(async () => {
  ({ browser } = await openDemo());
});

const { bay, jobOn, job, status, release } = bays(() => browser);
afterEach(release);

describe('guided capture on three simulated cars', () => {
  test('a V6 with a leak at one bank: both banks side by side, the rate of each channel shown', async () => {
    await bay(1, 'vehicle', { vehicle: 'aldwin-30' });
    await bay(1, 'fault', { fault: 'vac-leak-bank1', severity: 0.3 });
    for (const c of ['idle', 'warm', 'settle']) await bay(1, c);
    const id = await jobOn(1);
    await browser.press('Start');
    await browser.text('capturing,');
    expect(await bodyText(browser)).toMatch(/Total trim, bank 2 ◇/);
    expect(await bodyText(browser)).toMatch(/Airflow \(MAF\)\s+\d+(\.\d)?\/s/);
    await browser.text('Take hold 2,500');
    const [r] = (await job(id)).readings;
    const total = (b: 'bank1' | 'bank2') => r.reading.trims[b].stft + r.reading.trims[b].ltft;
    expect(total('bank1') - total('bank2')).toBeGreaterThan(8);
    expect(r.reading.o2.bank1s1.crossingsPer10s).toBeGreaterThan(0);
  });

  test('one that never warms up: it waits and keeps nothing as warm; paused, the gap is marked', async () => {
    await bay(2, 'vehicle', { vehicle: 'aldwin-30' });
    await bay(2, 'ambient', { airC: -12 });
    await bay(2, 'fault', { fault: 'thermostat-open', severity: 1 });
    await bay(2, 'idle');
    await bay(2, 'rate', { rate: 1 });
    // Half an hour of idling in the cold: as warm as it will get.
    await bay(2, 'step', { seconds: 1800 });
    const id = await jobOn(2);
    await browser.press('Start');
    await browser.text('Waiting for warm coolant: ');
    expect((await job(id)).readings).toEqual([]);
    await expectAccessible(browser, 'waiting for warm');
    await browser.press('Pause');
    await browser.text('paused.');
    const before = (await status(id)).keptSeconds;
    await new Promise((r) => setTimeout(r, 2500));
    expect((await status(id)).keptSeconds).toBe(before);
    await browser.press('Go on');
    await browser.text('Waiting');
    await browser.driver.wait(async () => (await status(id)).keptSeconds > before, LONG);
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
    await browser.text('Waiting');
    await browser.driver.wait(async () => ((await status(id))?.keptSeconds ?? 0) >= 3, LONG);
    await bay(2, 'idle');
    await browser.text('up to then are kept');
    const kept = (await status(id)).keptSeconds;
    await bay(2, 'warm');
    await bay(2, 'settle');
    await browser.text('Take hold 2,500');
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
    // Seen from the board of everybody, and watched live with one press.
    await browser.go('/');
    await browser.text('free recording, running for');
    await browser.press('Watch', 'section[aria-label="Being captured now"] a');
    await browser.text('Recording freely');
    await browser.driver.wait(async () => ((await status(id))?.keptSeconds ?? 0) >= 12, LONG);
    await browser.press('Stop');
    await browser.press('Free recording');
    await browser.press('Oxygen sensors', '[role="tab"]');
    await browser.text('narrow-band');
    const { captures } = await job(id);
    const r = await browser.json(`/api/jobs/${id}/captures/${captures.at(-1).id}/recording`);
    const c = r.channels.find((x: { id: string }) => x.id === 'o2s11');
    // How many a second is the machine's matter: beside it only what comes in the same answer (SAE J1979, PID 14: its trim).
    const often = r.channels.filter((x: { n: number }) => x.n > 0.2 * c.n).map((x: { id: string }) => x.id);
    expect(often).toContain('o2s11');
    expect(often.length).toBeLessThanOrEqual(2);
    expect(await bodyText(browser)).toMatch(/crossings in 10 s, \d+ ms|takes \d+ ms/);
    expect((await job(id)).readings).toEqual([]);
  });
});
