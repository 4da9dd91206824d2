import { beforeAll, describe, expect, test } from '@jest/globals';
import { By, Key } from 'selenium-webdriver';
import { AGAIN, type App, type Browser, expectAccessible, jobOf, LONG, openDemo } from './support/app.ts';

let app: App;
let browser: Browser;
beforeAll(async () => {
  ({ app, browser } = await openDemo());
});

const jobId = async () => /jobs\/([0-9a-f-]{36})/.exec(await browser.driver.getCurrentUrl())![1]!;
const job = async () => jobOf(browser, await jobId(), 'readings');

describe('the pages outside a job', () => {
  const PAGES = [
    ['/', 'Everyone'],
    ['/new', 'What you call it'],
    ['/practice?bays', 'Bay 2'],
    ['/calculators', 'Leak size'],
    ['/shop', 'Tools here'],
    ['/people', 'Add a person'],
    ['/account', 'Password and sessions'],
  ] as const;

  const over = () =>
    browser.driver.executeScript<number>('return document.documentElement.scrollWidth - window.innerWidth');

  test('each is accessible', async () => {
    for (const [path, text] of PAGES) {
      await browser.go(path);
      await browser.text(text);
      await expectAccessible(browser, path);
    }
  });

  test('dark and on a phone too, without sideways scrolling', async () => {
    await browser.dark();
    await browser.size(390, 844);
    for (const [path, text] of PAGES) {
      await browser.go(path);
      await browser.text(text);
      await expectAccessible(browser, `${path}, dark, phone`, AGAIN);
      expect([path, (await over()) <= 0]).toEqual([path, true]);
    }
    await browser.size(1280, 800);
    await browser.dark();
  });

  test('a long list is searched by any word of it, and chosen by keyboard', async () => {
    await browser.go('/new');
    const box = await browser.find(By.css('input[role="combobox"]'));
    await box.sendKeys('hatch');
    await browser.text('Quillon 1.8, green hatch');
    expect(await box.getAttribute('aria-expanded')).toBe('true');
    await expectAccessible(browser, 'combobox open');
    await box.sendKeys(Key.ENTER);
    const called = await browser.find(By.css('input[name="label"]'));
    expect(await called.getAttribute('value')).toBe('Quillon 1.8');
    await box.sendKeys(Key.chord(Key.CONTROL, 'a'), 'no such car');
    await browser.text('No such name in the list.');
    await box.sendKeys(Key.ESCAPE);
    expect(await box.getAttribute('aria-expanded')).toBe('false');
  });

  test('a reading by hand, an implausible value asked about, kept as it was', async () => {
    await browser.go('/new');
    await browser.fill('What you call it', 'Corvane 1.4');
    await browser.fill('Displacement', '1.4');
    await browser.fill('Cylinders', '4');
    await browser.press('hesitation');
    await browser.press('Open the job');
    await browser.text('hesitation');
    await browser.driver.wait(async () => /jobs\/[0-9a-f-]{36}/.test(await browser.driver.getCurrentUrl()), LONG);
    await browser.go(`/jobs/${await jobId()}/readings`);
    await browser.press('by hand');
    await browser.find(By.css('dialog[open] form'));
    await expectAccessible(browser, 'hand entry');
    await browser.fill('Engine speed', '720');
    await browser.fill('Airflow', '1,9');
    await browser.fill('Coolant', '190');
    await browser.fill('Short-term trim', '2,3');
    await browser.fill('Long-term trim', '1.5');
    // A tablet's number pad has no minus: its key stands beside the field.
    await browser.press('Long-term trim (LTFT), %: change the sign', 'dialog button[aria-label]');
    await browser.press('Keep this reading');
    await browser.text('is unusual. Right as it stands?');
    await browser.fill('Coolant', '91');
    await browser.press('Keep this reading');
    await browser.driver.wait(async () => (await job()).readings.length === 1, LONG);
    expect((await job()).readings[0]).toMatchObject({
      source: 'hand',
      reading: { at: 'idle', rpm: 720, mafGps: 1.9, ectC: 91, trims: { bank1: { stft: 2.3, ltft: -1.5 } } },
    });
  });

  test('the page asks nobody but its own server', async () => {
    const origins = await browser.driver.executeScript<string[]>(
      "return [...new Set(performance.getEntriesByType('resource').map(e => new URL(e.name).origin))]",
    );
    expect(origins.every((o) => o === app.base)).toBe(true);
    const logs = await browser.driver
      .manage()
      .logs()
      .get('browser')
      .catch(() => []);
    expect(logs.filter((l) => /Content.Security.Policy/i.test(l.message)).map((l) => l.message)).toEqual([]);
  });
});

describe('the tests themselves', () => {
  test('what moves away under a press is pressed where it is then, and nothing in its old place', async () => {
    await browser.driver.get('about:blank');
    await browser.driver.executeScript(`
      document.body.innerHTML = '<div></div><button>wanted</button><br><button>other</button>';
      window.got = [];
      for (const b of document.querySelectorAll('button')) b.onclick = () => window.got.push(b.textContent);
      // A line appears above in the moment of the press, as when something has been stored.
      addEventListener('mousemove', () => { document.querySelector('div').style.height = '40px'; }, { once: true });
      addEventListener('mousemove', () => document.querySelector('div').getBoundingClientRect());`);
    await browser.press('wanted');
    expect(await browser.driver.executeScript('return window.got')).toEqual(['wanted']);
  });
});
