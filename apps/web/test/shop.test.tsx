import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type {
  AttemptView,
  JobListItem,
  JobView,
  LearnedView,
  LogbookRow,
  PracticeDrive,
  VehicleVisit,
} from '@just-balance/contract';
import { scoreDrive } from '@just-balance/core/practice';
import { driveProcedure, reviewDrive } from '@just-balance/core/readiness';
import { learn, type OutcomeOfJob } from '@just-balance/core/shop';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import type { ReactNode } from 'react';
import { Route, Routes } from 'react-router';
import { outbox } from '../src/data/queue.ts';
import { standsAt } from '../src/job/frame/standsAt.ts';
import { AuditPage } from '../src/pages/audit/AuditPage.tsx';
import { FirstDay } from '../src/pages/board/FirstDay.tsx';
import { Running } from '../src/pages/board/Running.tsx';
import { Due, Waits } from '../src/pages/board/Waits.tsx';
import { LearnedPage } from '../src/pages/learned/LearnedPage.tsx';
import { LogbookPage } from '../src/pages/logbook/LogbookPage.tsx';
import { Debrief } from '../src/pages/practice/Debrief.tsx';
import { VehiclePage } from '../src/pages/vehicle/VehiclePage.tsx';
import { PracticeBar } from '../src/practice/PracticeBar.tsx';
import { ComeBack } from '../src/stations/handOver/ComeBack.tsx';
import { AT, EMPTY_JOB, LEAD, openSignedIn, refused, SIGNED_IN, server } from './page.tsx';

window.scrollTo = () => {};
// The document of the tests has no marks of time.
performance.mark ??= (() => undefined) as never;
performance.measure ??= (() => undefined) as never;

beforeEach(async () => {
  localStorage.clear();
  await outbox.useAccount('a1');
});
afterEach(cleanup);

/** A page at the address it is opened by. */
const under = (path: string, page: ReactNode) => (
  <Routes>
    <Route path={path} element={page} />
  </Routes>
);

const item = (id: string, more: Partial<LogbookRow> = {}): LogbookRow => ({
  id,
  rev: 1,
  status: 'closed',
  label: `Car ${id}`,
  note: null,
  plate: null,
  symptom: 'rough-idle',
  openedAt: '2026-05-04T08:00:00Z',
  openedBy: 'A. Lund',
  damaged: false,
  worst: { totalPct: 12, at: 'idle' },
  counts: { records: 1, recordsAfter: 1, before: 2, after: 2, tests: 1, repairs: 1 },
  leading: null,
  work: null,
  verdict: 'proven',
  standing: AT,
  waits: [],
  hands: 'I. Sato',
  practice: false,
  vehicleId: 'v1',
  cause: 'vac-leak',
  codes: ['P0171'],
  ...more,
});

describe('the logbook', () => {
  const routes = {
    ...SIGNED_IN,
    'GET /logbook?limit=60': { body: [item('a'), item('b', { cause: null, verdict: null })] },
    'GET /logbook/counts?': { body: { total: 2, more: false, by: { code: [{ value: 'P0171', count: 2 }] } } },
    'GET /logbook?code=P0171&limit=60': { body: [item('a')] },
    'GET /logbook/counts?code=P0171': { body: { total: 1, more: false, by: {} } },
    'GET /logbook/views': { body: [] },
  };
  test('says how many there are; one press narrows, another widens again', async () => {
    server(routes);
    const { person } = await openSignedIn(<LogbookPage />);
    expect(await screen.findByText('2 jobs in the logbook')).toBeTruthy();
    await person.click(await screen.findByRole('button', { name: /P0171/ }));
    expect(await screen.findByText('1 job match')).toBeTruthy();
    await person.click(screen.getByRole('button', { name: 'Code P0171: take it away' }));
    expect(await screen.findByText('2 jobs in the logbook')).toBeTruthy();
  });
  test('a row says where its job stands, as the board does', () => {
    expect(standsAt(item('a'))).toBe('Handed over');
    expect(standsAt(item('b', { status: 'open', standing: { ...AT, station: 'prove' } }))).toBe('Prove');
    expect(standsAt(item('c', { status: 'parked', standing: { ...AT, station: 'service' } }))).toBe('Service');
  });
  test('a search is kept under a name', async () => {
    const asked = server({
      ...routes,
      ...Object.fromEntries([]),
    });
    const kept: unknown[] = [];
    const before = globalThis.fetch;
    globalThis.fetch = (async (url: string, init: { method?: string; body?: string } = {}) => {
      if (init.method !== 'PUT') return before(url, init as never);
      kept.push(JSON.parse(init.body!));
      return {
        ok: true,
        status: 200,
        headers: new Map(),
        json: async () => [{ id: 'x', name: 'Codes', query: 'code=P0171' }],
      };
    }) as never;
    const { person } = await openSignedIn(<LogbookPage />);
    await person.click(await screen.findByRole('button', { name: /P0171/ }));
    await person.click(await screen.findByRole('button', { name: 'Keep this search' }));
    await person.type(screen.getByRole('textbox', { name: 'Its name' }), 'Codes');
    await person.click(screen.getByRole('button', { name: 'Keep' }));
    await waitFor(() => expect(kept).toEqual([{ name: 'Codes', query: 'code=P0171' }]));
    expect(asked.length).toBeGreaterThan(3);
  });
});

