import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { BayView, JobView, SettingsView, VehicleView } from '@just-balance/contract';
import { TESTS } from '@just-balance/core/catalogue';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { HandEntry } from '../src/capture/HandEntry.tsx';
import { outbox } from '../src/data/queue.ts';
import { NewJob } from '../src/pages/newJob/NewJob.tsx';
import { PeoplePage } from '../src/pages/people/PeoplePage.tsx';
import { ShopPage } from '../src/pages/shop/ShopPage.tsx';
import { BayControls } from '../src/practice/BayControls.tsx';
import 'fake-indexeddb/auto';
import { EMPTY_JOB, LEAD, open, openSignedIn, refused, SIGNED_IN, said, server } from './page.tsx';

beforeEach(() => localStorage.clear());
afterEach(cleanup);

/** A page that needs the session: shown once that is there. */
const input = (name: RegExp | string) => screen.getByLabelText(name) as HTMLInputElement;

const CHANGED = [
  {
    id: 'c1',
    at: '2026-03-02T10:00:00.000Z',
    by: 'R. Okafor',
    kind: 'settings',
    data: { limits: { before: { actPct: 10 }, after: { actPct: 20 } } },
  },
];

describe('settings of the shop', () => {
  const kept: SettingsView = { rev: 4, settings: { minutes: { compression: 50 }, priors: { 'vac-leak': 2 } } };

  test('what is changed goes up over what is kept; lists that name everything are left out', async () => {
    const asked = server({
      ...SIGNED_IN,
      'GET /shop/settings': { body: kept },
      'GET /shop/changes': { body: CHANGED },
      'PUT /shop/settings': (a) => ({ body: { rev: 5, settings: a.body.settings } }),
    });
    const { person } = await openSignedIn(<ShopPage />);
    await screen.findByText('Bench minutes');
    await person.click(screen.getByRole('button', { name: 'Wait for ±20' }));
    await person.click(screen.getByRole('button', { name: 'Road test' }));
    await person.type(input(/^Fastest tool/), '8,5');
    const compression = TESTS.find((t) => t.id === 'compression')!;
    expect(input(compression.label).value).toBe('50');
    await person.clear(input(compression.label));
    await person.type(input(TESTS[0]!.label), '7');
    await person.type(input(/^Altitude/), '410');
    await person.type(input(/^Rate/), '64');
    await person.type(input(/^Currency/), 'eur');
    const prices = screen.getByRole('textbox', { name: /^Prices/ });
    await person.type(prices, 'Intake gasket; 18,40{enter}hose');
    await person.selectOptions(screen.getByRole('combobox', { name: 'Inspection rule here' }), 'A strict state');
    await person.click(screen.getByRole('button', { name: 'Save' }));
    // A line without a price is named, and nothing is sent.
    await screen.findByText('line 2: a part, a semicolon, a price');
    expect(asked.some((a) => a.method === 'PUT')).toBe(false);
    await person.type(prices, '; 3');
    await person.click(screen.getByRole('button', { name: 'Save' }));
    await screen.findByText('Saved.');
    const { body } = asked.find((a) => a.method === 'PUT')!;
    expect(body).toMatchObject({
      rev: 4,
      settings: { limits: { watchPct: 10, actPct: 20 }, toolHz: 8.5, minutes: { [TESTS[0]!.id]: 7 } },
    });
    expect(body.settings).toMatchObject({
      place: { altitudeM: 410, rule: expect.stringMatching(/./) },
      labour: { perHour: 64, currency: 'EUR', parts: { 'intake gasket': 18.4, hose: 3 } },
    });
    await screen.findByText(/R\. Okafor changed the shop’s settings: limits, act past, % from 10 to 20\./);
    // Not of this page, and kept.
    expect(body.settings.priors).toEqual({ 'vac-leak': 2 });
    expect(body.settings.tools).toBeUndefined();
    expect(body.settings.hazards).not.toContain('road-test');
    expect(body.settings.minutes).not.toHaveProperty('compression');
    // Changed again it is not saved any more.
    await person.click(screen.getByRole('button', { name: 'Road test' }));
    expect(screen.queryByText('Saved.')).toBeNull();
  });

  test('a faulty figure stands at its field; what two changed stands in both versions until one is said to be right', async () => {
    let theirs = 6;
    const asked = server({
      ...SIGNED_IN,
      'GET /shop/settings': { body: kept },
      'GET /shop/changes': { body: CHANGED },
      'PUT /shop/settings': (a) =>
        a.body.rev === theirs
          ? { body: { rev: ++theirs, settings: a.body.settings } }
          : refused(409, 'somebody else has changed the settings', {
              current: { rev: theirs, settings: { limits: { watchPct: 3, actPct: 5 } } },
            }),
    });
    const { person } = await openSignedIn(<ShopPage />);
    await screen.findByText('Bench minutes');
    const watch = input('Watch past ±');
    await person.clear(watch);
    await person.type(watch, '12');
    await person.type(input(TESTS[0]!.label), 'long');
    await person.click(screen.getByRole('button', { name: 'Save' }));
    await waitFor(() => expect(said(watch)).toBe('not above the act limit'));
    expect(said(input(new RegExp(`^${TESTS[0]!.label}`)))).toBe('a number, 0 or more');
    expect(asked.filter((a) => a.method === 'PUT')).toEqual([]);
    await person.clear(watch);
    await person.type(watch, '4');
    await person.clear(input(new RegExp(`^${TESTS[0]!.label}`)));
    await person.click(screen.getByRole('button', { name: 'Save' }));
    const clash = (await screen.findByText(/^Somebody else has changed this meanwhile\. Which/)).closest('div')!;
    expect(clash.textContent).toMatch(/Watch past ±.*: yours “4”, theirs “3”/);
    // What only they changed has come into the form.
    expect(input('Act past ±').value).toBe('5');
    await person.click(screen.getByRole('button', { name: 'Save' }));
    await screen.findByText(/say of each field which is right/);
    expect(asked.filter((a) => a.method === 'PUT')).toHaveLength(1);
    await person.click(screen.getByRole('button', { name: 'Keep mine' }));
    await person.click(screen.getByRole('button', { name: 'Save' }));
    await screen.findByText('Saved.');
    const saved = asked.filter((a) => a.method === 'PUT');
    expect(saved.map((a) => a.body.rev)).toEqual([4, 6]);
    expect(saved.at(-1)!.body.settings.limits).toEqual({ watchPct: 4, actPct: 5 });
  });

  test('only the lead changes them', async () => {
    server({
      'GET /session': { body: { account: { ...LEAD, rights: ['look', 'work'] }, setupNeeded: false, demo: null } },
      'GET /shop/settings': { body: kept },
      'GET /shop/changes': { body: CHANGED },
    });
    await openSignedIn(<ShopPage />);
    await screen.findByText('Changed by the lead.');
    for (const el of [screen.getByRole('button', { name: 'Save' }), input('Watch past ±')])
      expect((el as HTMLInputElement).disabled).toBe(true);
  });
});

