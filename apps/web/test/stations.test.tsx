import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { JobListItem, JobView } from '@just-balance/contract';
import { CALCULATORS } from '@just-balance/core/calculators';
import { SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { INSPECTION_RULES } from '@just-balance/core/readiness';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { CalculatorCard } from '../src/calculators/CalculatorCard.tsx';
import type { JobLive } from '../src/data/live.tsx';
import { outbox } from '../src/data/queue.ts';
import { Damaged } from '../src/job/record/Damaged.tsx';
import { Board } from '../src/pages/board/Board.tsx';
import { Converter } from '../src/pages/calculators/Converter.tsx';
import { SignIn } from '../src/pages/signIn/SignIn.tsx';
import { Story } from '../src/stations/complaint/Story.tsx';
import { HandOverStation } from '../src/stations/handOver/HandOverStation.tsx';
import { ReadinessStation } from '../src/stations/readiness/ReadinessStation.tsx';
import { AT, EMPTY_JOB, LEAD, open, openSignedIn, refused, SIGNED_IN, said, server } from './page.tsx';

beforeEach(async () => {
  localStorage.clear();
  await outbox.useAccount('a1');
});
afterEach(cleanup);

/** Weighing is done in a worker; here it never comes back. */
class Silent {
  addEventListener() {}
  removeEventListener() {}
  postMessage() {}
  terminate() {}
}
Object.assign(globalThis, { Worker: Silent });

const live = { values: {}, traces: new Map(), link: null, capture: null } as unknown as JobLive;
const JOB = {
  ...EMPTY_JOB,
  rev: 3,
  status: 'open',
  openedAt: '2026-05-04T08:00:00Z',
  openedBy: 'A. Lund',
  vehicle: {
    id: 'v1',
    label: 'Marl 2.0',
    year: 2012,
    fuel: 'petrol',
    metering: 'maf',
    displacementL: 2,
    cylinders: 4,
    banks: 1,
  },
  complaint: { story: 'Lamp came on', symptoms: ['lamp-only'], recentWork: [] },
  adapter: 'sim:1',
} as unknown as JobView;
const row = (name: RegExp | string) => within(screen.getByRole('row', { name }));
const record = (states: Record<string, string>, more: object = {}) => ({
  freezeFrame: [],
  codes: [],
  lampOn: false,
  at: '2026-05-04T09:30:00Z',
  cycle: null,
  tests: [],
  counters: { runTimeS: 420, lampDistanceKm: null, lampMinutes: null, minutesSinceClear: 50 },
  warmupsSinceClear: 3,
  distanceSinceClearKm: 41,
  monitors: {
    lampOn: false,
    codeCount: 0,
    ignition: 'spark',
    monitors: Object.entries(states).map(([id, state]) => ({ id, state })),
  },
  ...more,
});

describe('Readiness', () => {
  test('the rule that holds where the shop stands is asked first, and marked', async () => {
    const records = [record({ fuelSystem: 'complete', catalyst: 'incomplete' })];
    const shop = { ...LEAD.shop, settings: { place: { rule: INSPECTION_RULES.at(-1)!.id } } };
    server({ ...SIGNED_IN, 'GET /session': { body: { account: { ...LEAD, shop }, setupNeeded: false, demo: null } } });
    await openSignedIn(<ReadinessStation job={{ ...JOB, records } as unknown as JobView} live={live} />);
    const badge = await screen.findByText('holds here');
    expect(badge.parentElement!.textContent).toContain(INSPECTION_RULES.at(-1)!.title);
    const section = screen.getByLabelText('Inspection').textContent!;
    const [first, last] = [INSPECTION_RULES.at(-1)!, INSPECTION_RULES[0]!].map((r) => section.indexOf(r.title));
    expect(first).toBeLessThan(last!);
  });
  test('what is open is named; each rule answers by itself, with its date and source', () => {
    const records = [
      record({ fuelSystem: 'complete', catalyst: 'incomplete', evap: 'incomplete', secondaryAir: 'unsupported' }),
    ];
    open(<ReadinessStation job={{ ...JOB, records } as unknown as JobView} live={live} />);
    expect(screen.getByText('Still open: Catalyst, EVAP')).toBeTruthy();
    expect(row(/^Catalyst/).getByText('○ open')).toBeTruthy();
    expect(row(/^Fuel system/).getByText(/the trims prove the mixture, not this/)).toBeTruthy();
    expect(screen.getByText('Not on this car: Secondary air.')).toBeTruthy();
    // US EPA guidance (from memory): model years 2001 on may have one open; here are two.
    const rules = screen.getByText('US federal guidance').closest('div')!.parentElement!;
    expect(within(rules).getByText('refuses it')).toBeTruthy();
    expect(rules.textContent).toMatch(/2 monitors open; 1 at most may be\..*as of 2001-04\. Source: 40 CFR 85\.2222/);
    expect(screen.getByLabelText('Inspection').textContent).toMatch(
      /Everything complete\?no.*Ask your local programme/,
    );
    expect(screen.getByText('Cleared not long ago')).toBeTruthy();
    expect(document.body.textContent).toMatch(
      /3 warm-ups since; 41 km since; 50 minutes of running since; 2 monitors open/,
    );
    expect(document.body.textContent).toMatch(/Buyer: Open monitors mean erased codes until shown otherwise/);
  });
  test('margins of the on-board tests, the monitor that proves the repair, what ran in this drive', () => {
    const tests = [
      // SAE J1979 appendix (from memory): 21 is the catalyst of bank 1.
      {
        monitor: 0x21,
        test: 0x80,
        label: 'Catalyst, bank 1: test 80',
        unit: '',
        value: 0.155,
        low: 0,
        high: 0.25,
        passed: true,
        sparePct: 38,
      },
      {
        monitor: 0x3c,
        test: 0x80,
        label: 'EVAP, 0.5 mm: test 80',
        unit: 'Pa',
        value: 331,
        low: 0,
        high: 300,
        passed: false,
        sparePct: -10,
      },
    ];
    const read = record(
      { catalyst: 'complete', evap: 'complete', misfire: 'complete' },
      {
        tests,
        cycle: {
          lampOn: false,
          codeCount: 0,
          ignition: 'spark',
          monitors: [
            { id: 'catalyst', state: 'complete' },
            { id: 'evap', state: 'incomplete' },
          ],
        },
        codes: [{ code: 'P0420', state: 'stored', text: null }],
        phase: 'before',
      },
    );
    open(<ReadinessStation job={{ ...JOB, records: [read] } as unknown as JobView} live={live} />);
    expect(row(/^Catalyst/).getByText('passed with 38 % to spare')).toBeTruthy();
    expect(row(/^Catalyst/).getByText('proves this repair')).toBeTruthy();
    expect(row(/^Catalyst/).getByText('ran')).toBeTruthy();
    expect(row(/^EVAP/).getByText('past its limit by 10 %')).toBeTruthy();
    expect(row(/^EVAP/).getByText('not yet')).toBeTruthy();
  });
  test('all complete leads on; no record asks for one, and cannot be read without an adapter', async () => {
    const done = [
      record({ catalyst: 'complete', evap: 'complete' }, { warmupsSinceClear: 60, distanceSinceClearKm: 900 }),
    ];
    open(<ReadinessStation job={{ ...JOB, records: done } as unknown as JobView} live={live} />);
    expect(screen.getByText('All supported monitors are complete')).toBeTruthy();
    expect(screen.queryByText('Cleared not long ago')).toBeNull();
    cleanup();
    open(<ReadinessStation job={{ ...JOB, adapter: null } as unknown as JobView} live={live} />);
    expect((screen.getByRole('button', { name: 'Read the monitors' }) as HTMLButtonElement).disabled).toBe(true);
  });
  test('a vehicle that does not answer is said in its words', async () => {
    server({ 'POST /jobs/j1/records': refused(504, 'The vehicle does not answer: key on?') });
    const { person } = open(<ReadinessStation job={JOB} live={live} />);
    await person.click(screen.getByRole('button', { name: 'Read the monitors' }));
    expect(await screen.findByText(/The vehicle does not answer: key on\?/)).toBeTruthy();
  });
});

describe('Hand-over', () => {
  test('complaint, tests, repairs, what stays open; what a run left behind is told', async () => {
    server(SIGNED_IN);
    const procedure = SHIPPED_PROCEDURES.find((p) => p.id === 'airflow-sensor-clean')!;
    const what = [
      { kind: 'skipped', step: 'cold', round: 0, reason: 'no time' },
      { kind: 'source', source: 'crankcase-oil', repaired: false },
    ];
    const job = {
      ...JOB,
      records: [record({ evap: 'incomplete' }, { codes: [{ code: 'P0171', state: 'pending' }] })],
      tests: [
        { id: 't1', undone: false, at: '2026-05-04T08:30:00Z', by: 'x', test: { id: 'pinch-pcv', outcome: 'changes' } },
        { id: 't2', undone: true, at: '2026-05-04T08:31:00Z', by: 'x', test: { id: 'fuel-pressure', outcome: 'ok' } },
      ],
      repairs: [
        {
          id: 'r1',
          undone: false,
          text: 'Hose renewed',
          fault: null,
          part: 'JB-77',
          phase: 'after',
          at: '2026-05-04T09:00:00Z',
        },
      ],
      runs: [
        {
          id: 'run1',
          at: '2026-05-04T08:40:00Z',
          by: 'x',
          procedure,
          events: what.map((w, i) => ({ id: `e${i}`, atMs: i, by: 'x', what: w })),
        },
      ],
    } as unknown as JobView;
    const { person } = await openSignedIn(<HandOverStation job={job} live={live} />);
    const plain = (await screen.findByRole('article', { name: 'What we found and did' })).textContent!;
    expect(plain).toMatch(/Linden Yard/);
    expect(plain).toMatch(/Lamp came on/);
    expect(plain).toMatch(/Hose renewed/);
    expect(plain).toMatch(/where the dirt came from has not been mended yet/);
    expect(plain).toMatch(/What has been measured and tested so far does not tell a cause/);
    await person.click(screen.getByRole('tab', { name: 'For the next technician' }));
    const page = (await screen.findByRole('article', { name: /Job record/ })).textContent!;
    expect(page).toMatch(/Hose renewed, JB-77/);
    expect(page).toMatch(/P0171 pending.*EVAP/);
    expect(page).toMatch(/is not finished/);
    expect(page).toMatch(/1 step left out \(no time\)/);
    expect(page).toMatch(/where the dirt came from is not repaired/);
    expect(page).not.toMatch(/Fuel pressure/);
    expect(page).toMatch(/Not weighed/);
  });
  test('a part condemned by a look stays said until it is replaced', async () => {
    server(SIGNED_IN);
    const output = {
      mixture: 'balanced',
      banks: [],
      causes: [],
      warnings: [],
      condemned: ['maf-damaged'],
      pairs: [],
      alsoPresent: [],
      nextTests: [],
      cannotTellApart: [],
    };
    const job = { ...JOB, diagnoses: [{ id: 'd1', output }] } as unknown as JobView;
    await openSignedIn(<HandOverStation job={job} live={live} />);
    const page = (await screen.findByRole('article', { name: 'What we found and did' })).textContent!;
    expect(page).toMatch(/found damaged and is still fitted: airflow sensor damaged/);
  });
  test('own words are kept with what they were written in place of', async () => {
    const asked = server({ ...SIGNED_IN, 'POST /jobs/j1/entries': { status: 201, body: {} } });
    const { person } = await openSignedIn(<HandOverStation job={JOB} live={live} />);
    await person.click(await screen.findByRole('button', { name: 'Change the words: What is still open' }));
    const box = screen.getByRole('textbox', { name: 'What is still open' }) as HTMLTextAreaElement;
    expect(box.value).toBe('Nothing that we know of.');
    await person.clear(box);
    await person.type(box, 'All is well.');
    await person.click(screen.getByRole('button', { name: 'Keep these words' }));
    await waitFor(() => expect(asked.some((a) => a.method === 'POST' && a.path === '/jobs/j1/entries')).toBe(true));
    expect(asked.find((a) => a.path === '/jobs/j1/entries')!.body).toMatchObject({
      kind: 'wording',
      data: { document: 'customer', section: 'open', text: 'All is well.', was: 'Nothing that we know of.' },
    });
  });
  test('worded by two out of sight of each other: both stand there, and one of them is chosen', async () => {
    const worded = (id: string, by: string, text: string) => ({
      ...{ id, rev: 1, at: '2026-05-04T10:00:00Z', by, undone: false, kind: 'wording' },
      data: { document: 'customer', section: 'open', text, was: 'Nothing that we know of.', over: [] },
    });
    const entries = [worded('e1', 'B. Ortiz', 'Brakes soon.'), worded('e2', 'I. Sato', 'Tyres soon.')];
    const asked = server({
      ...SIGNED_IN,
      'POST /jobs/j1/entries': (a) => ({ body: { ...entries[0]!, id: a.body.id, data: a.body.data } }),
    });
    const job = { ...JOB, entries } as unknown as JobView;
    const { person } = await openSignedIn(<HandOverStation job={job} live={live} />);
    const two = within(await screen.findByRole('alert', { name: /^Two wordings/ }));
    expect(two.getByText(/What I\. Sato wrote stands/)).toBeTruthy();
    expect(two.getByText('Brakes soon.')).toBeTruthy();
    await person.click(two.getByRole('button', { name: 'Take what B. Ortiz wrote' }));
    await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
    expect(asked.find((a) => a.method === 'POST')!.body.data).toMatchObject({
      ...{ text: 'Brakes soon.', section: 'open', over: ['e2', 'e1'] },
    });
  });
  test('the paper is what is usual where those units are, until it is chosen on this tablet', async () => {
    server(SIGNED_IN);
    const paper = async () => {
      const { person } = await openSignedIn(<HandOverStation job={JOB} live={live} />);
      const link = (await screen.findByRole('link', { name: 'PDF' })) as HTMLAnchorElement;
      return { person, size: () => new URL(link.href).searchParams.get('paper') };
    };
    expect((await paper()).size()).toBe('A4');
    cleanup();
    localStorage.setItem('jb-units', 'us');
    const us = await paper();
    expect(us.size()).toBe('LETTER');
    await us.person.click(screen.getByRole('button', { name: 'A4' }));
    expect([us.size(), screen.getByRole('button', { name: 'A4' }).getAttribute('aria-pressed')]).toEqual([
      'A4',
      'true',
    ]);
    cleanup();
    expect((await paper()).size()).toBe('A4');
    localStorage.removeItem('jb-units');
    localStorage.removeItem('jb-paper');
  });
  test('what could embarrass stands beside the sheet, and not on it; words are pressed to be put in one’s own', async () => {
    server(SIGNED_IN);
    const part = { name: 'hose', make: 'original', oldKept: false };
    const repairs = [
      { id: 'r', rev: 1, at: '2026-05-04T09:00:00Z', by: 'x', undone: false, text: 'Hose', fault: null },
    ];
    const entries = [{ id: 'p', rev: 1, kind: 'part', at: '2026-05-04T09:00:00Z', by: 'x', undone: false, data: part }];
    const vehicle = { ...JOB.vehicle, plate: 'KL 44' };
    const job = { ...JOB, vehicle, repairs, entries } as unknown as JobView;
    const { person } = await openSignedIn(<HandOverStation job={job} live={live} />);
    const margin = await screen.findByRole('region', { name: 'Before it goes out' });
    expect(margin.textContent).toMatch(/Not provenNothing was read after the repair\..*A part has no numberhose\./);
    expect(margin.className).toMatch(/no-print/);
    const sheet = screen.getByRole('article');
    expect(sheet.textContent).toMatch(/^Linden Yard/);
    expect(sheet.textContent).toMatch(/Plate KL 44/);
    expect(sheet.textContent).not.toMatch(/has no number/);
    await person.click(within(sheet).getByText(/^New part: hose/));
    expect(within(sheet).getByRole('textbox', { name: 'What we did' })).toBeTruthy();
  });
  test('the paper is sent by the sheet of the system; where there is none it is taken, and a mail begun', async () => {
    const pdf = { body: new Uint8Array([37]) };
    const path = 'hand-over/customer?units=metric&zone=UTC&paper=A4';
    const asked = server({ ...SIGNED_IN, [`GET /jobs/j1/${path}`]: pdf });
    const pressed: string[] = [];
    const click = HTMLAnchorElement.prototype.click;
    HTMLAnchorElement.prototype.click = function (this: HTMLAnchorElement) {
      pressed.push(`${this.download} ${this.href.replace(/^blob:.*/, 'blob')}`);
    };
    const shared: ShareData[] = [];
    const nav = navigator as unknown as Record<string, unknown>;
    URL.createObjectURL = () => 'blob:x';
    URL.revokeObjectURL = () => {};
    try {
      const { person } = await openSignedIn(<HandOverStation job={JOB} live={live} />);
      await person.click(await screen.findByRole('button', { name: 'Send' }));
      await waitFor(() => expect(pressed).toHaveLength(2));
      expect(pressed[0]).toBe(`${JOB.vehicle.label}.pdf blob`);
      expect(pressed[1]).toMatch(/^ mailto:\?subject=What%20we%20found%20and%20did/);
      nav.canShare = () => true;
      nav.share = async (data: ShareData) => void shared.push(data);
      await person.click(screen.getByRole('button', { name: 'Send' }));
      await waitFor(() => expect(shared).toHaveLength(1));
      expect(shared[0]!.files![0]!.name).toBe(`${JOB.vehicle.label}.pdf`);
      expect(pressed).toHaveLength(2);
      expect(asked.filter((a) => a.path.includes('hand-over'))).toHaveLength(2);
      cleanup();
      server({ ...SIGNED_IN, [`GET /jobs/j1/${path}`]: 'away' });
      const away = await openSignedIn(<HandOverStation job={JOB} live={live} />);
      await away.person.click(await screen.findByRole('button', { name: 'Send' }));
      expect(await screen.findByText(/The server does not answer/)).toBeTruthy();
    } finally {
      HTMLAnchorElement.prototype.click = click;
      delete nav.canShare;
      delete nav.share;
    }
  });
  test('closed with its revision; a conflict is shown and nothing is lost', async () => {
    const asked = server({ ...SIGNED_IN, 'PATCH /jobs/j1': refused(409, 'Somebody else changed the job meanwhile.') });
    const { person } = await openSignedIn(<HandOverStation job={JOB} live={live} />);
    await person.click(await screen.findByRole('button', { name: 'Close the job' }));
    expect(await screen.findByText(/Somebody else changed the job/)).toBeTruthy();
    expect(asked.find((a) => a.method === 'PATCH')!.body).toEqual({ rev: 3, status: 'closed' });
  });
});

describe('the board', () => {
  const item = (id: string, more: Partial<JobListItem> = {}): JobListItem => ({
    id,
    rev: 1,
    status: 'open',
    label: `Car ${id}`,
    note: null,
    plate: null,
    symptom: 'rough-idle',
    openedAt: '2026-05-04T08:00:00Z',
    openedBy: 'A. Lund',
    damaged: false,
    worst: null,
    counts: { records: 0, recordsAfter: 0, before: 0, after: 0, tests: 0, repairs: 0 } as JobListItem['counts'],
    leading: null,
    work: null,
    standing: AT,
    verdict: null,
    waits: [],
    hands: null,
    practice: false,
    ...more,
  });
  const routes = (everyone: JobListItem[], own: JobListItem[] = []) => ({
    ...SIGNED_IN,
    'GET /jobs?status=open&limit=60': { body: everyone },
    'GET /jobs?status=open&whose=mine&limit=10': { body: own },
    'GET /jobs/counts': { body: { open: everyone.length, mine: own.length, all: 12 } },
    'GET /shop/settings': { body: { rev: 1, settings: {} } },
  });
  test('one’s own job comes first; what is off the car and what is to order stands on its row', async () => {
    const parked = item('b', {
      work: {
        title: 'Clean the throttle body',
        state: 'parked',
        off: ['throttle body', 'duct'],
        toOrder: ['ring'],
        reason: 'rain',
      } as never,
    });
    const worst = { at: 'idle', bank: 1, totalPct: 17 } as JobListItem['worst'];
    server(routes([parked, item('a', { worst }), item('c', { damaged: true })], [item('a', { worst })]));
    await openSignedIn(<Board />);
    const now = await screen.findByRole('region', { name: 'Next step' });
    expect(now.textContent).toMatch(/Car a.*Keep codes and monitors first/);
    const list = within(screen.getByRole('list', { name: 'Jobs: On the bench' }));
    const text = (label: string) => list.getByText(label).closest('a')!.textContent!;
    expect(text('Car b')).toMatch(/parked · 2 off · order 1/);
    expect(text('Car a')).toMatch(/▶ lean \+17\.0 % at idle/);
    expect(text('Car c')).toMatch(/needs mending/);
    expect(screen.getByRole('button', { name: 'Handed over 9' })).toBeTruthy();
  });
  test('each car lies in the lane of what it waits for, by its plate; one’s own is edged and says so', async () => {
    const at = (station: string) => ({ ...AT, station }) as JobListItem['standing'];
    const ring = { for: 'part', until: null, what: 'ring', by: 'A. Lund' } as const;
    server(
      routes([
        item('a', { plate: 'KL 4410', openedBy: LEAD.name }),
        item('b', { plate: 'KL 4411', note: 'red van', waits: [ring] }),
        item('c', { standing: at('readiness') }),
        item('d', { standing: at('hand-over'), hands: LEAD.name }),
      ]),
    );
    const { person } = await openSignedIn(<Board />);
    await screen.findByText('KL 4411');
    const lane = async (name: string) => {
      const list = await screen.findByRole('list', { name: `Jobs: ${name}` });
      return within(list)
        .getAllByRole('link')
        .map((l) => l.textContent!);
    };
    expect((await lane('On the bench'))[0]).toMatch(/^Plate KL 4410you · /);
    expect((await lane('Waits for a part'))[0]).toMatch(/^Plate KL 4411A\. Lund · .*Car b, red van.*waits for ring/);
    expect((await lane('Waits for a drive'))[0]).toMatch(/^A\. Lund · .*Car c/);
    expect((await lane('Ready to hand over'))[0]).toMatch(/^you · .*Car d/);
    await person.selectOptions(screen.getByLabelText('Together by'), 'person');
    expect(await lane('A. Lund')).toHaveLength(2);
    expect(await lane(LEAD.name)).toHaveLength(2);
  });
  test('of more than were read, each lane says that there are more', async () => {
    const link = '</api/jobs?status=open&limit=60&before=9_x>; rel="next"';
    server({ ...routes([]), 'GET /jobs?status=open&limit=60': { body: [item('e')], headers: { link } } });
    await openSignedIn(<Board />);
    await screen.findByText('Car e');
    const lane = screen.getByRole('region', { name: 'On the bench' });
    expect(lane.textContent).toMatch(/On the bench1\+/);
    expect(screen.getByRole('button', { name: 'Older jobs' })).toBeTruthy();
  });
  test('a first day teaches; a learner is offered no new job', async () => {
    server({
      ...routes([]),
      'GET /jobs/counts': { body: { open: 0, mine: 0, all: 0 } },
      'GET /session': { body: { account: { ...LEAD, rights: ['look'] }, setupNeeded: false, demo: null } },
    });
    await openSignedIn(<Board />);
    expect(await screen.findByText(/practise on a simulated one/)).toBeTruthy();
    expect(await screen.findByRole('heading', { name: 'The first day' })).toBeTruthy();
    expect(screen.queryByRole('link', { name: /New job|Open a job|Add a person/ })).toBeNull();
  });
});

describe('signing in', () => {
  const session = (more: object) => ({
    'GET /session': { body: { account: null, setupNeeded: false, demo: null, ...more } },
  });
  test('a wrong address stands at its field and is not sent; a refusal is said', async () => {
    const asked = server({ ...session({}), 'POST /session': refused(401, 'Email or password is not right.') });
    const { person } = open(<SignIn />);
    await person.type(await screen.findByLabelText('Email'), 'okafor');
    await person.type(screen.getByLabelText('Password'), 'guess-guess');
    await person.click(screen.getByRole('button', { name: 'Sign in' }));
    await waitFor(() => expect(said(screen.getByLabelText(/^Email/) as HTMLInputElement)).toMatch(/email/i));
    expect(asked.some((a) => a.method === 'POST')).toBe(false);
    await person.type(screen.getByLabelText(/^Email/), '@linden.example');
    await person.click(screen.getByRole('button', { name: 'Sign in' }));
    expect(await screen.findByText(/Email or password is not right/)).toBeTruthy();
  });
  test('an empty shop asks for its first account with the token of the console, and shows no demo', async () => {
    const asked = server({ ...session({ setupNeeded: true }), 'POST /session/setup': { body: {} } });
    const { person } = open(<SignIn />);
    expect(await screen.findByText('The first account')).toBeTruthy();
    for (const [label, text] of [
      ['One-time token', 'abc'],
      ['Shop', 'Own Yard'],
      ['Your name', 'M. Reyes'],
      ['Email', 'reyes@own.example'],
      [/^Password/, 'ten letters'],
    ] as const)
      await person.type(screen.getByLabelText(label), text);
    await person.click(screen.getByRole('button', { name: 'Create the shop' }));
    await waitFor(() => expect(asked.find((a) => a.method === 'POST')?.body).toMatchObject({ shopName: 'Own Yard' }));
    expect(screen.queryByLabelText('Demo accounts')).toBeNull();
  });
});

describe('a row that cannot be read', () => {
  const damage = {
    resource: 'reading',
    id: 'x1',
    problems: [{ field: 'rpm', message: 'must be a number' }],
    stored: { rpm: 'fast' },
  };
  test('is named with its fault, opened, mended as JSON', async () => {
    const asked = server({ ...SIGNED_IN, 'PUT /jobs/j1/damaged/reading/x1': { body: {} } });
    const { person } = await openSignedIn(<Damaged job={{ ...JOB, damaged: [damage] } as unknown as JobView} />);
    expect(await screen.findByText(/is left out: rpm: must be a number/)).toBeTruthy();
    await person.click(screen.getByRole('button', { name: 'Open it' }));
    const field = screen.getByLabelText('As it is stored') as HTMLTextAreaElement;
    await person.clear(field);
    await person.type(field, '{{"rpm":');
    await person.click(screen.getByRole('button', { name: 'Keep it like this' }));
    expect(await screen.findByText(/This is not JSON/)).toBeTruthy();
    expect(asked.some((a) => a.method === 'PUT')).toBe(false);
    await person.type(field, ' 700}');
    await person.click(screen.getByRole('button', { name: 'Keep it like this' }));
    await waitFor(() => expect(asked.find((a) => a.method === 'PUT')?.body).toEqual({ data: { rpm: 700 } }));
  });
});

describe('what was touched last', () => {
  test('a part with its days and the make that replaced it goes into the complaint', async () => {
    const asked = server({ ...SIGNED_IN, 'PATCH /jobs/j1': { body: JOB } });
    const { person } = open(<Story job={JOB} />);
    await person.type(screen.getByRole('combobox', { name: 'Part or work' }), 'mass air{Enter}');
    await person.type(screen.getByLabelText('Days ago'), '12');
    await person.selectOptions(screen.getByLabelText('Replaced by'), 'copy');
    await person.click(screen.getByRole('button', { name: 'Add' }));
    await waitFor(() => expect(asked.some((a) => a.method === 'PATCH')).toBe(true));
    expect(asked.find((a) => a.method === 'PATCH')!.body.complaint.recentWork).toEqual([
      { part: 'maf-sensor', days: 12, make: 'copy' },
    ]);
  });
  test('words of one’s own are kept, and said to count as what they name', async () => {
    const asked = server({ ...SIGNED_IN, 'PATCH /jobs/j1': { body: JOB } });
    const { person } = open(<Story job={JOB} />);
    await person.type(screen.getByRole('combobox', { name: 'Part or work' }), 'new timing chain kit');
    await screen.findByText('Counts as: Timing chain.');
    await person.click(screen.getByRole('button', { name: 'Add' }));
    await waitFor(() => expect(asked.some((a) => a.method === 'PATCH')).toBe(true));
    expect(asked.find((a) => a.method === 'PATCH')!.body.complaint.recentWork).toEqual([
      { part: 'new timing chain kit' },
    ]);
  });
  test('one is removed; the story is changed; two quick changes go up one after the other, each over the last', async () => {
    const job = {
      ...JOB,
      rev: 5,
      complaint: { ...JOB.complaint, recentWork: [{ part: 'egr-valve', days: 1 }, { part: 'tow-bar' }] },
    } as typeof JOB;
    let stands = { ...job };
    const asked = server({
      ...SIGNED_IN,
      'PATCH /jobs/j1': (a) => {
        if (a.body.rev !== stands.rev) return refused(409, 'somebody else was quicker');
        stands = { ...stands, rev: stands.rev + 1, complaint: a.body.complaint };
        return { body: stands };
      },
    });
    const { person } = open(<Story job={job} />);
    await person.clear(screen.getByLabelText('Who noticed what, and when'));
    await person.type(screen.getByLabelText('Who noticed what, and when'), 'shakes at lights');
    // Leaving the field sends the words, the press the removal, the next press a symptom.
    await person.click(screen.getByRole('button', { name: 'Remove tow bar' }));
    await person.click(screen.getByRole('button', { name: 'stall' }));
    await waitFor(() => expect(asked.filter((a) => a.method === 'PATCH')).toHaveLength(3));
    await waitFor(() => expect(stands.rev).toBe(8));
    expect(stands.complaint.story).toBe('shakes at lights');
    expect(stands.complaint.recentWork).toEqual([{ part: 'egr-valve', days: 1 }]);
    expect(stands.complaint.symptoms).toContain('stall');
  });
});

describe('small sums', () => {
  test('a figure in every unit of its quantity, against NIST SP 811', async () => {
    const { person } = open(<Converter />);
    await person.selectOptions(screen.getByLabelText('Unit'), 'N·m');
    await person.type(screen.getByLabelText('Figure'), '25');
    const shown = Object.fromEntries(
      screen.getAllByRole('term').map((t) => [t.textContent, t.nextElementSibling!.textContent]),
    );
    // 25 N·m: 18.439 lbf·ft, 221.27 lbf·in.
    expect(shown).toEqual({ lbf·ft: '18.439', lbf·in: '221.27' });
    await person.clear(screen.getByLabelText('Figure'));
    await person.type(screen.getByLabelText('Figure'), 'tight');
    expect(screen.getByText('“tight” is not a number.')).toBeTruthy();
    const figure = async (text: string) => {
      await person.clear(screen.getByLabelText('Figure'));
      await person.type(screen.getByLabelText('Figure'), text);
    };
    await figure('0x10');
    expect(screen.getByText('“0x10” is not a number.')).toBeTruthy();
    await person.selectOptions(screen.getByLabelText('Quantity'), 'temperature');
    await person.selectOptions(screen.getByLabelText('Unit'), '°F');
    await figure('-460');
    expect(screen.getByText('Nothing is as cold as -460 °F.')).toBeTruthy();
    // SI brochure: absolute zero is −273.15 °C, −459.67 °F.
    await figure('-459,67');
    expect(screen.getAllByRole('term').map((t) => [t.textContent, t.nextElementSibling!.textContent])).toContainEqual([
      '°C',
      '−273.15',
    ]);
  });
  test('every calculator asks for its figures, says its source, and what is outside its range', async () => {
    for (const c of CALCULATORS) {
      const { person } = open(<CalculatorCard id={c.id} />);
      expect(screen.getByText('Fill in every figure.')).toBeTruthy();
      expect(document.body.textContent).toContain(c.source);
      const [first] = c.fields;
      const field = screen.getAllByRole('textbox')[0] as HTMLInputElement;
      await person.type(field, String(first!.high * 2 + 1));
      expect(screen.getByText(new RegExp(`^${first!.label.replace(/[()]/g, '.')}: .* is outside`))).toBeTruthy();
      cleanup();
    }
  });
});