describe('what the shop has learned', () => {
  const view = (change: Partial<LearnedView> = {}): LearnedView => ({
    learned: learn([]),
    choice: {},
    inUse: null,
    leftOut: [],
    ...change,
  });
  test('nothing yet says how it comes about; the lead alone chooses', async () => {
    server({ ...SIGNED_IN, 'GET /learned': { body: view() } });
    await openSignedIn(<LearnedPage />);
    expect(await screen.findByText('Nothing is learned yet')).toBeTruthy();
    expect((screen.getByRole('checkbox', { name: /Causes/ }) as HTMLInputElement).disabled).toBe(false);
    cleanup();
    server({
      ...SIGNED_IN,
      'GET /session': { body: { account: { ...LEAD, rights: ['look'] }, setupNeeded: false, demo: null } },
      'GET /learned': { body: view() },
    });
    await openSignedIn(<LearnedPage />);
    expect(await screen.findByText('Chosen by the lead.')).toBeTruthy();
  });
  test('switched on it is kept with the settings that are there; a job left out is taken in again', async () => {
    const asked = server({
      ...SIGNED_IN,
      'GET /learned': { body: view({ leftOut: [{ job: 'j7', label: 'Tarn 2.0', at: '2026-05-04T08:00:00Z' }] }) },
      'GET /shop/settings': { body: { rev: 4, settings: { limits: { actPct: 8 } } } },
      'PUT /shop/settings': { body: { rev: 5, settings: {} } },
      'PUT /learned/jobs/j7': { body: view() },
    });
    const { person } = await openSignedIn(<LearnedPage />);
    await person.click(await screen.findByRole('checkbox', { name: /Known-good/ }));
    await waitFor(() => expect(asked.some((a) => a.method === 'PUT')).toBe(true));
    expect(asked.find((a) => a.method === 'PUT')!.body).toEqual({
      rev: 4,
      settings: { limits: { actPct: 8 }, learning: { knownGood: true } },
    });
    await person.click(screen.getByRole('button', { name: 'Take it in again' }));
    expect(await screen.findByText(/No job is left out/)).toBeTruthy();
  });
});

