import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { JOB_RESOURCES, type ServerMessage } from '@just-balance/contract';
import { act, cleanup, screen, waitFor, within } from '@testing-library/react';
import { Route, Routes } from 'react-router';
import { outbox } from '../src/data/queue.ts';
import { shopClock } from '../src/data/shopClock.ts';
import { Traces } from '../src/data/traces.ts';
import { judge } from '../src/job/judgement/diagnosis.worker.ts';
import { JobPage } from '../src/pages/job/JobPage.tsx';
import { drawsNothing, EMPTY_JOB, LEAD, openSignedIn, refused, SIGNED_IN, server } from './page.tsx';
import { workHere } from './workHere.ts';

drawsNothing();
workHere({ 'diagnosis.worker.ts': judge });

/** The socket of a page, its server's end in the test's hands. */
class Socket {
  static opened: Socket[] = [];
  sent: string[] = [];
  onopen: (() => void) | null = null;
  onmessage: ((e: { data: string }) => void) | null = null;
  onclose: ((e: { code: number }) => void) | null = null;
  constructor() {
    Socket.opened.push(this);
    queueMicrotask(() => this.onopen?.());
  }
  send(text: string) {
    this.sent.push(text);
  }
  close() {}
  tell(m: ServerMessage) {
    act(() => this.onmessage?.({ data: JSON.stringify(m) }));
  }
}
Object.assign(globalThis, { WebSocket: Socket });

beforeEach(async () => {
  localStorage.clear();
  Socket.opened = [];
  await outbox.useAccount('a1');
});
afterEach(cleanup);

const HEAD = {
  ...EMPTY_JOB,
  ...{ id: 'j1', rev: 3, status: 'open', openedAt: '2026-05-04T08:00:00Z', openedBy: 'A. Lund', changes: 1 },
  ...{ adapter: 'shop:1', ambient: { baroKPa: 99.1, airC: 18 }, practice: false, imported: null, waits: [] },
  vehicle: {
    ...{ id: 'v1', rev: 1, label: 'Marl 2.0', note: 'red estate', year: 2012, fuel: 'petrol', metering: 'maf' },
    ...{ displacementL: 2, cylinders: 4, banks: 1, odometerKm: 88_000 },
  },
  complaint: { story: 'Lamp came on', symptoms: ['lamp-only'], recentWork: [] },
};
type Rows = Partial<Record<(typeof JOB_RESOURCES)[number], object[]>>;
function page(path = '/jobs/j1/complaint', head: object = {}, rows: Rows = {}, more: object = {}) {
  const asked = server({
    ...SIGNED_IN,
    'GET /jobs/j1': { body: { ...HEAD, ...head } },
    ...Object.fromEntries(JOB_RESOURCES.map((r) => [`GET /jobs/j1/${r}`, { body: rows[r] ?? [] }])),
    'GET /jobs/j1/diagnosis?newest=2': { body: rows.diagnosis ?? [] },
    'GET /jobs/j1/link': { body: null },
    'GET /jobs/j1/captures/running': { body: { status: null } },
    ...{ 'GET /adapters': { body: [] }, 'GET /bays': { body: [] }, 'GET /practice/attempts': { body: [] } },
    'GET /vehicles/v1/changes?rev=1': { body: [] },
    ...more,
  });
  const opened = openSignedIn(
    <Routes>
      <Route path="/jobs/:jobId/:station?" element={<JobPage />} />
      <Route path="/" element={<p>the board</p>} />
    </Routes>,
    path,
  );
  return { ...opened, asked, socket: () => Socket.opened.at(-1)! };
}
const stations = async () => within(await screen.findByRole('navigation', { name: 'Stations' }));
const LINK = { adapter: 'shop:1', state: 'ready', detail: '', valuesPerSecond: 212, rates: {} } as const;