describe('a new job', () => {
  const vehicle = {
    id: '11111111-1111-4111-8111-111111111111',
    rev: 1,
    label: 'Corvane 1.4',
    note: 'grey estate',
    fuel: 'petrol',
    metering: 'both',
    displacementL: 1.4,
    cylinders: 4,
    banks: 1,
    injection: 'direct',
  } as VehicleView;
  const visit = (job: string, at: string, status: string, causes: string[] = []) => ({
    ...{
      job,
      at,
      status,
      causes,
      station: null,
      proven: true,
      verdict: null,
      cameBackOf: null,
      repairs: [],
      points: [],
    },
  });
  const visits = [
    visit('j5', '2026-03-02T08:00:00Z', 'closed', ['vac-leak']),
    visit('j7', '2026-05-01T08:00:00Z', 'open'),
    visit('j6', '2026-04-03T08:00:00Z', 'closed'),
  ];
  const page = {
    ...SIGNED_IN,
    'GET /vehicles': { body: [vehicle] },
    [`GET /vehicles/${vehicle.id}/history`]: { body: { vehicle, visits } },
    'GET /bays': { body: [] },
    'GET /adapters': { body: [{ address: 'sim:1', label: 'Bay 1 adapter', simulated: true }] },
  };

  test('a vehicle known here fills the page, and keeps what the page does not show', async () => {
    const asked = server({ ...page, 'POST /jobs': (a) => ({ status: 201, body: { id: a.body.id } }) });
    const { person } = await openSignedIn(<NewJob />);
    await person.type(await screen.findByRole('combobox', { name: 'A vehicle known here' }), 'estate{Enter}');
    expect(input('What you call it').value).toBe('Corvane 1.4');
    // It stands in the shop already, and was here before: the newest visit first.
    const open = await screen.findByText('A job is open on this car');
    expect(open.closest('.alert')!.textContent).toMatch(/since 1 May 2026/);
    expect(screen.getByRole('link', { name: 'Go there' }).getAttribute('href')).toBe('/jobs/j7');
    expect(document.body.textContent).toMatch(
      /Here 2 times: 3 Apr 2026; 2 Mar 2026, air leak after the throttle\. All of it/,
    );
    await person.type(input('Outside air, °C'), '-3,5');
    await person.click(screen.getByRole('button', { name: 'stall' }));
    expect(screen.getByRole('heading', { level: 1 }).textContent).toBe('Corvane 1.4: stall');
    await person.click(screen.getByRole('button', { name: 'Open the job' }));
    await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
    const { body } = asked.find((a) => a.method === 'POST')!;
    expect(body.vehicleId).toBe(vehicle.id);
    expect(body.vehicle).toMatchObject({ label: 'Corvane 1.4', displacementL: 1.4, injection: 'direct' });
    expect(body.vehicle).not.toHaveProperty('rev');
    expect([body.complaint.symptoms, body.ambient]).toEqual([['stall'], { airC: -3.5 }]);
  });

  test('nothing known here: nothing to choose from; a bay alone is offered', async () => {
    const offered = () => screen.queryByRole('button', { name: /^Bay \d, simulated/ });
    server({ ...page, 'GET /vehicles': { body: [] } });
    await openSignedIn(<NewJob />);
    await screen.findByText('Say what it is and what is wrong');
    await waitFor(() => expect(screen.getByLabelText('Number plate')).toBeTruthy());
    expect([offered(), screen.queryByRole('combobox', { name: 'A vehicle known here' })]).toEqual([null, null]);
    const card = screen.getByRole('heading', { name: 'Vehicle' }).closest('section')!;
    expect(card.querySelector(':scope > .flex-wrap.items-end:empty')).toBeNull();
  });

  test('what is missing or cannot be stands at its field', async () => {
    const asked = server(page);
    const { person } = await openSignedIn(<NewJob />);
    await screen.findByRole('combobox', { name: 'A vehicle known here' });
    await person.type(input('VIN, if at hand'), 'too short');
    await person.type(input('Displacement, L'), 'big');
    await person.click(screen.getByRole('button', { name: 'Open the job' }));
    await waitFor(() => expect(said(input(/^What you call it/))).toBe('must not be empty'));
    expect(said(input(/^VIN/))).toBe('a VIN has 17 characters, without I, O and Q');
    expect(said(input(/^Displacement/))).toBe('must be a number');
    expect(said(input(/^Cylinders/))).toBe('');
    expect(asked.filter((a) => a.method === 'POST')).toEqual([]);
  });
});

