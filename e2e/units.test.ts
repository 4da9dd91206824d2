import { beforeAll, describe, expect, test } from '@jest/globals';
import { type Browser, newJob, openDemo, put } from './support/app.ts';

let browser: Browser;
let id: string;

const VEHICLE = {
  label: 'Corvane 1.4',
  fuel: 'petrol',
  metering: 'both',
  displacementL: 1.4,
  cylinders: 4,
  banks: 1,
  odometerKm: 82_000,
  tankL: 45,
  limits: { fuelPressureKPa: 360, fuelPressureReference: 'fixed' },
};
const reading = (at: string, rpm: number, mafGps: number, mapKPa: number, ltft: number) => ({
  at,
  rpm,
  mafGps,
  mapKPa,
  ectC: 91,
  iatC: 26,
  vssKmh: 0,
  loop: 'closed',
  trims: { bank1: { stft: 0.6, ltft, sd: 0.9, n: 92 } },
});

/** A job that has something to show at every station. */
beforeAll(async () => {
  ({ browser } = await openDemo());
  id = await newJob(browser, {
    vehicle: VEHICLE,
    complaint: { symptoms: ['rough-idle'], story: 'Shakes at the lights.' },
    ambient: { baroKPa: 97.8, airC: 21, altitudeM: 290 },
    adapter: 'sim:1',
  });
  await put(browser, id, [
    [
      'records/by-hand',
      {
        phase: 'before',
        lampOn: true,
        stored: ['P0171'],
        pending: [],
        freezeFrame: [{ name: 'ect', value: 88, unit: '°C' }],
        distanceSinceClearKm: 320,
        monitors: { catalyst: 'incomplete', misfire: 'complete' },
      },
    ],
    ['readings', { phase: 'before', reading: reading('idle', 735, 1.9, 31.5, 15.4) }],
    ['readings', { phase: 'before', reading: reading('hold-2500', 2515, 7.4, 30.2, 3.7) }],
    ['tests', { test: { id: 'fuel-pressure', values: { idleKPa: 358, loadKPa: 352, specKPa: 360 } } }],
    ['tests', { test: { id: 'smoke-intake', outcome: 'brake-booster' } }],
    ['repairs', { text: 'Booster hose renewed', fault: 'vac-leak', adaptation: 'relearn' }],
    ['readings', { phase: 'after', reading: reading('idle', 730, 2.2, 29.8, 0.9) }],
    ['readings', { phase: 'after', reading: reading('hold-2500', 2510, 7.5, 30, 0.5) }],
  ]);
});

const SYSTEMS = {
  metric: { other: /\b(?:psi|inHg|lb\/min|mph|lbf·ft|fl oz)\b|°F|\d (?:mi|ft|gal)\b/g },
  us: { other: /\b(?:kPa|g\/s|km\/h|N·m|L\/100)\b|°C|\d ?(?:km|mm(?! \()|cm|mL)\b/g },
} as const;

/** All the page says: its words, its fields' names and labels; not the units a person may choose from. */
const SAID = `
  document.querySelectorAll('details').forEach((d) => { d.open = true; });
  const main = (document.querySelector('dialog[open]') ?? document.body).cloneNode(true);
  main.querySelectorAll('select, [data-any-unit], svg title').forEach((e) => e.remove());
  // What stands in two elements is two words: “82,000 km” before “Complaint” is no “kmComplaint”.
  main.querySelectorAll('*').forEach((e) => e.append(' '));
  const names = [...main.querySelectorAll('[aria-label], [placeholder], [title]')].flatMap((e) =>
    ['aria-label', 'placeholder', 'title'].map((name) => e.getAttribute(name)));
  return [main.textContent, ...names].filter(Boolean).join(' \\n ').replace(/\\s+/g, ' ');`;

const SCREENS: readonly (readonly [string, string, string?])[] = [
  ['/', 'Everyone'],
  ['/new', 'What you call it'],
  ['/practice?bays', 'Bay 2'],
  ['/calculators', 'Leak size'],
  ['/shop', 'Tools here'],
  ['complaint', 'What was touched last'],
  ['complaint', 'Put it right', 'Put it right'],
  ['complaint', 'Change the card', 'Change the card'],
  ['readings', 'Recordings'],
  ['readings', 'Recordings', 'Idle'],
  ['readings', 'Recordings', 'Enter by hand'],
  ['balance', 'In words'],
  ['balance', 'In words', 'What if'],
  ['balance', 'In words', 'All tests'],
  ['service', 'Pins'],
  ['prove', 'Before and after'],
  ['readiness', 'Monitors, read'],
  ['hand-over', 'Print'],
];

/** What the page says in figures of the other units, each with the words before it. */
async function foreign(system: keyof typeof SYSTEMS): Promise<string[]> {
  await browser.settle();
  const said = await browser.driver.executeScript<string>(SAID);
  return [...said.matchAll(SYSTEMS[system].other)].map((m) => said.slice(Math.max(0, m.index - 50), m.index + 20));
}

describe('no figure of the other units on any screen', () => {
  beforeAll(async () => {
    await browser.driver.executeScript("localStorage.setItem('jb-units', 'us')");
  });
  test.each(SCREENS.map((s) => [s.join(' '), s] as const))('%s', async (_, [path, text, press]) => {
    await browser.go(path.startsWith('/') ? path : `/jobs/${id}/${path}`);
    await browser.text(text);
    if (press) await browser.press(press);
    expect({ us: await foreign('us') }).toEqual({ us: [] });
    // The switch in the head of the page, with whatever stands open and typed: nothing is read anew.
    await browser.driver.executeScript('document.querySelector("[data-units]").click()');
    await browser.text('Metric');
    expect({ metric: await foreign('metric') }).toEqual({ metric: [] });
    await browser.driver.executeScript('document.querySelector("[data-units]").click()');
  });
});