describe('a job on its page', () => {
  test('says which car it is; opened without a station it is at the one it waits at', async () => {
    page('/jobs/j1');
    const nav = await stations();
    expect(nav.getAllByRole('link')).toHaveLength(7);
    expect(document.body.textContent).toMatch(/Marl 2\.0, red estate.*2012 · metered air · 1 bank · 88,000 km/);
    expect(document.body.textContent).toMatch(/99\.1 kPa.*18 °C/);
    expect(nav.getAllByRole('link').filter((l) => l.getAttribute('aria-current') === 'step')).toHaveLength(1);
  });
  test('number keys go to the stations', async () => {
    const { person } = page();
    await stations();
    await person.keyboard('2');
    await waitFor(async () =>
      expect((await stations()).getByRole('link', { name: /Readings/ }).getAttribute('aria-current')).toBe('step'),
    );
  });
  test('a job that is not here says so, with the way back', async () => {
    page(undefined, {}, {}, { 'GET /jobs/j1': refused(404, 'no such job') });
    await screen.findByText('No such job in this shop');
    expect(screen.getByRole('link', { name: 'To the board' })).toBeTruthy();
  });
  test('one that cannot be read now says why', async () => {
    page(undefined, {}, {}, { 'GET /jobs/j1': refused(500, 'the disk is full') });
    await screen.findByText('The job could not be opened');
    expect(document.body.textContent).toMatch(/the disk is full/);
  });
  test('a station that breaks leaves the others standing', async () => {
    const { person } = page('/jobs/j1/hand-over', {}, { readings: [{ id: 'x' }] });
    await screen.findByText('This station cannot be shown');
    const nav = await stations();
    await person.click(nav.getByRole('link', { name: /Complaint/ }));
    await screen.findByLabelText('Who noticed what, and when');
  });
});

describe('what its socket tells', () => {
  test('the link: rate, silence, loss, in words', async () => {
    const { socket } = page();
    await stations();
    await waitFor(() => expect(socket().sent).toHaveLength(1));
    expect(JSON.parse(socket().sent[0]!)).toMatchObject({ type: 'subscribe', jobId: 'j1' });
    socket().tell({ type: 'link', jobId: 'j1', status: LINK } as never);
    expect(document.body.textContent).toMatch(/212\/s/);
    for (const [state, words] of [
      ['silent', 'vehicle silent'],
      ['lost', 'adapter lost'],
      ['connecting', 'connecting'],
    ] as const) {
      socket().tell({ type: 'link', jobId: 'j1', status: { ...LINK, state } } as never);
      expect(document.body.textContent).toContain(words);
    }
  });
  test('who else has it open; one’s own other screen is said as such', async () => {
    const { socket } = page();
    await stations();
    socket().tell({ type: 'present', jobId: 'j1', people: [LEAD.name] } as never);
    expect(document.body.textContent).not.toMatch(/Also here/);
    socket().tell({ type: 'present', jobId: 'j1', people: [LEAD.name, 'B. Ortiz', LEAD.name] } as never);
    expect(document.body.textContent).toMatch(/Also here: B\. Ortiz, you, on another screen/);
    const at = [null, 'Service: Unplug it.', null];
    socket().tell({ type: 'present', jobId: 'j1', people: [LEAD.name, 'B. Ortiz', LEAD.name], at } as never);
    expect(document.body.textContent).toMatch(/Also here: B\. Ortiz at Service: Unplug it\., you, on another screen/);
  });
  test('what another screen changed is looked at again; what this one wrote is not', async () => {
    const { socket, asked } = page();
    await stations();
    const reads = () => asked.filter((a) => a.path === '/jobs/j1/tests').length;
    const before = reads();
    socket().tell({ type: 'changed', jobId: 'j1', resources: ['tests'], screen: 'another' } as never);
    await waitFor(() => expect(reads()).toBe(before + 1));
  });
  test('each beat of the socket says what o’clock it is in the shop', async () => {
    const { socket } = page();
    await stations();
    const at = Date.now();
    socket().tell({ type: 'beat', sentMs: at, clockMs: at + 600_000 });
    expect(Math.abs(shopClock.offsetMs - 600_000)).toBeLessThan(2000);
    // One that does not say when it was asked says nothing of the way.
    socket().tell({ type: 'beat', sentMs: null, clockMs: at });
    expect(Math.abs(shopClock.offsetMs - 600_000)).toBeLessThan(2000);
    socket().tell({ type: 'beat', sentMs: at, clockMs: Date.now() });
    expect(Math.abs(shopClock.offsetMs)).toBeLessThan(2000);
  });
  test('away it says so, and connects again by itself', async () => {
    const { socket } = page();
    await stations();
    const first = socket();
    act(() => first.onclose?.({ code: 1006 }));
    expect(document.body.textContent).toMatch(/The server does not answer\. Everything shown as kept is safe/);
    await waitFor(() => expect(socket()).not.toBe(first));
    socket().tell({ type: 'subscribed', jobId: 'j1', changes: 1 } as never);
    expect(document.body.textContent).not.toMatch(/The server does not answer/);
  });
});

test('traces keep two minutes of a channel, ten of what settles', () => {
  const traces = new Traces();
  for (let t = 0; t <= 700; t++) {
    traces.add('maf', t, 3);
    traces.add('ltft1', t, 1);
  }
  expect([traces.get('maf')![0]!.t, traces.get('ltft1')![0]!.t]).toEqual([580, 100]);
  expect(traces.get('maf')!.at(-1)).toEqual({ t: 700, v: 3 });
});