describe('what the jobs say', () => {
  const proven = (job: string, minutes: number): OutcomeOfJob => ({
    job,
    outcome: {
      ...{
        family: 'petrol 2.0 L, 4 cylinders, maf, na, port',
        proven: ['purge-open'],
        leading: null,
        tests: [],
        good: [],
      },
      ...{ baroKPa: 99, cleanings: [], minutesToCause: 60, broke: [], drives: 0, cameBackOf: null, closed: true },
      procedures: [{ id: 'p', title: 'Purge valve', minutes, advised: 20 }],
    },
  });
  const learned = learn(Array.from({ length: 12 }, (_, i) => proven(`j${i}`, 30 + (i % 3))));
  const view = { learned, choice: {}, inUse: null, leftOut: [] };
  test('a sentence each with its count as a picture and the jobs behind it; the tables are folded', async () => {
    const asked = server({
      ...SIGNED_IN,
      'GET /learned': { body: view },
      'GET /shop/settings': { body: { rev: 4, settings: {} } },
      'PUT /shop/settings': { body: { rev: 5, settings: {} } },
    });
    const { person, container } = await openSignedIn(<LearnedPage />);
    const list = within(await screen.findByRole('list', { name: 'What the jobs say' }));
    const [cause, minutes] = [
      list.getByRole('heading', { name: /^Purge valve stuck open comes \d+ times as often/ }),
      list.getByRole('heading', { name: '“Purge valve” takes 31 minutes here: plan with that, not with 20.' }),
    ].map((h) => within(h.closest('li')!));
    expect(cause!.getByText('12 of 12')).toBeTruthy();
    expect(cause!.getByText('Picked from many comparisons; the jobs since then say the same.')).toBeTruthy();
    expect(minutes!.getByText('20 min')).toBeTruthy();
    expect(minutes!.queryByRole('checkbox')).toBeNull();
    const behind = cause!.getByRole('link', { name: 'The 12 jobs' });
    expect(behind.getAttribute('href')).toBe(`/logbook?ids=${learned.causes[0]!.jobs.join(',')}`);
    expect([...container.querySelectorAll('details')].filter((d) => d.open)).toEqual([]);
    expect(screen.getByText('1 cause; purge valve stuck open alone, 12 jobs')).toBeTruthy();
    await person.click(cause!.getByRole('checkbox', { name: 'Weigh causes as they come here' }));
    await waitFor(() => expect(asked.some((a) => a.method === 'PUT')).toBe(true));
    expect(asked.find((a) => a.method === 'PUT')!.body).toEqual({ rev: 4, settings: { learning: { priors: true } } });
  });
  test('too few to say anything is said; who may not choose sees what is chosen', async () => {
    const few = { ...view, learned: learn([proven('j1', 30)]) };
    server({ ...SIGNED_IN, 'GET /learned': { body: few } });
    await openSignedIn(<LearnedPage />);
    expect(await screen.findByText(/^Nothing to say yet, of 1 proven job: a sentence needs ten jobs/)).toBeTruthy();
    cleanup();
    server({
      ...SIGNED_IN,
      'GET /session': { body: { account: { ...LEAD, rights: ['look'] }, setupNeeded: false, demo: null } },
      'GET /learned': { body: { ...view, choice: { priors: true } } },
    });
    await openSignedIn(<LearnedPage />);
    expect(await screen.findByText('In use.')).toBeTruthy();
  });
});

describe('the board', () => {
  test('what is waited for, with what is left of it; reminders stand apart', async () => {
    const soon = new Date(Date.now() + 25 * 60_000).toISOString();
    server({
      ...SIGNED_IN,
      'GET /jobs/due': {
        body: [
          item('c', {
            waits: [{ for: 'trip', until: '2026-01-02T08:00:00Z', what: 'Read the codes again', by: null }],
          }) as JobListItem,
        ],
      },
    });
    await openSignedIn(
      <>
        <Waits
          waits={[
            { for: 'timer', until: soon, what: 'dry', by: null },
            { for: 'part', until: null, what: 'seal ring', by: 'I. Sato' },
            { for: 'soak', until: '2020-01-01T00:00:00Z', what: 'soak', by: null },
            { for: 'trip', until: soon, what: 'codes', by: null },
          ]}
        />
        <Due />
      </>,
    );
    expect(await screen.findByText(/timer: 2\d minutes left/)).toBeTruthy();
    expect(screen.getByText('waits for seal ring (I. Sato)')).toBeTruthy();
    expect(screen.getByText('soaking over')).toBeTruthy();
    expect(await screen.findByText('1 to look at again by tomorrow')).toBeTruthy();
    expect(screen.getByText('Read the codes again')).toBeTruthy();
  });
});

test('a vehicle: a cause that comes back is said first; its visits, newest on top', async () => {
  const visit = (job: string, at: string, more: Partial<VehicleVisit> = {}): VehicleVisit => ({
    job,
    at,
    status: 'closed',
    station: null,
    causes: ['vac-leak'],
    proven: true,
    verdict: 'proven',
    cameBackOf: null,
    repairs: [`Hose of ${job}`],
    points: [{ at: 'idle', phase: 'before', totals: [{ bank: 1, totalPct: 13 }] }],
    ...more,
  });
  const vehicle = {
    id: 'v1',
    rev: 1,
    label: 'Tarn 2.0',
    plate: 'QT 12',
    fuel: 'petrol',
    metering: 'maf',
    displacementL: 2,
    cylinders: 4,
  };
  server({
    ...SIGNED_IN,
    'GET /vehicles/v1/history': {
      body: {
        vehicle,
        visits: [
          visit('a', '2026-01-04T08:00:00Z'),
          visit('b', '2026-03-04T08:00:00Z', { cameBackOf: 'a', status: 'parked', station: 'service' }),
        ],
      },
    },
  });
  await openSignedIn(under('/vehicles/:vehicleId', <VehiclePage />), '/vehicles/v1');
  expect(await screen.findByText('Air leak after the throttle: 2 visits')).toBeTruthy();
  const list = screen.getAllByRole('listitem').map((l) => l.textContent!);
  expect(list.findIndex((t) => /Hose of b/.test(t))).toBeLessThan(list.findIndex((t) => /Hose of a/.test(t)));
  expect(screen.getByText('came back')).toBeTruthy();
  // As board and logbook say it.
  expect(list.find((t) => /Hose of b/.test(t))).toMatch(/Parked at Service/);
  expect(list.find((t) => /Hose of a/.test(t))).toMatch(/Handed over/);
});

