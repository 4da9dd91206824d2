import { writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { beforeAll, describe, expect, test } from '@jest/globals';
import { By } from 'selenium-webdriver';
import { v7 as uuid } from 'uuid';
import { type App, type Browser, bodyText, expectAccessible, LONG, openDemo } from './support/app.ts';

let app: App;
let browser: Browser;
beforeAll(async () => {
  ({ app, browser } = await openDemo());
});

const newJob = async (label = 'Tarn 2.0', more: object = {}) => {
  const id = uuid();
  const vehicle = { label, fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4, banks: 1, ...more };
  const made = await browser.post('/jobs', { id, vehicleId: uuid(), vehicle, complaint: { symptoms: ['rough-idle'] } });
  expect(made.id).toBe(id);
  return id;
};

describe('people', () => {
  test('the lead adds one, hands a link over; it sets a password and signs in; the learner sees what a learner may', async () => {
    await browser.press('People');
    await browser.text('Who works here');
    await browser.fill('Name', 'T. Brandt');
    await browser.fill('Email', 'brandt@linden.example');
    await browser.press('Add', 'form button');
    await browser.text('T. Brandt');
    await expectAccessible(browser, 'people');
    const row = await browser.find(By.xpath("//li[contains(., 'T. Brandt')]"));
    await row.findElement(By.xpath(".//option[.='Learner']")).click();
    await browser.text('cannot get in yet');
    await row.findElement(By.xpath(".//button[contains(., 'Give a link')]")).click();
    const link = await (await browser.find(By.css('section[aria-label="One-time link"] input'))).getAttribute('value');
    expect(link).toMatch(/\/welcome#[\w-]{40,}$/);
    await browser.driver.get(link);
    await browser.fill('Password', 'short');
    await browser.press('Set it and sign in');
    await browser.text('at least 10 characters');
    await expectAccessible(browser, 'welcome');
    await browser.fill('Password', 'a long password');
    await browser.press('Set it and sign in');
    await browser.text('T. Brandt');
    const text = await bodyText(browser);
    expect(text).not.toMatch(/People/);
    expect((await browser.json('/api/session')).account).toMatchObject({ role: 'learner', name: 'T. Brandt' });
  });

  test('own sessions and password; signing out', async () => {
    await browser.press('T. Brandt', 'summary');
    await browser.press('Password and sessions');
    await browser.text('this browser');
    await expectAccessible(browser, 'account');
    await browser.fill('Present password', 'a long password');
    await browser.fill('New password', 'another password');
    await browser.press('Change it');
    await browser.text('Changed.');
    await browser.press('T. Brandt', 'summary');
    await browser.press('Sign out', 'details button');
    await browser.press('R. Okafor');
    await browser.text('Everyone');
  });
});

describe('the board', () => {
  test('jobs past the first page are reached', async () => {
    for (let i = 0; i < 65; i++) await newJob(`Car ${i}`);
    await browser.go('/');
    await browser.text('Car 64');
    const rows = async () => (await browser.driver.findElements(By.css('ul[aria-label^="Jobs: "] > li'))).length;
    expect(await rows()).toBe(60);
    await browser.press('Older jobs');
    await browser.driver.wait(async () => (await rows()) > 65, LONG);
  });

  test('a car is found by its plate with one key, from wherever one is', async () => {
    const id = await newJob('Hollin 1.2', { plate: 'QX 5 QX' });
    await browser.go('/calculators');
    await browser.find(By.css('h1, h2'));
    await browser.driver.actions().sendKeys('/').perform();
    await browser.fill('Plate, car, or code', 'qx5');
    await browser.text('1 found');
    await expectAccessible(browser, 'finding a car');
    await browser.press('QX 5 QX', 'dialog a');
    await browser.driver.wait(async () => (await browser.driver.getCurrentUrl()).includes(id), LONG);
    await browser.text('QX 5 QX');
  });

  test('a job whose rows cannot be read blanks nothing: it is opened, and mended', async () => {
    const id = await newJob('Broken car');
    await app.sql("UPDATE job SET complaint = '[]' WHERE id = ?", [id]);
    await browser.go('/');
    await browser.text('needs mending');
    await browser.text('Car 64');
    await browser.go(`/jobs/${id}/complaint`);
    await browser.text('of this job cannot be read');
    await browser.press('Open it');
    await expectAccessible(browser, 'damaged job');
    const area = await browser.find(By.css('section[aria-labelledby="damaged"] textarea'));
    await area.clear();
    await area.sendKeys('{"symptoms":["stall"]}');
    await browser.press('Keep it like this');
    await browser.driver.wait(async () => !(await bodyText(browser)).includes('cannot be read'), LONG);
    expect((await browser.json(`/api/jobs/${id}`)).complaint).toEqual({ symptoms: ['stall'] });
  });
});

describe('failures say what the server said', () => {
  test('a wrong figure at its own field, before it is sent; a range in the unit that was typed', async () => {
    await browser.go('/new');
    await browser.fill('What you call it', 'Odd car');
    await browser.fill('Displacement', '99');
    await browser.fill('VIN', 'TOO SHORT');
    await browser.press('Open the job');
    /** What is said of a field, tied to it as its description. */
    const error = async (label: string) => {
      const named = `ancestor::label[contains(., '${label}')] or @id = //label[contains(., '${label}')]/@for`;
      const control = await browser.find(By.xpath(`//*[self::input or self::select][${named}][@aria-describedby]`));
      return browser.find(By.id(await control.getAttribute('aria-describedby')));
    };
    expect(await (await error('Displacement')).getText()).toBe('must be at most 15');
    expect(await (await error('VIN')).getText()).toMatch(/17 characters/);
    const field = await browser.find(By.css('input[aria-invalid="true"]'));
    expect(await field.getAttribute('aria-describedby')).toBeTruthy();
    await expectAccessible(browser, 'new job with errors');
    const id = await newJob('Hot car');
    await browser.go(`/jobs/${id}/readings`);
    await browser.press('units, now', 'header button');
    await browser.press('Enter by hand');
    await browser.fill('Coolant', '999');
    await browser.press('Keep this reading');
    expect(await (await error('Coolant')).getText()).toBe('999 °F cannot be: -76 to 482 °F');
    await browser.press('Cancel');
    await browser.press('units, now', 'header button');
  });

  test('two people on one complaint: what both chose is there, nothing is overwritten', async () => {
    const id = await newJob('Shared car');
    await browser.go(`/jobs/${id}/complaint`);
    await browser.text('What was touched last');
    // Another tablet is quicker by a moment.
    await browser.driver.executeScript(`
      const real = window.fetch;
      window.fetch = async (url, o) => {
        if (o && o.method === 'PATCH') {
          window.fetch = real;
          const { rev } = JSON.parse(o.body);
          await real(url, { ...o, body: JSON.stringify({ rev, complaint: { symptoms: ['stall'], story: 'theirs' } }) });
        }
        return real(url, o);
      };`);
    await browser.press('hesitation');
    const complaint = async () => (await browser.json(`/api/jobs/${id}`)).complaint;
    await browser.driver.wait(async () => (await complaint()).symptoms.includes('hesitation'), LONG);
    // Theirs took one away, put another in, and has a story; mine put one in.
    expect(await complaint()).toMatchObject({ symptoms: ['stall', 'hesitation'], story: 'theirs' });
    await browser.driver.wait(
      async () => (await (await browser.find(By.css('main textarea'))).getAttribute('value')) === 'theirs',
      LONG,
    );
  });
});

describe('what waits on the device', () => {
  test('an entry that the server breaks on is set aside; the next goes up; corrected it goes too', async () => {
    const id = await newJob('Waiting car');
    await browser.go(`/jobs/${id}/balance`);
    await browser.text('Readings first');
    // The server breaks on one kind of write for a while.
    await browser.driver.executeScript(`
      const real = window.fetch; window.breakOn = '/readings';
      window.fetch = (url, o) => o && o.method === 'POST' && window.breakOn && String(url).includes(window.breakOn)
        ? Promise.resolve(new Response(JSON.stringify({ statusCode: 500, message: 'something broke on the server' }), { status: 500 }))
        : real(url, o);`);
    await browser.press('2 Readings', 'nav a');
    await browser.press('Enter by hand');
    await browser.fill('Short-term', '2');
    await browser.fill('Long-term', '14');
    await browser.press('Keep', 'form button');
    await browser.text('was not taken: something broke on the server');
    await expectAccessible(browser, 'set aside');
    expect(await browser.json(`/api/jobs/${id}/readings`)).toEqual([]);
    await browser.driver.executeScript('window.breakOn = null');
    await browser.press('Edit', 'section[aria-label="Waiting on this device"] button');
    const area = await browser.find(By.css('section[aria-label="Waiting on this device"] textarea'));
    const body = JSON.parse(await area.getAttribute('value'));
    body.reading.trims.bank1.ltft = 12;
    await area.clear();
    await area.sendKeys(JSON.stringify(body));
    await browser.press('Try again', 'section[aria-label="Waiting on this device"] button');
    await browser.driver.wait(async () => (await browser.json(`/api/jobs/${id}/readings`)).length === 1, LONG);
    expect((await browser.json(`/api/jobs/${id}/readings`))[0].reading.trims.bank1).toMatchObject({
      stft: 2,
      ltft: 12,
    });
  });
});

describe('a file of thousands of columns', () => {
  test('the mapping draws the lines in sight, and every line can be reached', async () => {
    const id = await newJob('Wide car');
    const names = Array.from({ length: 3000 }, (_, i) => `Signal ${i} (V)`);
    const rows = Array.from({ length: 40 }, (_, r) =>
      [r / 10, 700 + (r % 3), ...names.map((_, i) => (i + r) % 5)].join(','),
    );
    const file = join(tmpdir(), `wide-${id}.csv`);
    writeFileSync(file, [['Time (s)', 'Engine speed (rpm)', ...names].join(','), ...rows].join('\n'));
    await browser.go(`/jobs/${id}/readings?import=1`);
    await (await browser.find(By.css('input[type=file]'))).sendKeys(file);
    await browser.text('Look over the columns');
    const drawn = () => browser.driver.findElements(By.css('table.table tbody td button'));
    const count = (await drawn()).length;
    expect(count).toBeGreaterThan(5);
    expect(count).toBeLessThan(100);
    expect(await (await browser.find(By.css('table[aria-rowcount]'))).getAttribute('aria-rowcount')).toBe('3003');
    await browser.driver.executeScript(
      'const box = document.querySelector(\'[aria-label="Columns of the file"]\'); box.scrollTop = box.scrollHeight',
    );
    await browser.text('Signal 2999');
    await expectAccessible(browser, 'wide mapping');
  });
});

describe('who has it open', () => {
  /** Wait until the server counts so many screens of the job, this one's own look not among them. */
  const screens = (id: string, count: number) =>
    browser.driver.executeAsyncScript<true | string>(
      `const [jobId, count, done] = arguments;
       const ws = new WebSocket(location.origin.replace('http', 'ws') + '/ws');
       const end = (v) => { ws.close(); done(v); };
       let last = 'nothing';
       setTimeout(() => end(last), 9000);
       ws.onopen = () => ws.send(JSON.stringify({ type: 'subscribe', jobId }));
       ws.onmessage = (e) => {
         const m = JSON.parse(e.data);
         if (m.type !== 'present') return;
         last = m.people.join(', ');
         if (m.people.length === count + 1) end(true);
       };`,
      id,
      count,
    );

  test('a page loaded anew in one tab is one screen, on the way back too; a second tab is another', async () => {
    const { driver } = browser;
    const id = await newJob('Harrow 1.4');
    const others = () => driver.findElements(By.xpath("//*[contains(text(), 'another screen')]"));
    for (const station of ['readings', 'readiness', 'hand-over']) {
      await browser.go(`/jobs/${id}/${station}`);
      await browser.text('Harrow 1.4');
      expect(await screens(id, 1)).toBe(true);
    }
    await driver.navigate().back();
    await browser.text('Harrow 1.4');
    expect(await screens(id, 1)).toBe(true);
    await driver.wait(async () => (await others()).length === 0, LONG);
    const first = await driver.getWindowHandle();
    await driver.switchTo().newWindow('tab');
    await browser.go(`/jobs/${id}/readings`);
    await browser.text('you, on another screen');
    await driver.close();
    await driver.switchTo().window(first);
    await driver.wait(async () => (await others()).length === 0, LONG);
  });
});
