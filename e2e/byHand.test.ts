import { beforeAll, describe, expect, test } from '@jest/globals';
import { By, Key } from 'selenium-webdriver';
import { type Browser, bodyText, expectAccessible, jobOf, LONG, openDemo } from './support/app.ts';

let browser: Browser;
let id: string;
beforeAll(async () => {
  ({ browser } = await openDemo());
  await browser.driver.executeScript("localStorage.setItem('jb-units', 'metric')");
});

const choose = async (label: string, option: string) => {
  const select = await browser.find(
    By.xpath(`//select[@aria-label="${label}"] | //label[contains(., "${label}")]//select`),
  );
  await select.findElement(By.xpath(`.//option[normalize-space(.)="${option}"]`)).click();
};
const job = (...resources: Parameters<typeof jobOf>[2][]) => jobOf(browser, id, ...resources);
const until = (is: () => Promise<boolean>) => browser.driver.wait(is, LONG);

/** A whole complaint and its readings as a person has them in hand: typed and picked, nothing posted. */
describe('a turbo diesel, and a petrol car without an adapter, entered by hand', () => {
  test('a turbo diesel typed is one everywhere: points, tests, no trims asked for', async () => {
    await browser.go('/new');
    await browser.fill('What you call it', 'Marl 2.2 D');
    await browser.fill('Displacement', '2,2');
    await choose('Fuel', 'Diesel');
    await choose('Air is metered by', 'Both');
    await choose('Charged by', 'Turbocharger or compressor');
    await choose('Injection', 'Direct');
    await browser.press('low power');
    await browser.press('Open the job');
    await browser.text('Readings this complaint asks for');
    const said = await bodyText(browser);
    expect(said).toMatch(/charged, direct injection/);
    expect(said).toMatch(/Full load\s*Boost/);
    const url = await browser.driver.getCurrentUrl();
    id = /jobs\/([0-9a-f-]{36})/.exec(url)![1]!;
    await browser.go(`/jobs/${id}/balance`);
    // A look needs no reading first.
    await browser.text('All tests for this engine');
    const tests = await bodyText(browser);
    expect(tests).toMatch(/Boost against target/);
    expect(tests).not.toMatch(/Vacuum gauge|Throttle at hot idle/);
    await browser.go(`/jobs/${id}/readings`);
    await browser.press('Enter by hand');
    await browser.find(By.css('dialog[open]'));
    expect(await bodyText(browser)).not.toMatch(/Short-term trim/);
    await choose('Airflow (MAF): the unit it is shown in', 'in mg/stroke');
    await browser.fill('Airflow', '420');
    await browser.fill('Engine speed', '800');
    await choose('Manifold pressure is counted', 'above the air outside (gauge)');
    await browser.fill('Manifold', '2');
    await browser.press('Keep this reading');
    await until(async () => (await job('readings')).readings.length === 1);
    // 420 mg · 800/min · 4 / 2 = 11.2 g/s; 2 kPa above sea level.
    const { reading } = (await job('readings')).readings[0];
    expect(reading.mafGps).toBeCloseTo(11.2, 2);
    expect(reading.mapKPa).toBeCloseTo(103.325, 1);
  });

  test('the card is changed afterwards, the story and what was touched too', async () => {
    await browser.go('/new');
    await browser.fill('What you call it', 'Tarn 2.4');
    await browser.fill('Displacement', '2.4');
    await browser.press('Open the job');
    await browser.text('Change the card');
    id = /jobs\/([0-9a-f-]{36})/.exec(await browser.driver.getCurrentUrl())![1]!;
    await browser.press('Change the card');
    await browser.find(By.css('dialog[open]'));
    await expectAccessible(browser, 'the vehicle card');
    await choose('Banks', 'Two');
    await browser.fill('Cylinders', '6');
    await browser.fill('Distance', '98000');
    await browser.press('Keep the card');
    await browser.text('6 cylinders, two banks');
    await browser.text('98,000 km');
    // What it was before, when and by whom.
    await browser.press('Changes to the card');
    await browser.text('Distance: was not entered, now 98,000 km');
    await browser.fill('Who noticed what', 'Shakes since the filter was done.');
    await browser.fill('Part or work', 'air cleaner');
    await browser.fill('Days ago', '9');
    await browser.press('Add');
    await browser.text('Air filter · 9 days ago');
    await until(async () => (await job()).complaint.story === 'Shakes since the filter was done.');
    expect((await job()).complaint.recentWork).toEqual([{ part: 'air-filter', days: 9 }]);
  });

  test('codes by their form, lamp, monitors and freeze frame; put right afterwards; readiness works from them', async () => {
    await browser.press('Enter by hand');
    await browser.fill('Stored codes', 'FOO');
    await browser.press('Keep this record');
    await browser.text('“FOO” is no code');
    await browser.fill('Stored codes', 'p0171 p0606');
    await choose('The lamp is', 'on');
    await browser.press('Monitors', 'summary');
    await choose('Catalyst', 'incomplete');
    await choose('EVAP', 'complete');
    await browser.press('Freeze frame', 'summary');
    await browser.fill('Coolant', '88');
    await expectAccessible(browser, 'a record by hand');
    await browser.press('Keep this record');
    await browser.text('On record, entered by hand');
    const said = await bodyText(browser);
    expect(said).toMatch(/P0606\s*stored\s*standard code, control unit/);
    await browser.press('Put it right');
    await browser.fill('Stored codes', 'P0171');
    await browser.press('Keep this record');
    await until(async () => (await job('records')).records[0].rev === 2);
    expect((await job('records')).records[0].codes.map((c: { code: string }) => c.code)).toEqual(['P0171']);
    await browser.go(`/jobs/${id}/readiness`);
    await browser.text('Still open: Catalyst');
  });

  test('both banks by keyboard, λ and sensors; nothing entered is refused; put right and removed', async () => {
    await browser.go(`/jobs/${id}/readings`);
    await browser.press('Enter by hand');
    await browser.press('Keep this reading');
    await browser.text('nothing entered yet');
    await browser.fill('Engine speed', '720');
    // From field to field without a pointer, both banks on one screen.
    const trims = await browser.driver.findElements(
      By.xpath(
        "//fieldset[legend[contains(., 'Bank')]]//label[contains(., 'trim')]/following-sibling::div//input | //fieldset[legend[contains(., 'Bank')]]//div[label[contains(., 'trim')]]//input",
      ),
    );
    expect(trims).toHaveLength(4);
    await trims[0]!.sendKeys('2');
    await trims[0]!.sendKeys(Key.TAB, Key.TAB, '12');
    await trims[2]!.sendKeys('1', Key.TAB, Key.TAB, '2');
    await browser.press('Oxygen sensors, one by one', 'summary');
    await browser.fill('Crossings in 10 s', '2');
    await browser.press('Keep this reading');
    await until(async () => (await job('readings')).readings.length === 1);
    expect((await job('readings')).readings[0].reading).toMatchObject({
      trims: { bank1: { stft: 2, ltft: 12 }, bank2: { stft: 1, ltft: 2 } },
      o2: { bank1s1: { crossingsPer10s: 2 } },
    });
    await browser.press('Idle', '[aria-label="Operating points"] button');
    await browser.press('Put it right');
    await browser.fill('Engine speed', '735');
    await browser.press('Keep this reading');
    await until(async () => (await job('readings')).readings[0].reading.rpm === 735);
    await browser.text('735 rpm');
    await expectAccessible(browser, 'a kept reading');
  });

  test('two findings of one test at once, with a figure in the units shown; after a repair it says so', async () => {
    await browser.go(`/jobs/${id}/balance`);
    await browser.press('All tests');
    await browser.fill('Find a test', 'look over');
    await browser.press('Look over the intake', '[aria-label="All tests"] button');
    await browser.press('More than one');
    await browser.press('duct loose');
    await browser.press('filter loaded');
    await browser.press('Record these 2');
    await until(async () => (await job('tests')).tests.length === 1);
    expect((await job('tests')).tests[0].test.outcome).toEqual(['duct-loose', 'filter-loaded']);
    await browser.text('duct loose, filter loaded');
    await browser.text('as it came in');
    expect(await bodyText(browser)).not.toMatch(/\bbits?\b|duct-loose/);
    await browser.go(`/jobs/${id}/readings`);
    await browser.press('Idle', '[aria-label="Operating points"] button');
    await browser.press('Remove it');
    await until(async () => (await job('readings')).readings.length === 0);
  });
});