test('the history as sentences; filtered by person and kind', async () => {
  const line = {
    id: 'l1',
    at: '2026-05-04T08:00:00Z',
    by: 'I. Sato',
    kind: 'opened',
    said: 'I. Sato opened the job.',
    job: { id: 'j1', label: 'Tarn 2.0' },
  };
  const asked = server({
    ...SIGNED_IN,
    'GET /audit?': { body: [line] },
    'GET /audit?kind=worked': { body: [] },
    'GET /people': { body: [{ id: 'p', name: 'I. Sato' }] },
  });
  const { person } = await openSignedIn(<AuditPage />);
  expect(await screen.findByText('I. Sato opened the job.')).toBeTruthy();
  await person.selectOptions(screen.getByRole('combobox', { name: 'What' }), 'worked');
  expect(await screen.findByText('Nothing of this kind.')).toBeTruthy();
  expect(asked.some((a) => a.path === '/audit?kind=worked')).toBe(true);
});

const ATTEMPT: AttemptView = {
  id: 't1',
  job: 'j1',
  by: 'R. Okafor',
  at: '2026-05-04T08:00:00Z',
  title: 'The shaking hatch',
  level: 'plain',
  scenario: 'shaking-hatch',
  hints: true,
  exam: null,
  minutes: 3,
  asks: [
    { kind: 'reading', what: 'idle', label: 'Idle', minutes: 3, perBank: false, done: true },
    { kind: 'test', what: 'smoke-intake', label: 'Smoke the intake', minutes: 15, perBank: false, done: false },
  ],
  moves: [{ kind: 'reading', what: 'idle', bank: null, minutes: 3, showed: '+14.0 %' }],
  answer: null,
  score: null,
  faults: null,
  bestPath: null,
  drive: null,
  driveAnswer: null,
  answered: false,
  gaveUp: false,
  signed: null,
};