describe('people', () => {
  test('one is added with an id of this page; a link is shown once; a refusal is said', async () => {
    const row = { rev: 1, known: true, disabled: false, hasPassword: true, sessions: 0, linkWaits: false };
    const people = [
      { ...LEAD, ...row, sessions: 1 },
      { ...LEAD, ...row, id: 'b2', name: 'I. Sato', email: 'sato@linden.example', role: 'technician', sessions: 2 },
      { ...LEAD, ...row, id: 'b3', name: 'P. Egan', email: 'egan@linden.example', disabled: true, hasPassword: false },
    ];
    const asked = server({
      ...SIGNED_IN,
      'GET /people': { body: people },
      'POST /people': refused(409, 'that address signs somebody in already'),
      'POST /people/b2/link': { status: 201, body: { token: 't'.repeat(43), expiresAt: '2031-01-02T03:04:05Z' } },
      'PATCH /people/b2': {},
      'PATCH /people/b3': {},
      'DELETE /people/b2/sessions': { status: 204 },
    });
    const { person } = await openSignedIn(<PeoplePage />);
    await screen.findByText('signed in on 2 browsers');
    // Nobody shuts themselves out, signs themselves out here, or gives themselves a link.
    const rows = within(screen.getByRole('list', { name: 'People' })).getAllByRole('listitem');
    const buttons = rows.map((r) =>
      within(r)
        .queryAllByRole('button')
        .map((b) => b.textContent),
    );
    expect(buttons).toEqual([[], ['Link for a new password', 'Sign out', 'Shut out'], ['Give a link', 'Let in again']]);
    expect(rows.map((r) => (within(r).getByRole('combobox') as HTMLSelectElement).disabled)).toEqual([
      false,
      false,
      true,
    ]);
    expect(rows[0]!.textContent).toMatch(/signed in on 1 browser(?!s)/);
    expect(rows[2]!.textContent).toMatch(/shut out/);
    await person.click(within(rows[1]!).getByRole('button', { name: 'Sign out' }));
    await waitFor(() =>
      expect(asked.some((a) => a.method === 'DELETE' && a.path === '/people/b2/sessions')).toBe(true),
    );
    await person.click(screen.getByRole('button', { name: 'Let in again' }));
    await waitFor(() => expect(asked.find((a) => a.path === '/people/b3')?.body).toEqual({ rev: 1, disabled: false }));
    await person.click(screen.getByRole('button', { name: 'Link for a new password' }));
    const link = (await screen.findByLabelText('One-time link', { selector: 'input' })) as HTMLInputElement;
    expect(link.value).toBe(`http://localhost/welcome#${'t'.repeat(43)}`);
    await person.click(screen.getByRole('button', { name: 'Handed over' }));
    expect(screen.queryByLabelText('One-time link', { selector: 'input' })).toBeNull();
    await person.selectOptions(input('Role of I. Sato'), 'learner');
    await waitFor(() =>
      expect(asked.find((a) => a.path === '/people/b2' && a.method === 'PATCH')?.body).toEqual({
        rev: 1,
        role: 'learner',
      }),
    );
    await person.type(input('Name'), 'T. Brandt');
    await person.type(input('Email'), 'brandt');
    const add = () => person.click(screen.getByRole('button', { name: 'Add' }));
    await add();
    await waitFor(() => expect(said(input(/^Email/))).toBe('must be an email'));
    await person.type(input(/^Email/), '@linden.example');
    await add();
    await screen.findByText('that address signs somebody in already');
    const { body } = asked.find((a) => a.path === '/people' && a.method === 'POST')!;
    expect(body).toMatchObject({ name: 'T. Brandt', id: expect.stringMatching(/^[0-9a-f-]{36}$/) });
  });
});

