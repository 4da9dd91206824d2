import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { runState, SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { By } from 'selenium-webdriver';
import { v7 as uuid } from 'uuid';
import { type App, type Browser, bodyText, jobOf, LONG, newJob, openBrowser, openDemo, put } from './support/app.ts';
import { type Network, network } from './support/proxy.ts';

/*
 * Two people, each with a tablet and a network of their own, on one job: what neither must lose (docs/promises.md). Their
 * clocks, roles and the order of arrival are tested where they are decided; here it is walked.
 */
let app: App;
let a: Browser;
let b: Browser;
let nets: [Network, Network];

const vehicle = { label: 'Tarn 1.6', fuel: 'petrol', metering: 'maf', displacementL: 1.6, cylinders: 4, banks: 1 };
const complaint = { symptoms: ['rough-idle'], story: 'Shakes at the lights.' };
const procedure = SHIPPED_PROCEDURES.find((p) => p.id === 'airflow-sensor-clean')!;

beforeAll(async () => {
  ({ app } = await openDemo());
  nets = [await network(app.base), await network(app.base)];
  [a, b] = [await openBrowser(nets[0].base), await openBrowser(nets[1].base)];
  for (const [tablet, name] of [
    [a, 'R. Okafor'],
    [b, 'M. Duarte'],
  ] as const) {
    await tablet.size(1280, 800);
    await tablet.go('/');
    await tablet.press(name);
    await tablet.text('Everyone');
  }
});
afterAll(async () => {
  for (const tablet of [a, b]) await tablet?.close();
  for (const net of nets ?? []) await net.close();
});

const until = (there: () => Promise<boolean>, what: string) => a.driver.wait(there, LONG, what);
const says = (tablet: Browser, what: RegExp) => async () => what.test(await bodyText(tablet));
const both = async (path: string) => {
  for (const tablet of [a, b]) await tablet.go(path);
};
const car = (more: object = {}) => newJob(a, { vehicle: { ...vehicle, ...more }, complaint, ambient: { baroKPa: 98 } });
const event = (what: object, atMs = Date.now()) => ({ id: uuid(), atMs, what });

/** A work begun and standing at the look into the plug. */
async function atThePins(): Promise<{ job: string; run: string }> {
  const job = await car();
  const run = uuid();
  await put(a, job, [['runs', { id: run, procedure }]]);
  const way = procedure.steps.slice(
    0,
    procedure.steps.findIndex((s) => s.id === 'pins'),
  );
  const cautions = [...new Set(procedure.steps.flatMap((s) => s.caution ?? []))];
  await a.post(`/jobs/${job}/runs/${run}/events`, {
    events: [
      ...cautions.map((caution) => event({ kind: 'caution', caution, step: 'pins' })),
      ...way.map((s) =>
        event({ kind: 'done', step: s.id, round: 0, ...(s.answers ? { answer: s.answers[0]!.text } : {}) }),
      ),
    ],
  });
  return { job, run };
}
const stateOf = async (tablet: Browser, job: string) => {
  const { runs } = await jobOf(tablet, job, 'runs');
  return runState(runs[0].procedure, runs[0].events);
};

describe('two tablets', () => {
  test('1. a card opened earlier overwrites nothing: who changed nothing sends nothing', async () => {
    const job = await car();
    await both(`/jobs/${job}/complaint`);
    for (const tablet of [a, b]) await tablet.press('Change the card');
    await a.fill('Displacement', '3.0');
    await a.press('Keep', 'form button[type=submit]');
    await until(async () => (await jobOf(a, job, 'records')).vehicle.displacementL === 3, 'A’s card is kept');
    await b.text('Displacement');
    await b.press('Keep', 'form button[type=submit]');
    await until(async () => !(await says(b, /Cancel/)()), 'B’s card is closed');
    expect((await jobOf(b, job, 'records')).vehicle.displacementL).toBe(3);
  });

  test('2. both offline, two answers to one step: the stop holds, both are shown to both, one of them is put right', async () => {
    const { job } = await atThePins();
    await both(`/jobs/${job}/service`);
    for (const tablet of [a, b]) await tablet.text('Look into the plug');
    for (const net of nets) net.cut();
    await a.press('bright and straight');
    await b.press('green, black or burnt');
    for (const net of nets) net.through();
    for (const tablet of [a, b]) await until(says(tablet, /Two answers to one step/), 'both are shown');
    const state = await stateOf(a, job);
    expect([state.disputes.length, state.stopped !== null]).toEqual([1, true]);
    for (const name of ['R. Okafor', 'M. Duarte']) expect(await bodyText(b)).toContain(name);
    await a.press('“bright and straight” is right', 'section[aria-label="Two answers to one step"] button');
    await a.fill('Why', 'looked again with a lamp');
    await a.press('Say so', 'section[aria-label="Two answers to one step"] button[type=submit]');
    await until(async () => (await stateOf(b, job)).disputes.length === 0, 'it is settled');
    await until(async () => !(await says(b, /Two answers to one step/)()), 'B sees that it is');
  });

  test('3. a clock ten minutes behind: said, a wait ends at the same moment on both, “Go on” goes on', async () => {
    const { job, run } = await atThePins();
    const clock = await b.devTools('Page.addScriptToEvaluateOnNewDocument', {
      source: 'const own = Date.now.bind(Date); Date.now = () => own() - 600000;',
    });
    const at = (id: string) => procedure.steps.findIndex((s) => s.id === id);
    const wait = procedure.steps[at('drain')]!;
    const before = procedure.steps.slice(at('pins'), at('drain'));
    await a.post(`/jobs/${job}/runs/${run}/events`, {
      events: [
        ...before.map((s) =>
          event({ kind: 'done', step: s.id, round: 0, ...(s.answers ? { answer: s.answers[0]!.text } : {}) }),
        ),
        event({ kind: 'timer', step: wait.id, round: 0 }),
      ],
    });
    await both(`/jobs/${job}/service`);
    await b.text('clock is 10 minutes behind the shop’s');
    /** Seconds left as a screen shows them. */
    const left = async (tablet: Browser) => {
      const [, m, s] = /(\d+):(\d\d)/.exec(await (await tablet.find(By.css('.radial-progress'))).getText())!;
      return Number(m) * 60 + Number(s);
    };
    expect(Math.abs((await left(a)) - (await left(b)))).toBeLessThanOrEqual(3);
    await b.press('More: skip');
    await b.press('Park it', 'details button');
    await b.fill('What it waits for', 'rain');
    await b.press('Park it', 'form button');
    await b.text('Parked: rain');
    await b.press('Go on');
    await until(async () => (await stateOf(a, job)).status === 'running', 'it goes on');
    await b.devTools('Page.removeScriptToEvaluateOnNewDocument', clock as object);
  });

  test('4. two copy one of our procedures: each is one of its own, none takes another’s place', async () => {
    await both('/shop');
    for (const tablet of [a, b]) await tablet.press(`Copy: ${procedure.title}`, 'button[aria-label]');
    for (const tablet of [a, b]) await tablet.text('Keep the procedure');
    await a.press('Keep the procedure');
    const own = async () =>
      ((await a.json('/api/procedures')) as { by: string; procedure: { id: string } }[]).map(
        (p) => `${p.procedure.id} ${p.by}`,
      );
    await until(async () => (await own()).length === 1, 'the first copy');
    await b.press('Keep the procedure');
    await b.text('already');
    expect(await own()).toEqual([expect.stringMatching(/R\. Okafor$/)]);
    await b.press('Mine under an id of its own');
    await b.press('Keep the procedure');
    await until(async () => (await own()).length === 2, 'the second copy');
    expect((await own()).sort()).toEqual([
      expect.stringMatching(/Duarte|Okafor/),
      expect.stringMatching(/Duarte|Okafor/),
    ]);
  });

  test('5. a frozen network: the press is kept at once and said to wait, the banner comes, nothing is lost', async () => {
    const { job } = await atThePins();
    await b.go(`/jobs/${job}/service`);
    await b.text('Look into the plug');
    nets[1].freeze();
    await b.press('bright and straight');
    // The next step is there before anything has answered.
    await b.text('Undo its two small screws');
    await until(says(b, /waits? on this device/), 'it is said to wait');
    await until(says(b, /The server does not answer/), 'the banner');
    expect((await stateOf(a, job)).current!.id).toBe('pins');
    nets[1].through();
    await until(async () => (await stateOf(a, job)).results.get('pins')?.by === 'M. Duarte', 'it went up');
    await until(async () => !(await says(b, /The server does not answer/)()), 'the banner goes');
  });

  test('5. a session ended elsewhere asks for sign-in at once; what was typed is there again', async () => {
    const job = await car();
    await b.go(`/jobs/${job}/complaint`);
    await b.press('Enter by hand');
    await b.fill('Stored codes', 'P0171');
    const people = await a.json('/api/people');
    const duarte = people.find((p: { name: string }) => p.name === 'M. Duarte').id;
    await a.driver.executeAsyncScript(
      "const [id, done] = arguments; fetch('/api/people/' + id + '/sessions', { method: 'DELETE' }).then((r) => done(r.status))",
      duarte,
    );
    await b.text('Sign in as');
    await b.press('M. Duarte');
    await until(async () => !(await says(b, /Sign in as/)()), 'B is signed in');
    const box = await b.find(By.xpath("//label[contains(., 'Stored codes')]//*[self::input or self::textarea]"));
    await until(async () => (await box.getAttribute('value')) === 'P0171', 'what was typed');
  });

  test('6. who is at which step; gone when the tablet is away; taken over, and said so', async () => {
    const { job } = await atThePins();
    await both(`/jobs/${job}/service`);
    await until(says(a, /M\. Duarte is at this work: Look into the plug/), 'B is seen at the step');
    nets[1].cut();
    await until(async () => !(await says(a, /M\. Duarte is at this work/)()), 'B is gone');
    nets[1].through();
    await until(says(a, /M\. Duarte is at this work/), 'B is back');
    await a.press('Take over');
    await until(says(b, /R\. Okafor took this work over at \d\d:\d\d/), 'B is told');
    await until(async () => (await jobOf(b, job, 'records')).hands === 'R. Okafor', 'the board says whose hands');
  });

  test('7. what is half typed survives what the other does', async () => {
    const { job } = await atThePins();
    await both(`/jobs/${job}/service`);
    await b.press('More: skip');
    await b.press('Something broke or fell');
    await b.fill('What', 'a clip of the du');
    await a.press('bright and straight');
    await until(says(b, /Undo its two small screws/), 'B is at the next step');
    const typed = await b.find(By.css('form input, form textarea'));
    expect(await typed.getAttribute('value')).toBe('a clip of the du');
  });

  test('8. who may only look is shown the job and nothing to press in it', async () => {
    const { job } = await atThePins();
    const id = uuid();
    await a.post('/people', { id, name: 'L. Okonski', email: `${id}@linden.example`, role: 'read-only' });
    const { token } = await a.post(`/people/${id}/link`, {});
    await b.go(`/welcome#${token}`);
    await b.fill('Password', 'a long password of theirs');
    await b.press('Set it and sign in');
    await b.text('L. Okonski');
    for (const station of ['complaint', 'readings', 'balance', 'service', 'readiness', 'hand-over']) {
      await b.go(`/jobs/${job}/${station}`);
      await b.text('Your account looks at this job');
      await b.settle();
      const left = await b.driver.executeScript<string[]>(
        "return [...document.querySelectorAll('main button:enabled')].map((b) => b.innerText.trim()).filter((t) => /^(Keep|Start|Read|Begin|Enter|Understood|Change|Close|Skip|Park|Clear|Undo|Put|Add|Import|Done)\\b/.test(t))",
      );
      expect([station, left]).toEqual([station, []]);
    }
  });
});