describe('practice', () => {
  const job = { ...EMPTY_JOB, practice: true } as unknown as JobView;
  const line = { ...ATTEMPT, total: null, counts: true };
  test('the bar: minutes used, a question with its price, the answer with its size', async () => {
    const asked = server({
      ...SIGNED_IN,
      'GET /practice/attempts': { body: [line] },
      'GET /practice/attempts/t1': { body: ATTEMPT },
      'POST /practice/attempts/t1/ask': { body: { ...ATTEMPT, minutes: 18 } },
      'POST /practice/attempts/t1/answer': refused(409, 'the cause is named already'),
    });
    const { person } = await openSignedIn(<PracticeBar job={job} />);
    expect(await screen.findByText('+14.0 %')).toBeTruthy();
    await person.click(screen.getByRole('button', { name: 'Ask the car' }));
    await person.selectOptions(screen.getByRole('combobox', { name: 'What to ask' }), 'smoke-intake');
    await person.click(screen.getByRole('button', { name: 'Spend 15 minutes' }));
    await waitFor(() =>
      expect(asked.find((a) => a.path.endsWith('/ask'))!.body).toMatchObject({ kind: 'test', what: 'smoke-intake' }),
    );
    await person.click(screen.getByRole('button', { name: 'Name the cause' }));
    await person.selectOptions(screen.getByRole('combobox', { name: 'It is' }), 'vac-leak');
    await person.type(screen.getByRole('textbox', { name: 'Size, g/s' }), '0,5');
    await person.selectOptions(screen.getByRole('combobox', { name: 'What to do' }), 'repair');
    await person.click(screen.getByRole('button', { name: 'That is it' }));
    expect(await screen.findByText('the cause is named already')).toBeTruthy();
    expect(asked.find((a) => a.path.endsWith('/answer'))!.body).toEqual({
      fault: 'vac-leak',
      size: 0.5,
      remedy: 'repair',
    });
  });
  test('looked back at: points with their reasons, what a move could have told, what was better then', async () => {
    const done: AttemptView = {
      ...ATTEMPT,
      by: 'P. Moreau',
      answer: { fault: 'fuel-low', second: null, size: null, remedy: 'replace', atMs: 0 },
      answered: true,
      faults: [{ id: 'vac-leak', severity: 0.52 }],
      score: {
        total: 12,
        minutes: 3,
        bestMinutes: 21,
        parts: [{ id: 'cause', points: 0, of: 45, why: 'It was: Air leak after the throttle.' }],
      },
      moves: [
        {
          ...ATTEMPT.moves[0]!,
          atMs: 0,
          bits: 0,
          best: { test: 'smoke-intake', bits: 0.9, minutes: 15 },
          belief: [{ fault: 'vac-leak', probability: 0.4 }],
          truth: 0.4,
        },
      ],
      drive: null,
      driveAnswer: null,
      bestPath: [{ what: 'Idle', minutes: 3, showed: '+14.0 %' }],
    };
    server({ ...SIGNED_IN, 'GET /practice/attempts/t1': { body: done } });
    await openSignedIn(under('/practice/:attemptId', <Debrief />), '/practice/t1');
    expect(await screen.findByText('12 points: air leak after the throttle')).toBeTruthy();
    expect(screen.getByText(/You named weak fuel delivery after 3 minutes/)).toBeTruthy();
    const row = within(screen.getByRole('region', { name: 'Move by move' })).getAllByRole('row')[1]!;
    expect(row.textContent).toMatch(/Smoke the intake, 15 min: tells much/);
    expect(screen.getByRole('button', { name: 'Sign it' })).toBeTruthy();
  });
  test('a car that is no practice asks for nothing', async () => {
    const asked = server(SIGNED_IN);
    await openSignedIn(<PracticeBar job={{ ...EMPTY_JOB, practice: false } as unknown as JobView} />);
    await waitFor(() => expect(asked.length).toBeGreaterThan(0));
    expect(asked.some((a) => a.path.includes('practice'))).toBe(false);
  });
});

test('a day to look again is kept with what to look at', async () => {
  const asked = server({ ...SIGNED_IN, 'POST /jobs/j1/entries': { status: 201, body: {} } });
  const { person } = await openSignedIn(
    <ComeBack job={{ ...EMPTY_JOB, status: 'open', vehicle: { label: 'Tarn' } } as unknown as JobView} mayWork />,
  );
  await person.type(await screen.findByRole('textbox', { name: 'What to look at' }), 'the hose');
  await person.click(screen.getByRole('button', { name: 'in 14 days' }));
  await waitFor(() => expect(asked.some((a) => a.path === '/jobs/j1/entries')).toBe(true));
  const { data } = asked.find((a) => a.path === '/jobs/j1/entries')!.body;
  expect(data.what).toBe('the hose');
  expect(Math.round((Date.parse(data.dueAt) - Date.now()) / 86_400_000)).toBe(14);
});

describe('the board', () => {
  test('the first day: what is done is ticked, what is not stands with its page', async () => {
    server({ ...SIGNED_IN, 'GET /people': { body: [{ id: 'p1' }, { id: 'p2' }] } });
    await openSignedIn(<FirstDay />);
    await waitFor(() => expect(screen.getAllByLabelText('done')).toHaveLength(2));
    expect(screen.queryByRole('link', { name: 'Add a person' })).toBeNull();
    expect(screen.getByRole('link', { name: 'Open a job' }).getAttribute('href')).toBe('/new');
    expect(screen.getByText(/Complaint, Readings, Balance, Service, Prove, Readiness, Hand-over/)).toBeTruthy();
  });

  test('what is being captured is told with who has it, and watched with one press; nothing where nothing is', async () => {
    const since = new Date(Date.now() - 60_000).toISOString();
    const running = { id: 'c1', job: 'j9', label: 'Tarn 2.0', note: 'red', at: 'idle', since, hands: 'I. Sato' };
    // One recorded freely is for no operating point.
    const free = { ...running, id: 'c2', label: 'Corran 2.2', note: null, at: 'free' };
    server({ ...SIGNED_IN, 'GET /jobs/running': { body: [running, free] } });
    await openSignedIn(<Running />);
    const strip = await screen.findByRole('region', { name: 'Being captured now' });
    expect(strip.textContent).toMatch(/Tarn 2\.0, red.*idle, running for 1 minute.*I\. Sato/);
    expect(strip.textContent).toMatch(/Corran 2\.2.*free recording, running for/);
    expect(within(strip).getByRole('link', { name: 'Watch Tarn 2.0' }).getAttribute('href')).toBe('/jobs/j9/readings');
  });
});