describe('a simulated bay', () => {
  const bay = {
    bay: 1,
    vehicleId: 'v',
    fleet: [{ id: 'v', label: 'Quillon 1.8' }],
    vehicle: { label: 'Quillon 1.8', fuel: 'petrol', banks: 2 },
    key: true,
    rpm: 740,
    kmh: 0,
    target: 'idle',
    scripts: [],
    script: null,
    ectC: 88,
    rate: 1,
    degradation: { dropShare: 0, corruptShare: 0, delayMs: 0, brownOut: false },
    faultsIn: [],
    faults: [
      {
        id: 'vac-leak-bank1',
        label: 'Air leak at a runner',
        unit: 'g/s',
        low: 0.1,
        high: 2,
        typical: 0.4,
        perBank: true,
      },
      { id: 'misfire-ignition', label: 'Ignition misfire', unit: '', low: 0, high: 1, typical: 1, perBank: false },
    ],
    tests: ['fuel-pressure'],
    airC: 18,
  } as unknown as BayView;

  test('a fault by its name, with its size and bank; one without a size is put in as it is', async () => {
    let now = bay;
    const asked = server({
      ...SIGNED_IN,
      // The panel looks again every two seconds, however long the test takes: the car is as it was left.
      'GET /bays': () => ({ body: [now] }),
      'POST /bays/1': (a) => {
        now = { ...bay, faultsIn: [{ id: a.body.fault, severity: a.body.severity }] } as BayView;
        return { body: now };
      },
    });
    const { person } = open(<BayControls bay={1} />);
    const fault = await screen.findByRole('combobox', { name: 'Fault' });
    expect(screen.queryByLabelText(/^Size/)).toBeNull();
    await person.type(fault, 'runner{Enter}');
    expect(input('Size, g/s').value).toBe('0.4');
    await person.clear(input('Size, g/s'));
    await person.type(input('Size, g/s'), '0,7');
    await person.selectOptions(within(fault.closest('form')!).getByLabelText('Bank'), '2');
    await person.click(screen.getByRole('button', { name: 'Put it in' }));
    const put = () => asked.filter((a) => a.method === 'POST').map((a) => a.body);
    await waitFor(() =>
      expect(put()).toEqual([{ command: 'fault', fault: 'vac-leak-bank1', severity: 0.7, also: false, faultBank: 2 }]),
    );
    await person.clear(fault);
    await person.type(fault, 'ignition{Enter}');
    expect(screen.queryByLabelText(/^Size/)).toBeNull();
    await person.click(await screen.findByRole('button', { name: 'Add it' }));
    await waitFor(() =>
      expect(put()[1]).toEqual({ command: 'fault', fault: 'misfire-ignition', severity: 1, also: true }),
    );
  });

  test('a size that is no number, and one the bay refuses, are said at the field', async () => {
    server({
      ...SIGNED_IN,
      'GET /bays': { body: [bay] },
      'POST /bays/1': refused(400, 'severity: 0.1 to 2 g/s', {
        errors: [{ field: 'severity', message: '0.1 to 2 g/s' }],
      }),
    });
    const { person } = open(<BayControls bay={1} />);
    await person.type(await screen.findByRole('combobox', { name: 'Fault' }), 'runner{Enter}');
    const size = input('Size, g/s');
    await person.clear(size);
    await person.type(size, 'huge');
    await person.click(screen.getByRole('button', { name: 'Put it in' }));
    await waitFor(() => expect(said(size)).toBe('must be a number'));
    await person.clear(size);
    await person.type(size, '40');
    await person.click(screen.getByRole('button', { name: 'Put it in' }));
    await waitFor(() => expect(said(size)).toBe('0.1 to 2 g/s'));
  });
});

