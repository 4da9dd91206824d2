import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { type Procedure, runState, SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { By, Key } from 'selenium-webdriver';
import sharp from 'sharp';
import { v7 as uuid } from 'uuid';
import {
  AGAIN,
  type App,
  type Browser,
  bodyText,
  expectAccessible,
  jobOf,
  LONG,
  newJob,
  openBrowser,
  openDemo,
  put,
} from './support/app.ts';

let app: App;
let browser: Browser;
const pictures = mkdtempSync(join(tmpdir(), 'jb-pictures-'));
const picture = join(pictures, 'element.jpg');
beforeAll(async () => {
  await sharp({ create: { width: 1600, height: 1200, channels: 3, background: '#765' } })
    .jpeg()
    .toFile(picture);
  ({ app, browser } = await openDemo());
});
afterAll(async () => {
  rmSync(pictures, { recursive: true, force: true });
});

const procedure = (id: string): Procedure => SHIPPED_PROCEDURES.find((p) => p.id === id)!;
const reading = (at: string, stft: number, ltft: number, mafGps: number) => ({
  phase: 'before',
  reading: { at, rpm: at === 'idle' ? 730 : 2500, mafGps, ectC: 90, trims: { bank1: { stft, ltft, sd: 0.6, n: 60 } } },
});
const job = () =>
  newJob(browser, {
    vehicle: { label: 'Tarn 2.0', fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4, banks: 1 },
    complaint: { symptoms: ['hesitation'] },
    ambient: { baroKPa: 99.6, airC: 17 },
  });
/** Events put into a run through the API: steps that a test stands on and is not about. */
async function happened(id: string, run: string, ...what: object[]) {
  const events = what.map((w, i) => ({ id: uuid(), atMs: Date.now() + i, what: w }));
  const made = await browser.post(`/jobs/${id}/runs/${run}/events`, { events });
  if (made.statusCode) throw new Error(JSON.stringify(made));
}
const done = (step: string, more: object = {}) => ({ kind: 'done', step, round: 0, ...more });
const stateOf = async (id: string) => {
  const run = (await jobOf(browser, id, 'runs')).runs.at(-1);
  return { run, state: runState(run.procedure, run.events) };
};
const at = async (id: string, step: string) =>
  browser.driver.wait(async () => (await stateOf(id)).state.current?.id === step, LONG, `run at ${step}`);
const choosePicture = async () => (await browser.find(By.css('main input[type="file"]'))).sendKeys(picture);
const until = (what: () => Promise<boolean>, words: string) => browser.driver.wait(what, LONG, words);

describe('an airflow sensor is cleaned', () => {
  let id: string;
  test('the judgement proposes it; steps, caution, picture, what comes off', async () => {
    id = await job();
    await put(browser, id, [
      ['readings', reading('idle', -1, -4, 3.6)],
      ['readings', reading('hold-2500', 2, 9, 11)],
      ['readings', reading('road-load', 3, 14, 22)],
      ['tests', { test: { id: 'maf-inspect', outcome: 'dirty' } }],
    ]);
    await browser.go(`/jobs/${id}/service`);
    await browser.text('Clean the airflow sensor');
    await browser.text('tamper-proof bit');
    await browser.press('Understood');
    await expectAccessible(browser, 'service plan');
    await browser.press('Begin', 'section[aria-label="Next step"] button');
    await browser.text('step 1 of');
    // Nothing before its caution.
    expect(await bodyText(browser)).not.toMatch(/still warm/);
    await browser.press('Understood');
    await browser.press('cool', 'fieldset button');
    await browser.text('how the sensor sits');
    await choosePicture();
    await at(id, 'unplug');
    await browser.press('Understood');
    await browser.text('Comes off: plug of the airflow sensor');
    await browser.press('It is off');
    await browser.press('bright and straight');
    await browser.fill('Screws, bolts, clips', '2');
    await browser.fill('where they are kept', 'both in the lid of the tray');
    await browser.press('It is off');
    await browser.text('Off the car: 2');
    await expectAccessible(browser, 'service step');
    const { state } = await stateOf(id);
    expect(state.off.at(-1)).toMatchObject({ count: 2, detail: 'both in the lid of the tray' });
    expect(state.results.get('sits')!.photo).toMatch(/^[\w-]{36}$/);
    const [photo] = (await jobOf(browser, id, 'photos')).photos;
    expect(photo).toMatchObject({ step: 'sits', width: 1600, height: 1200 });
  });

  test('space and arrows go on and back; the timer runs on over a reload, at another station, in another browser', async () => {
    const body = await browser.find(By.css('main h1'));
    await browser.text('Lay it on the clean cloth');
    await browser.driver.executeScript('document.activeElement.blur()');
    await (await browser.find(By.css('body'))).sendKeys(' ');
    await at(id, 'flow-side');
    await (await browser.find(By.css('body'))).sendKeys(Key.ARROW_LEFT);
    await at(id, 'lay');
    expect(await body.getText()).toMatch(/Lay it/);
    const run = (await stateOf(id)).run.id;
    await happened(
      id,
      run,
      done('lay', { round: 1 }),
      { kind: 'skipped', step: 'flow-side', round: 0, reason: 'no light' },
      { kind: 'skipped', step: 'lee-side', round: 0, reason: 'no light' },
      done('look', { answer: 'whole, with a film or fluff on it' }),
      done('before', { answer: 'no, or once' }),
      { kind: 'caution', caution: 'solvents-fuel', step: 'spray' },
      done('spray'),
      done('drain', { reason: 'run off' }),
      done('second', { answer: 'gone' }),
    );
    await browser.text('Let it dry in the air, 20 to 30 minutes');
    await browser.press('Start 25 min');
    await browser.text('24:5');
    await browser.driver.navigate().refresh();
    await browser.text('24:');
    await browser.go(`/jobs/${id}/balance`);
    await browser.text('24:');
    const other = await openBrowser(app.base);
    try {
      await other.size(390, 844);
      // A tablet whose clock is ten minutes behind.
      await other.devTools('Page.addScriptToEvaluateOnNewDocument', {
        source: 'const own = Date.now.bind(Date); Date.now = () => own() - 600000;',
      });
      await other.go('/');
      await other.press('R. Okafor');
      await other.text('Everyone');
      await other.text('clock is 10 minutes behind the shop’s');
      await other.go(`/jobs/${id}/service`);
      await other.text('24:');
      await expectAccessible(other, 'step on a phone', AGAIN);
      // Cut short there, with its reason: here too.
      await other.press('Cut it short');
      await other.fill('Why cut short', 'dry by the magnifier');
      await other.press('Keep it');
      await other.text('Where did the dirt come from?');
      // Shown before it has gone up: a browser closed on it would take it along.
      await until(async () => (await stateOf(id)).state.results.has('dry'), 'the end of the drying');
    } finally {
      await other.close();
    }
    await browser.go(`/jobs/${id}/service`);
    await browser.text('Where did the dirt come from?');
    expect((await stateOf(id)).state.results.get('dry')!.reason).toBe('dry by the magnifier');
  });

  test('refit in reverse with its picture; no end while something is off; where the dirt came from is asked once', async () => {
    const run = (await stateOf(id)).run.id;
    await happened(id, run, done('source', { answer: 'age and road dust' }), done('filter'), done('ring'));
    await browser.text('Push the sensor home');
    await browser.text('both in the lid of the tray');
    await browser.find(By.css('img[alt*="Take a picture"]'));
    await browser.press('It is back on', 'section[aria-label="Go on"] button');
    await browser.text('A generic figure');
    // 1.5 N·m: 1.1 lbf·ft, 13 lbf·in (NIST SP 811).
    expect(await bodyText(browser)).toMatch(/1\.1\s+lbf·ft[\s\S]*13\s+lbf·in/);
    await browser.press('Tight', 'section[aria-label="Go on"] button');
    await at(id, 'plug');
    await happened(
      id,
      run,
      { kind: 'skipped', step: 'plug', round: 0, reason: 'forgotten' },
      done('ducts'),
      done('count'),
    );
    await browser.text('Something is still off the car');
    const finish = await browser.find(By.xpath("//button[normalize-space(.)='Finish']"));
    expect(await finish.isEnabled()).toBe(false);
    await browser.press('It is back on');
    await browser.text('All steps are through');
    await browser.press('Tools, rags, caps', 'label');
    // Answered at its step; looked at again it was something else.
    await browser.text('Age and distance');
    expect(await finish.isEnabled()).toBe(true);
    await browser.press('Something else');
    await browser.press('Filter loaded', 'label');
    await browser.text('60 % of the chance');
    await expectAccessible(browser, 'end of a run');
    await browser.press('Finish');
    await browser.text('Reset or relearn');
    await until(async () => (await jobOf(browser, id, 'repairs')).repairs.length === 1, 'the repair');
    const j = await jobOf(browser, id);
    expect(j.repairs).toMatchObject([
      { text: 'Clean the airflow sensor. Source: filter loaded', adaptation: 'relearn' },
    ]);
    expect((await stateOf(id)).state).toMatchObject({
      status: 'ended',
      source: { source: 'filter-loaded', repaired: false },
    });
    await expectAccessible(browser, 'after the repair');
  });
});

describe('heard', () => {
  test('a timer that ends rings: a notification at another station; a step is read aloud where it is asked for', async () => {
    const other = await job();
    const run = uuid();
    await put(browser, other, [['runs', { id: run, procedure: procedure('airflow-sensor-clean') }]]);
    const seconds = procedure('airflow-sensor-clean').steps.find((s) => s.id === 'dry')!.seconds!;
    await browser.allowNotifications(app.base);
    await browser.go(`/jobs/${other}/complaint`);
    await browser.text('What was touched last');
    await browser.driver.executeScript(`
      window.heard = [];
      window.Notification = class extends Notification { constructor(t, o) { super(t, o); window.heard.push(t + ': ' + o.body); } };
      speechSynthesis.speak = (u) => window.heard.push(u.text);`);
    const began = Date.now() - seconds * 1000 + 4000;
    const started = { id: uuid(), atMs: began, what: { kind: 'timer', step: 'dry', round: 0 } };
    await browser.post(`/jobs/${other}/runs/${run}/events`, { events: [started] });
    const heard = () => browser.driver.executeScript<string[]>('return window.heard');
    await until(async () => (await heard()).length > 0, 'the notification');
    expect(await heard()).toEqual(['Time is up: Clean the airflow sensor']);
    await (await browser.find(By.css('body'))).sendKeys('4');
    await browser.press('Read steps aloud');
    await until(async () => (await heard()).length > 1, 'the spoken step');
    const first = procedure('airflow-sensor-clean').steps[0]!;
    expect((await heard()).at(-1)).toBe(first.spoken ?? first.text);
  });
});

describe('an oxygen sensor', () => {
  test('a stop rule turns the cleaning into a replacement, with what is off already off', async () => {
    const id = await job();
    const run = uuid();
    await put(browser, id, [['runs', { id: run, procedure: procedure('oxygen-sensor-remove-clean') }]]);
    await happened(
      id,
      run,
      { kind: 'skipped', step: 'live', round: 0, reason: 'on record' },
      done('which', { answer: 'yes, by the drawing' }),
      { kind: 'skipped', step: 'sits', round: 0, reason: 'on record' },
      done('stands'),
      done('unplug', { taken: { detail: 'clip broken' } }),
      done('out'),
      { kind: 'skipped', step: 'face', round: 0, reason: 'seen' },
    );
    await browser.go(`/jobs/${id}/service`);
    await browser.press('cracked or struck');
    await browser.text('Stop: it is cracked');
    await browser.press('Replace an oxygen sensor');
    await until(async () => (await jobOf(browser, id, 'runs')).runs.length === 2, 'the second run');
    await browser.text('Replace an oxygen sensor step 1 of');
    const { runs } = await jobOf(browser, id);
    expect(runs.map((r: { procedure: { id: string } }) => r.procedure.id)).toEqual([
      'oxygen-sensor-remove-clean',
      'oxygen-sensor-replace',
    ]);
    expect(runState(runs[0].procedure, runs[0].events)).toMatchObject({
      status: 'ended',
      stopped: { if: expect.stringMatching(/cracked/) },
    });
    const { state } = await stateOf(id);
    expect(state.off.map((o) => [o.item, o.detail])).toEqual([
      ['plug of the oxygen sensor', 'clip broken'],
      ['oxygen sensor', undefined],
    ]);
  });
});

describe('figures of the vehicle itself', () => {
  test('a throttle body against a limit that was entered, taught again, proven on its own channel', async () => {
    const id = await job();
    const idle = (phase: string, relativeThrottlePct: number) => ({
      phase,
      reading: { ...reading('idle', 1, 1, 3.4).reading, relativeThrottlePct },
    });
    await put(browser, id, [['readings', idle('before', 6.3)]]);
    await browser.go(`/jobs/${id}/service`);
    await browser.press('Parts and figures', '[role="tab"]');
    await browser.fill('What', 'Relative throttle at hot idle, at most');
    await browser.fill('Value', '3,4');
    await browser.fill('Unit', '%');
    await browser.press('Keep the figure');
    // Without a source no figure is kept.
    await browser.find(By.css('form [aria-invalid="true"]'));
    await browser.fill('Where it comes from', 'service manual of the car');
    await browser.press('Keep the figure');
    await browser.text('Relative throttle at hot idle, at most 3.4 % (service manual of the car)');
    await until(async () => (await jobOf(browser, id, 'entries')).entries.length === 1, 'the figure');
    const run = uuid();
    await put(browser, id, [['runs', { id: run, procedure: procedure('throttle-relearn') }]]);
    await happened(id, run, done('park'), done('tool'), done('key', { reason: 'on' }), done('start'));
    await browser.go(`/jobs/${id}/service`);
    await browser.fill('Coolant temperature', '93');
    await browser.text('within its limits');
    await browser.press('Keep it', 'section[aria-label="Go on"] button');
    await browser.text('Five minutes of idle');
    await happened(id, run, done('idle-5', { reason: 'idled by the clock on the wall' }));
    await happened(id, run, { kind: 'skipped', step: 'again', round: 0, reason: 'read by hand' });
    await browser.press('Tools, rags, caps', 'label');
    await browser.press('Finish');
    await put(browser, id, [
      ['repairs', { text: 'Throttle body cleaned', fault: 'throttle-fouled', adaptation: 'relearn' }],
      ['readings', idle('after', 2.7)],
    ]);
    await browser.go(`/jobs/${id}/prove`);
    await browser.text('Proven by the throttle');
    expect(await bodyText(browser)).toMatch(/relative throttle 6\.3 → 2\.7 %, at most 3\.4 %/);
    await expectAccessible(browser, 'verdict');
  });

  test('a blocked pressure port on the turbo diesel: proposed, cleaned, proven without trims', async () => {
    const id = await newJob(browser, {
      vehicle: {
        label: 'Tarn 2.2 D',
        fuel: 'diesel',
        metering: 'both',
        induction: 'turbo',
        injection: 'direct',
        displacementL: 2.2,
        cylinders: 4,
        banks: 1,
      },
      complaint: { symptoms: ['low-power', 'limp-mode'] },
      ambient: { baroKPa: 99.6, airC: 17 },
    });
    const boost = (phase: string, mapKPa: number) => ({
      phase,
      reading: { at: 'boost', rpm: 2600, mafGps: 62, mapKPa, ectC: 88 },
    });
    await put(browser, id, [
      ['readings', boost('before', 121)],
      ['tests', { test: { id: 'map-port-probe', outcome: 'blocked' } }],
    ]);
    await browser.go(`/jobs/${id}/service`);
    await browser.text('Clean the boost sensor of a diesel');
    const text = await bodyText(browser);
    expect(text).not.toMatch(/Clean the manifold pressure sensor/);
    const run = uuid();
    const steps = procedure('boost-sensor-diesel').steps;
    await put(browser, id, [['runs', { id: run, procedure: procedure('boost-sensor-diesel') }]]);
    await happened(
      id,
      run,
      ...steps.map((s) =>
        ['photo', 'read'].includes(s.kind)
          ? { kind: 'skipped', step: s.id, round: 0, reason: 'on record' }
          : done(s.id, { answer: s.answers?.[0]?.text, ...(s.kind === 'timer' ? { reason: 'dry' } : {}) }),
      ),
    );
    await browser.go(`/jobs/${id}/service`);
    await browser.text('All steps are through');
    await browser.press('Tools, rags, caps', 'label');
    // Answered at its step.
    await browser.text('Soot from exhaust recirculation');
    await browser.press('Finish');
    await until(async () => (await jobOf(browser, id, 'repairs')).repairs.length === 1, 'the repair');
    await put(browser, id, [['readings', boost('after', 196)]]);
    await browser.go(`/jobs/${id}/prove`);
    await browser.text('121.0 → 196.0 kPa');
    expect(await bodyText(browser)).not.toMatch(/Total trim, %/);
    await browser.go(`/jobs/${id}/hand-over`);
    await browser.text('where the dirt came from has not been mended yet');
  });
});

describe('reset', () => {
  test('clearing says what is lost, reads again what is left, and shows that the memory went with it', async () => {
    const bay = (command: string) => browser.post('/bays/1', { command });
    await bay('warm');
    await bay('settle');
    const { vehicle } = (await browser.json('/api/bays'))[0];
    const id = await newJob(browser, { vehicle, complaint: { symptoms: ['rough-idle'] }, adapter: 'sim:1' });
    await put(browser, id, [['records', { phase: 'before' }]]);
    await bay('koeo');
    await until(async () => (await browser.json('/api/bays'))[0].rpm === 0, 'the engine stands');
    await browser.go(`/jobs/${id}/service`);
    await browser.press('Understood');
    await browser.press('After the repair', '[role="tab"]');
    await browser.text('readings with their trims not on record');
    await put(browser, id, [['readings', reading('idle', 2, 12, 2)]]);
    await browser.driver.navigate().refresh();
    await browser.press('After the repair', '[role="tab"]');
    await browser.text('every monitor that is complete');
    await browser.press('Understood. Key on', 'label');
    await browser.press('Clear now');
    await browser.text('Cleared:');
    await browser.text('The adaptations went with the codes.');
    const { entries, records } = await jobOf(browser, id);
    expect(entries[0].data.after).toEqual([{ bank: 1, longPct: 0 }]);
    expect(records.map((r: { phase: string }) => r.phase)).toEqual(['before', 'before', 'after']);
    await bay('idle');
  });
});

describe('parked, killed, offline', () => {
  test('half done is said on the board; steps and a picture wait while the server is dead; all of it is there afterwards', async () => {
    const parked = await job();
    const first = uuid();
    await put(browser, parked, [['runs', { id: first, procedure: procedure('crankcase-valve-and-hose') }]]);
    await happened(parked, first, { kind: 'skipped', step: 'route', round: 0, reason: 'seen' }, done('off'));
    await browser.go(`/jobs/${parked}/service`);
    await browser.press('More: skip');
    await browser.press('Park it', 'details button');
    await browser.fill('What it waits for', 'part not in stock');
    await browser.press('grommet of the valve', 'label');
    await browser.press('Park it', 'form button');
    await browser.text('Parked: part not in stock');
    await expectAccessible(browser, 'parked');

    const id = await job();
    const run = uuid();
    await put(browser, id, [['runs', { id: run, procedure: procedure('ducts-and-filter') }]]);
    await happened(id, run, { kind: 'caution', caution: 'hot-parts', step: 'off' }, done('off'));
    await browser.go(`/jobs/${id}/service`);
    await browser.text('The filter?');
    await app.stop('SIGKILL');
    await browser.press('loaded: replaced');
    await browser.text('Picture of the filter');
    await choosePicture();
    await browser.text('Bend every duct');
    await browser.press('Pictures', 'main button');
    // Shown from this device.
    const shown = await browser.find(By.css('section[aria-label="Pictures"] img'));
    expect(await shown.getAttribute('src')).toMatch(/^data:image\/jpeg/);
    await app.start();
    await until(async () => (await jobOf(browser, id, 'photos')).photos.length === 1, 'the picture went up');
    await until(async () => (await stateOf(id)).state.way.includes('filter-picture'), 'the steps went up');
    const { state } = await stateOf(id);
    expect([state.current!.id, state.results.get('filter-picture')!.photo]).toEqual([
      'duct',
      (await jobOf(browser, id, 'photos')).photos[0].id,
    ]);

    await browser.go('/');
    await browser.text('parked · 1 off · order 1');
    await browser.go(`/jobs/${parked}`);
    await browser.text('Parked: part not in stock');
    expect(await bodyText(browser)).toMatch(/crankcase hose and valve[\s\S]*grommet of the valve/);
    await browser.press('Go on');
    await browser.text('What is wrong with it?');
  });
});