describe('a drive that came back open', () => {
  const procedure = driveProcedure('steady-cruise')!;
  const drive: PracticeDrive = {
    procedure,
    before: { soakHours: 5, fuelPct: 61, airC: 16, altitudeM: 180 },
    time: [0, 1, 2, 3],
    channels: [{ id: 'vss', unit: 'km/h', values: [0, 20, 60, 66] }],
    open: { before: ['evap', 'catalyst'], after: ['evap'] },
    review: null,
  };
  const begun: AttemptView = { ...ATTEMPT, job: null, asks: [], moves: [], level: 'drive', drive };

  test('how it stood beside what is asked; a second that is none is named; the answer goes up', async () => {
    const asked = server({
      ...SIGNED_IN,
      'GET /practice/attempts/t1': { body: begun },
      'POST /practice/attempts/t1/drive': refused(409, 'it is named already'),
    });
    const { person } = await openSignedIn(under('/practice/:attemptId', <Debrief />), '/practice/t1');
    expect(await screen.findByText('One thing kept this drive from finishing')).toBeTruthy();
    const stood = screen.getByText('Engine off for').closest('dl')!;
    expect(stood.textContent).toMatch(/Engine off for5 h.*Outside air16 °C.*Fuel in the tank61 %/);
    // 40 to 100 °F and 8,000 ft of the procedure, in the reader's units (NIST SP 811).
    expect(screen.getByText(/^Outside air: 4 to 38 °C/)).toBeTruthy();
    expect(screen.getByText(/^Altitude: at most 2,438 m/)).toBeTruthy();
    const send = screen.getByRole('button', { name: 'That is it' }) as HTMLButtonElement;
    expect(send.disabled).toBe(true);
    await person.selectOptions(screen.getByRole('combobox', { name: 'What broke it' }), 'before:soak');
    await person.selectOptions(screen.getByRole('combobox', { name: 'What next' }), 'change');
    const second = screen.getByRole('textbox', { name: /^At second/ });
    await person.type(second, 'late');
    await person.click(send);
    expect(asked.some((a) => a.method === 'POST')).toBe(false);
    expect(screen.getByText('seconds from the start')).toBeTruthy();
    await person.clear(second);
    await person.type(second, '12,5');
    await person.click(send);
    expect(await screen.findByText('it is named already')).toBeTruthy();
    expect(asked.find((a) => a.path.endsWith('/drive'))!.body).toEqual({
      what: 'before:soak',
      second: 12.5,
      next: 'change',
    });
  });

  test('looked back at: points in the reader’s units, and the drive as the coach saw it', async () => {
    const time = Float64Array.from(drive.time);
    const channels = [{ id: 'vss', unit: 'km/h', time, value: Float64Array.from([0, 20, 60, 66]) }];
    const review = reviewDrive(procedure, { startedAt: null, channels, marks: [] }, { ambientC: 16, fuelPct: 61 });
    const driveAnswer = { what: 'step:idle', second: null, next: 'rest' as const, atMs: 0 };
    const done: AttemptView = {
      ...begun,
      drive: { ...drive, review },
      driveAnswer,
      answered: true,
      score: scoreDrive(procedure, review, driveAnswer),
      faults: [],
    };
    server({ ...SIGNED_IN, 'GET /practice/attempts/t1': { body: done } });
    await openSignedIn(under('/practice/:attemptId', <Debrief />), '/practice/t1');
    expect(await screen.findByText(`${done.score!.total} points`)).toBeTruthy();
    expect(screen.getByText('As the coach saw it')).toBeTruthy();
    const points = screen.getByRole('region', { name: 'Points' });
    expect(points.textContent).not.toMatch(/mph|°F/);
    expect(
      within(points)
        .getAllByRole('rowheader')
        .map((r) => r.textContent),
    ).toEqual(['What broke', 'When', 'What next']);
  });
});