/** What a hand does, counted: a press, a field filled, a choice made. */
function counting() {
  let inputs = 0;
  return {
    press: (name: string, css?: string) => browser.press(name, css).then(() => void inputs++),
    fill: (label: string, value: string) => browser.fill(label, value).then(() => void inputs++),
    choose: (label: string, option: string) => choose(label, option).then(() => void inputs++),
    station: (name: string) => browser.press(name, 'nav[aria-label="Stations"] a').then(() => void inputs++),
    inputs: () => inputs,
  };
}
const opened = async () => {
  await browser.text('Readings this complaint asks for');
  id = /jobs\/([0-9a-f-]{36})/.exec(await browser.driver.getCurrentUrl())![1]!;
};

describe('how many inputs a job asks of a hand', () => {
  test('the simplest, typed and nothing measured: eleven, and the paper says that nothing was measured', async () => {
    await browser.go('/new');
    const hand = counting();
    await hand.fill('What you call it', 'Brae 1.4');
    await hand.fill('Displacement', '1.4');
    await hand.press('hesitation');
    await hand.press('Open the job');
    await opened();
    await hand.station('Service');
    await hand.press('By hand', '[role=tab]');
    await hand.press('replaced', 'label');
    await hand.fill('Part', 'air filter');
    await hand.press('Keep the repair');
    await until(async () => (await job('repairs')).repairs.length === 1);
    await hand.station('Hand-over');
    await browser.text('We have not measured the engine yet.');
    expect(await bodyText(browser)).not.toMatch(/Proven|back where it should be/);
    await hand.press('Close the job');
    await browser.text('Handed over');
    expect(hand.inputs()).toBeLessThanOrEqual(11);
  });

  test('before and after by hand, with codes: at most fifty', async () => {
    await browser.go('/new');
    const hand = counting();
    const record = async (stored: string, lamp: string) => {
      await hand.press('Enter by hand', 'main button');
      if (stored) await hand.fill('Stored codes', stored);
      if (lamp !== 'off') await hand.choose('The lamp is', lamp);
      await hand.press('Keep this record');
      await browser.text('On record, entered by hand');
    };
    // The next point is offered once this one stands on the page.
    const reading = async (figures: Record<string, string>, count: number, then: string) => {
      await hand.press('Enter by hand', 'main button');
      await browser.find(By.css('dialog[open]'));
      for (const [label, value] of Object.entries(figures)) await hand.fill(label, value);
      await hand.press('Keep this reading');
      await until(async () => (await job('readings')).readings.length === count);
      await browser.text(then);
    };
    const trims = (rpm: string, maf: string, stft: string, ltft: string) => ({
      'Engine speed': rpm,
      'Airflow (MAF)': maf,
      'Short-term trim': stft,
      'Long-term trim': ltft,
    });
    await hand.fill('What you call it', 'Brae 1.8');
    await hand.fill('Displacement', '1.8');
    await hand.press('rough idle');
    await hand.press('Open the job');
    await opened();
    await record('P0171', 'on');
    await hand.press('To Readings');
    await reading(trims('730', '2.6', '2', '15'), 1, 'Take hold 2,500');
    await reading(trims('2500', '9.4', '1', '5'), 2, 'Both points are kept');
    await hand.station('Service');
    await hand.press('By hand', '[role=tab]');
    await hand.press('replaced', 'label');
    await hand.fill('Part', 'intake gasket');
    await hand.fill('What it was for', 'Air leak after the throttle');
    await hand.press('Keep the repair');
    await until(async () => (await job('repairs')).repairs.length === 1);
    await hand.station('Prove');
    await reading(trims('720', '2.8', '0', '1'), 3, 'Take hold 2,500');
    await reading(trims('2500', '9.9', '0', '1'), 4, 'Proven by the trims');
    await browser.text('Proven by the trims');
    await hand.station('Complaint');
    await record('', 'off');
    await hand.station('Hand-over');
    await browser.text('before the repair; now');
    await hand.press('Close the job');
    await browser.text('Handed over');
    const { records, readings } = await job('records', 'readings');
    expect(records.map((r: { phase: string }) => r.phase)).toEqual(['before', 'after']);
    expect(readings.map((r: { phase: string; reading: { at: string } }) => [r.phase, r.reading.at])).toEqual([
      ['before', 'idle'],
      ['before', 'hold-2500'],
      ['after', 'idle'],
      ['after', 'hold-2500'],
    ]);
    expect(hand.inputs()).toBeLessThanOrEqual(50);
  });
});