describe('a reading by hand', () => {
  const job = {
    ...EMPTY_JOB,
    vehicle: { fuel: 'petrol', metering: 'maf', banks: 2, displacementL: 3, cylinders: 6 },
  } as unknown as JobView;
  const sent = {
    ...SIGNED_IN,
    'POST /jobs/j1/readings': (a: { body: { id: string } }) => ({ status: 201, body: { id: a.body.id } }),
  };

  test('what a tool shows, in its units, with both banks and the sum worked out', async () => {
    const asked = server(sent);
    await outbox.useAccount('a1');
    const { person } = await openSignedIn(<HandEntry job={job} phase="before" at="idle" close={() => {}} />);
    await screen.findByText('Enter by hand');
    await person.selectOptions(input('Tool it is read from'), screen.getByRole('option', { name: /US units/ }));
    await person.type(input('Coolant (ECT), °F'), '194');
    await person.type(input('Engine speed, rpm'), '650');
    const [short1, short2] = screen.getAllByLabelText('Short-term trim (STFT), %');
    const [long1, long2] = screen.getAllByLabelText('Long-term trim (LTFT), %');
    for (const [el, v] of [
      [short1, '2,3'],
      [long1, '9.4'],
      [short2, '−0.8'],
      [long2, '1.6'],
    ] as const)
      await person.type(el!, v);
    expect(document.body.textContent).toMatch(/\+11\.7/);
    await person.click(screen.getByRole('button', { name: 'Keep this reading' }));
    await waitFor(() => expect(asked.some((a) => a.method === 'POST')).toBe(true));
    const { phase, reading } = asked.find((a) => a.method === 'POST')!.body;
    // 194 °F are 90 °C.
    expect([phase, reading.at, reading.rpm, reading.ectC]).toEqual(['before', 'idle', 650, 90]);
    expect(reading.trims).toEqual({ bank1: { stft: 2.3, ltft: 9.4 }, bank2: { stft: -0.8, ltft: 1.6 } });
  });

  test('refused numbers say the range in the unit typed; an unusual one is asked about once', async () => {
    const asked = server(sent);
    await outbox.useAccount('a1');
    let closed = 0;
    const { person } = await openSignedIn(<HandEntry job={job} phase="before" at="idle" close={() => closed++} />);
    await screen.findByText('Enter by hand');
    const coolant = input('Coolant (ECT), °C');
    await person.type(coolant, '900');
    const [short] = screen.getAllByLabelText('Short-term trim (STFT), %');
    await person.type(short!, 'lots');
    await person.click(screen.getByRole('button', { name: 'Keep this reading' }));
    await waitFor(() => expect(said(coolant)).toMatch(/^900 °C cannot be: -?\d+ to \d+ °C$/));
    expect(said(short!)).toBe('“lots” is not a number');
    await person.clear(short!);
    await person.clear(coolant);
    await person.type(coolant, '130');
    await person.click(screen.getByRole('button', { name: 'Keep this reading' }));
    await screen.findByText(/Coolant \(ECT\) 130 °C is unusual. Right as it stands\?/);
    expect(asked.filter((a) => a.method === 'POST')).toEqual([]);
    await person.click(screen.getByRole('button', { name: 'Keep it as it is' }));
    await waitFor(() => expect(closed).toBe(1));
    expect(asked.find((a) => a.method === 'POST')!.body.reading).toMatchObject({ ectC: 130 });
  });
});
