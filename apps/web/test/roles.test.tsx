import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { JOB_RESOURCES, type JobResource } from '@just-balance/contract';
import { SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { act, cleanup, fireEvent, screen, waitFor } from '@testing-library/react';
import type { ReactNode } from 'react';
import { Route, Routes } from 'react-router';
import { allowed, ROUTES as RIGHTS, ROLES, rightsOf } from '../../server/src/accounts/rights.ts';
import { outbox } from '../src/data/queue.ts';
import { store } from '../src/data/store.ts';
import { judge } from '../src/job/judgement/diagnosis.worker.ts';
import { Board } from '../src/pages/board/Board.tsx';
import { JobPage } from '../src/pages/job/JobPage.tsx';
import { NewJob } from '../src/pages/newJob/NewJob.tsx';
import { PartsPage } from '../src/pages/parts/PartsPage.tsx';
import { Practice } from '../src/pages/practice/Practice.tsx';
import { OwnTexts } from '../src/pages/shop/OwnTexts.tsx';
import { type Answer, drawsNothing, EMPTY_JOB, LEAD, openSignedIn } from './page.tsx';
import { workHere } from './workHere.ts';

/*
 * Every screen under every role: what is shown is pressed, and what then leaves the page is held against the server's
 * own table. Nobody is shown a button that would be refused.
 */

drawsNothing();
workHere({ 'diagnosis.worker.ts': judge });
Object.assign(globalThis, {
  WebSocket: class {
    onopen: (() => void) | null = null;
    send() {}
    close() {}
  },
  print: () => undefined,
});
window.print = () => undefined;
window.scrollTo = () => undefined;
URL.createObjectURL = () => 'blob:x';
URL.revokeObjectURL = () => undefined;

beforeEach(async () => {
  localStorage.clear();
  sessionStorage.clear();
  await outbox.useAccount('a1');
});
afterEach(async () => {
  cleanup();
  const db = await store();
  await Promise.all((['outbox', 'spools', 'seconds'] as const).map((s) => db.clear(s)));
});

const AT = '2026-05-04T08:30:00Z';
const row = (id: string, more: object) => ({ id, rev: 1, at: AT, by: 'A. Lund', undone: false, ...more });
const trims = { bank1: { stft: 4, ltft: 9 } };
const reading = { at: 'idle', mafGps: 2.1, rpm: 700, trims, loop: 'closed', ectC: 90 };
const run = (id: string, ...what: object[]) => ({
  ...{ id, at: AT, by: 'A. Lund', procedure: SHIPPED_PROCEDURES.find((p) => p.id === 'airflow-sensor-clean')! },
  events: what.map((w, i) => ({ id: `${id} ${i}`, atMs: 1000 * i, by: 'A. Lund', what: w })),
});
const ROWS: Partial<Record<JobResource, object[]>> = {
  records: [
    row('r1', {
      ...{ phase: 'before', source: 'hand', freezeFrame: [], lampOn: true, cycle: null, tests: [] },
      codes: [{ code: 'P0171', state: 'stored', text: 'System too lean, bank 1' }],
      counters: { runTimeS: null, lampDistanceKm: null, lampMinutes: null, minutesSinceClear: null },
      ...{ warmupsSinceClear: null, distanceSinceClearKm: null },
      monitors: { lampOn: true, codeCount: 1, ignition: 'spark', monitors: [{ id: 'catalyst', state: 'incomplete' }] },
    }),
  ],
  readings: [row('g1', { phase: 'before', source: 'hand', captureId: null, doubtful: null, reading })],
  tests: [row('t1', { phase: 'before', test: { id: 'smoke-intake', outcome: 'none' } })],
  repairs: [row('p1', { text: 'hose replaced', adaptation: 'relearn', work: 'replaced', part: 'hose' })],
  known: [row('k1', { at: 'idle', quantity: 'airflow', low: 2, high: 4, layer: 'entered', source: 'book, page 3' })],
  entries: [row('e1', { kind: 'outcome', data: { part: 'maf', held: true } })],
  runs: [run('w1', { kind: 'given-up', reason: 'no cleaner in the house' })],
};
const HEAD = {
  ...EMPTY_JOB,
  ...{ id: 'j1', rev: 3, status: 'open', openedAt: AT, openedBy: 'A. Lund', changes: 1, adapter: 'shop:1' },
  ...{ ambient: { baroKPa: 99.1, airC: 18 }, practice: false, imported: null, waits: [] },
  vehicle: {
    ...{ id: 'v1', rev: 1, label: 'Marl 2.0', year: 2012, fuel: 'petrol', metering: 'maf' },
    ...{ displacementL: 2, cylinders: 4, banks: 1, odometerKm: 88_000 },
  },
  complaint: { story: 'Lamp came on', symptoms: ['lamp-only'], recentWork: [{ part: 'air-filter' }] },
};

const SMOKE = [row('t1', { phase: 'before', test: { id: 'smoke-intake', outcome: 'duct' } })];

type Role = keyof typeof ROLES;
const ALL = Object.keys(ROLES) as Role[];

/** A server that refuses whatever is written, and keeps what was asked. */
function serverFor(role: Role, more: Readonly<Record<string, Answer>>) {
  const written: string[] = [];
  const account = { ...LEAD, role, rights: [...rightsOf(role)] };
  const rows = Object.fromEntries(JOB_RESOURCES.map((r) => [`/jobs/j1/${r}`, ROWS[r] ?? []]));
  const reads: Record<string, unknown> = {
    '/session': { account, setupNeeded: false, demo: null },
    '/jobs/j1': HEAD,
    ...rows,
    '/jobs/orders': [
      { job: 'j1', label: 'Marl 2.0', note: null, run: 'w1', part: 'seal ring', is: 'wanted', by: 'A. Lund', at: AT },
    ],
    '/jobs/j1/link': null,
    '/jobs/j1/captures/running': { status: null },
    ...more,
  };
  globalThis.fetch = (async (url: string, init: { method?: string } = {}) => {
    const path = url.replace('/api', '').replace(/\?.*/, '');
    const method = init.method ?? 'GET';
    if (method !== 'GET') written.push(`${method} ${path}`);
    const status = method === 'GET' ? 200 : 422;
    const body = method === 'GET' ? (reads[path] ?? []) : { statusCode: 422, message: 'not now', errors: [] };
    const json = JSON.stringify(body);
    return {
      ...{ ok: status < 300, status, headers: new Map(), json: async () => JSON.parse(json), text: async () => json },
      arrayBuffer: async () => new ArrayBuffer(0),
    };
  }) as never;
  return written;
}

/** The row of the server's table a request falls under. */
function rowOf(request: string): string {
  const [method, path] = request.split(' ') as [string, string];
  const row = Object.keys(RIGHTS).find((r) => {
    const [m, p] = r.split(' ') as [string, string];
    return m === method && new RegExp(`^${p.replace(/:\w+/g, '[^/]+')}$`).test(`/api${path}`);
  });
  if (!row) throw new Error(`no such route: ${request}`);
  return row;
}

const shown = () => {
  const main = screen.queryByRole('main') ?? document.body;
  return [...main.querySelectorAll<HTMLButtonElement>('button')].filter((b) => !b.matches(':disabled, [role=tab]'));
};
const nameOf = (b: Element) => (b.getAttribute('aria-label') ?? b.textContent ?? '').replace(/\s+/g, ' ').trim();
const settle = () => act(() => new Promise((done) => setTimeout(done, 5)));

/** Press all there is, these first, and all that comes of it, each once; or these only. A box that has to be ticked first is ticked. */
async function pressAll(before: readonly string[], only: boolean): Promise<Set<string>> {
  // Goes to another view.
  const pressed = new Set(['More work']);
  for (let i = 0; i < 120; i++) {
    for (const box of document.querySelectorAll<HTMLInputElement>('input[type=checkbox]:enabled:not(:checked)'))
      fireEvent.click(box);
    const open = shown().filter((b) => !pressed.has(nameOf(b)));
    const next = open.find((b) => before.includes(nameOf(b))) ?? (only ? undefined : open[0]);
    if (!next) return pressed;
    pressed.add(nameOf(next));
    await act(async () => {
      fireEvent.click(next);
    });
    await settle();
  }
  return pressed;
}

const PAGES: Readonly<Record<string, ReactNode>> = {
  '/': <Board />,
  '/new': <NewJob />,
  '/parts': <PartsPage />,
  '/practice': <Practice />,
  '/shop/texts': <OwnTexts kind="service" />,
};

/** A screen, what it shows once it is there, and its presses with what each needs. */
const SCREENS: readonly {
  path: string;
  is: RegExp;
  presses: Readonly<Record<string, 'work' | 'judge' | 'drive' | 'lead'>>;
  rows?: Partial<Record<JobResource, object[]>>;
}[] = [
  {
    path: '/jobs/j1/complaint',
    is: /On record/,
    presses: {
      'Enter by hand': 'work',
      'Read from the vehicle': 'work',
      'Change the card': 'work',
      'Put it right': 'work',
    },
  },
  { path: '/jobs/j1/readings', is: /Take|Kept/, presses: { 'Enter by hand': 'work', 'Import a log': 'work' } },
  {
    path: '/jobs/j1/balance',
    is: /In words/,
    presses: { 'Airflow, idle: enter a better figure': 'judge', 'Take back': 'judge' },
  },
  { path: '/jobs/j1/service', is: /Reset or relearn/, presses: { 'Go on with it': 'work' } },
  {
    path: '/jobs/j1/service?view=plan',
    is: /Another procedure/,
    rows: { repairs: [], tests: SMOKE },
    presses: { Begin: 'work' },
  },
  {
    path: '/jobs/j1/service?view=by-hand',
    is: /Repairs/,
    presses: { 'Keep the repair': 'judge' },
  },
  { path: '/jobs/j1/service?view=after-the-repair', is: /What is lost/, presses: { 'Clear now': 'judge' } },
  { path: '/jobs/j1/service?view=parts-and-figures', is: /On record/, presses: { Undo: 'work' } },
  { path: '/jobs/j1/service?view=clean-or-replace', is: /cheaper way/, presses: { 'Decide: replace': 'work' } },
  {
    path: '/jobs/j1/service',
    is: /step 1 of/,
    rows: { runs: [run('w2')], repairs: [] },
    presses: { 'Park it': 'work', 'Give up': 'work', 'Something broke or fell': 'work' },
  },
  { path: '/jobs/j1/prove', is: /.*/, presses: {} },
  { path: '/jobs/j1/readiness', is: /Catalyst/, presses: { 'Enter by hand': 'work', 'Read again': 'work' } },
  { path: '/jobs/j1/readiness?inspection=1', is: /Before the inspection/, presses: {} },
  { path: '/jobs/j1/hand-over', is: /Close|Read it once/, presses: { 'Close the job': 'work' } },
  { path: '/', is: /.*/, presses: {} },
  { path: '/new', is: /New job/, presses: { 'Open the job': 'work' } },
  { path: '/parts', is: /1 part to order/, presses: { 'seal ring: Ordered': 'work' } },
  { path: '/practice', is: /Practice/, presses: {} },
  { path: '/shop/texts', is: /procedure/i, presses: {} },
];

describe('screens and roles', () => {
  for (const role of ALL)
    test.each(SCREENS.map((s) => [s.path, s] as const))(`${role} at %s`, async (_, s) => {
      const rows = Object.fromEntries(Object.entries(s.rows ?? {}).map(([k, v]) => [`/jobs/j1/${k}`, v]));
      const written = serverFor(role, rows as never);
      openSignedIn(
        <Routes>
          <Route path="/jobs/:jobId/:station?" element={<JobPage />} />
          {Object.entries(PAGES).map(([path, page]) => (
            <Route key={path} path={path} element={page} />
          ))}
        </Routes>,
        s.path,
      );
      await waitFor(() => expect(document.body.textContent).toMatch(s.is));
      await settle();
      const may = rightsOf(role) as readonly string[];
      const first = shown().map(nameOf);
      const pressed = await pressAll(Object.keys(s.presses), may.includes('judge'));
      for (const [press, needs] of Object.entries(s.presses))
        expect([press, first.includes(press) || pressed.has(press)]).toEqual([press, may.includes(needs)]);
      expect(written.filter((w) => !allowed(role, rowOf(w)))).toEqual([]);
      if (!may.includes('work')) {
        const main = screen.queryByRole('main') ?? document.body;
        expect([...main.querySelectorAll('[type=submit]:enabled')].map(nameOf)).toEqual([]);
        expect([...main.querySelectorAll('input[type=file]')]).toEqual([]);
        for (const key of ['h', ' ', 'ArrowLeft']) fireEvent.keyDown(document.body, { key });
        expect(main.querySelectorAll('dialog[open]')).toHaveLength(0);
        expect(written).toEqual([]);
      }
    });
});
