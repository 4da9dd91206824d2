import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { cleanup, fireEvent, screen, waitFor, within } from '@testing-library/react';
import { namesOf, noteName } from '../src/data/names.ts';
import type { NewWrite } from '../src/data/Outbox.ts';
import { offlineStore, uploader } from '../src/data/offlineRecordings.ts';
import type { OfflineRecording } from '../src/data/offlineTypes.ts';
import { outbox } from '../src/data/queue.ts';
import { store } from '../src/data/store.ts';
import { Frame, HouseNav } from '../src/frame/Frame.tsx';
import { WaitingBar } from '../src/frame/WaitingBar.tsx';
import { OfflineRecordings } from '../src/link/OfflineRecordings.tsx';
import { ArchiveIn } from '../src/pages/logbook/ArchiveIn.tsx';
import { AT, LEAD, open, openSignedIn, refused, SIGNED_IN, server } from './page.tsx';

beforeEach(async () => {
  localStorage.clear();
  const db = await store();
  await Promise.all((['outbox', 'spools', 'seconds'] as const).map((s) => db.clear(s)));
});
afterEach(async () => {
  cleanup();
  // What waits would be sent by the next test's server.
  const db = await store();
  await Promise.all((['outbox', 'spools', 'seconds'] as const).map((s) => db.clear(s)));
  await outbox.useAccount(null);
  await uploader.useAccount(null);
});

const entry = (label: string, path = '/jobs/j1/tests', body: object = { id: label }): NewWrite => ({
  ...{ jobId: 'j1', label, method: 'POST', path },
  body: JSON.stringify(body),
});
const bar = () => screen.getByRole('status', { name: 'Waiting on this device' });

describe('what waits on this device', () => {
  test('nothing waits, nothing is said', () => {
    const { container } = open(<WaitingBar />);
    expect(container.textContent).toBe('');
  });

  test('entries are counted as a person made them, the first named', async () => {
    server({ 'POST /jobs/j1/tests': 'away' });
    await outbox.useAccount('a1');
    await outbox.queue([entry('Result: smoke')]);
    open(<WaitingBar />);
    expect(bar().textContent).toMatch(
      /One entry waits on this device: Result: smoke\. It goes up by itself, once, in order\./,
    );
    cleanup();
    // Two writes of one press are one entry.
    await outbox.queue([entry('Reading by hand'), entry('Reading by hand')]);
    for (const label of ['a third', 'a fourth']) await outbox.queue([entry(label)]);
    open(<WaitingBar />);
    expect(bar().textContent).toMatch(
      /4 entries wait on this device: Result: smoke, Reading by hand, a third, a fourth\./,
    );
  });

  test('what somebody else wrote waits for them, and says nothing of what it is', async () => {
    server({ 'POST /jobs/j1/tests': 'away' });
    await outbox.useAccount('a2');
    await outbox.queue([entry('Result: smoke')]);
    await outbox.useAccount('a1');
    open(<WaitingBar />);
    expect(bar().textContent).toMatch(
      /One entry of somebody else waits on this device and goes up once that person signs in/,
    );
    expect(bar().textContent).not.toMatch(/smoke/);
    cleanup();
    // Whose it is, where they have signed in on this device.
    noteName('a2', 'I. Sato');
    open(<WaitingBar />);
    expect(bar().textContent).toMatch(/One entry of I\. Sato waits on this device/);
    expect(namesOf(['a2', 'a9', 'a2'])).toEqual(['I. Sato']);
  });

  describe('refused', () => {
    const set = async () => {
      let answer = refused(409, 'the job is closed');
      const asked = server({ 'POST /jobs/j1/tests': () => answer, ...SIGNED_IN, 'GET /jobs/j1': { body: {} } });
      await outbox.useAccount('a1');
      await outbox.queue([entry('Result: smoke', undefined, { id: 't1', n: 1 })]);
      const page = open(<WaitingBar />);
      const press = (name: string) => page.person.click(screen.getByRole('button', { name }));
      const take = () => {
        answer = { status: 201, body: { id: 't1', rev: 1 } };
      };
      return { ...page, press, take, sent: () => asked.filter((a) => a.method === 'POST').map((a) => a.body) };
    };
    test('it says why, and goes again as it is', async () => {
      const { press, take, sent } = await set();
      expect(bar().textContent).toMatch(/Result: smoke was not taken: the job is closed/);
      take();
      await press('Try again');
      await waitFor(() => expect(screen.queryByRole('status')).toBeNull());
      expect(sent()).toEqual([
        { id: 't1', n: 1 },
        { id: 't1', n: 1 },
      ]);
    });
    test('put right it goes up as it was put right; what is no JSON does not', async () => {
      const { press, take, sent } = await set();
      await press('Edit');
      const box = screen.getByLabelText('What goes up') as HTMLTextAreaElement;
      expect(JSON.parse(box.value)).toEqual({ id: 't1', n: 1 });
      fireEvent.change(box, { target: { value: '{"id": "t1", "n":' } });
      await press('Try again');
      expect(bar().textContent).toMatch(/This is not JSON/);
      take();
      fireEvent.change(box, { target: { value: '{"id": "t1", "n": 2}' } });
      await press('Try again');
      await waitFor(() => expect(screen.queryByRole('status')).toBeNull());
      expect(sent().at(-1)).toEqual({ id: 't1', n: 2 });
    });
    test('it can be saved as a file before it is deleted', async () => {
      const { press } = await set();
      const saved: string[] = [];
      URL.createObjectURL = () => 'blob:x';
      URL.revokeObjectURL = () => {};
      const click = jest.spyOn(HTMLAnchorElement.prototype, 'click').mockImplementation(function (
        this: HTMLAnchorElement,
      ) {
        saved.push(this.download);
      });
      await press('Save as a file');
      click.mockRestore();
      expect(saved).toEqual([expect.stringMatching(/^not-sent-\d+\.json$/)]);
      await press('Delete');
      await waitFor(() => expect(screen.queryByRole('status')).toBeNull());
      expect(await (await store()).getAll('outbox')).toEqual([]);
    });
  });
});

describe('recordings of this device', () => {
  const recording = (over: Partial<OfflineRecording> = {}): OfflineRecording => ({
    ...{ id: 's1', accountId: 'a1', jobId: 'j1', at: 'free', phase: 'before', coach: null, startedAtMs: 1 },
    ...{ seconds: 90, sent: 0, begun: true, events: [], ended: null, refused: null, ...over },
  });
  const shown = async (r: OfflineRecording, jobId = 'j1') => {
    server({ 'POST /jobs/j1/captures/s1/seconds': 'away', 'POST /jobs/j1/captures/s1/end': 'away' });
    await offlineStore.add(r);
    await uploader.useAccount('a1');
    return open(<OfflineRecordings jobId={jobId} />);
  };
  const says = () => screen.getByRole('status', { name: 'Recordings on this device' }).textContent;

  test('interrupted it goes on, or is ended where it stopped', async () => {
    const { person } = await shown(recording());
    expect(says()).toMatch(/was interrupted after 1:30\. It goes on once the adapter is connected\./);
    await person.click(screen.getByRole('button', { name: 'End it there' }));
    await waitFor(async () => expect((await offlineStore.recordings())[0]!.ended).toBe('stop'));
  });
  test('ended it waits for the shop; from another job its own is one press away', async () => {
    await shown(recording({ ended: 'stop', sent: 30, coach: 'general' }), 'j2');
    expect(says()).toMatch(/1:00 of a recording wait on this device and go up by themselves\./);
    expect(screen.getByRole('link', { name: 'To its job' }).getAttribute('href')).toBe('/jobs/j1/readiness?coach');
    expect(screen.queryByRole('button', { name: 'End it there' })).toBeNull();
  });
  test('not taken it says why; tried again or given up, seconds and all', async () => {
    const { person } = await shown(recording({ ended: 'stop', refused: 'the job is closed' }));
    expect(says()).toMatch(/was not taken: the job is closed/);
    await person.click(screen.getByRole('button', { name: 'Try again' }));
    await waitFor(async () => expect((await offlineStore.recordings())[0]!.refused).toBeNull());
    cleanup();
    await offlineStore.update('s1', () => ({ refused: 'no' }));
    await uploader.refresh();
    const again = open(<OfflineRecordings jobId="j1" />);
    await again.person.click(screen.getByRole('button', { name: 'Delete' }));
    await waitFor(async () => expect(await offlineStore.recordings()).toEqual([]));
  });
});

describe('around every page', () => {
  const page = () =>
    openSignedIn(
      <Frame title="The board" subtitle="today" side={<HouseNav current="board" />}>
        <p>the work</p>
      </Frame>,
    );
  test('the page one is on is marked; people are the lead’s', async () => {
    server(SIGNED_IN);
    page();
    const nav = within(await screen.findByRole('navigation', { name: 'House' }));
    expect(nav.getByRole('link', { name: 'Today' }).getAttribute('aria-current')).toBe('page');
    expect(nav.getByRole('link', { name: 'People' })).toBeTruthy();
    expect(screen.getByRole('link', { name: 'Skip to the work' }).getAttribute('href')).toBe('#main');
    cleanup();
    const rights = ['look', 'work', 'judge', 'drive'];
    server({ 'GET /session': { body: { account: { ...LEAD, rights }, setupNeeded: false, demo: null } } });
    page();
    await screen.findByRole('navigation', { name: 'House' });
    expect(screen.queryByRole('link', { name: 'People' })).toBeNull();
  });
  test('units, colours and keys are this device’s, and stay', async () => {
    server(SIGNED_IN);
    const { person } = page();
    await person.click(await screen.findByRole('button', { name: /units, now metric/ }));
    expect(screen.getByRole('button', { name: /units, now US/ })).toBeTruthy();
    await person.click(screen.getByRole('button', { name: 'Dark colours' }));
    expect(document.documentElement.dataset.theme).toBe('night');
    await person.click(screen.getByText('R. Okafor'));
    await person.click(screen.getByLabelText('Keys: 1–7 for stations, / to find a car'));
    cleanup();
    page();
    expect(await screen.findByRole('button', { name: /units, now US/ })).toBeTruthy();
    await person.click(screen.getByText('R. Okafor'));
    expect((screen.getByLabelText('Keys: 1–7 for stations, / to find a car') as HTMLInputElement).checked).toBe(false);
  });
  test('a car is found from every screen, those in the shop first; nothing found is said', async () => {
    const car = (id: string, more: object) => ({
      ...{ id, rev: 1, status: 'open', label: `Car ${id}`, note: null, plate: null, symptom: null, codes: [] },
      ...{ standing: AT, openedAt: '2026-05-04T08:00:00Z', openedBy: 'A. Lund', waits: [] },
      ...more,
    });
    const asked = server({
      ...SIGNED_IN,
      'GET /logbook?q=kl&limit=12': {
        body: [car('a', { status: 'closed', codes: ['P0171'] }), car('b', { plate: 'KL 4411', note: 'red van' })],
      },
      'GET /logbook?q=zz&limit=12': { body: [] },
    });
    const { person } = page();
    await screen.findByRole('navigation', { name: 'House' });
    await person.keyboard('/');
    const dialog = within(await screen.findByRole('dialog', { name: 'Find a car' }));
    const field = dialog.getByLabelText('Plate, car, or code');
    await person.type(field, 'kl');
    const links = within(await dialog.findByRole('list', { name: 'Jobs found' })).getAllByRole('link');
    expect(links.map((l) => l.textContent)).toEqual([
      expect.stringMatching(/^Plate KL 4411Car b, red van/),
      expect.stringMatching(/^Car aHanded over · P0171$/),
    ]);
    expect(links[0]!.getAttribute('href')).toBe('/jobs/b');
    // Asked for once the hand rests: not for every letter.
    expect(asked.filter((a) => a.path.startsWith('/logbook'))).toHaveLength(1);
    expect(dialog.getByRole('link', { name: 'In the logbook' }).getAttribute('href')).toBe('/logbook?q=kl');
    await person.clear(field);
    await person.type(field, 'zz');
    await dialog.findByText('No job has this.');
    await person.click(dialog.getByRole('button', { name: 'Close' }));
    expect(screen.queryByRole('dialog')).toBeNull();
  });
  test('signed out, also where the server does not answer', async () => {
    const asked = server({ ...SIGNED_IN, 'DELETE /session': 'away' });
    const { person } = page();
    await person.click(await screen.findByText('R. Okafor'));
    await person.click(screen.getByRole('button', { name: 'Sign out' }));
    await waitFor(() => expect(asked.some((a) => a.method === 'DELETE' && a.path === '/session')).toBe(true));
  });
});

describe('archives read in', () => {
  const file = (name: string) => new File(['PK'], name, { type: 'application/zip' });
  const box = () => document.querySelector('input[type=file]') as HTMLInputElement;
  test('one after the other: taken in, here already, changed since; a lead takes the whole shop away', async () => {
    const answers = [
      { job: 'j1', taken: true, differs: [] },
      { job: 'j2', taken: false, differs: [] },
      { job: 'j3', taken: false, differs: ['readings'] },
    ];
    server(SIGNED_IN);
    const get = globalThis.fetch;
    globalThis.fetch = (async (url: string, init: RequestInit) =>
      url === '/api/archives'
        ? ({ ok: true, status: 200, headers: new Map(), json: async () => answers.shift() } as never)
        : get(url, init)) as never;
    const { person } = openSignedIn(<ArchiveIn from="2026-05-01" to={null} />);
    const whole = await screen.findByRole('link', { name: /The jobs of these days as one file/ });
    expect(whole.getAttribute('href')).toBe('/api/archives?from=2026-05-01');
    await person.upload(box(), [file('a.jb.zip'), file('b.jb.zip'), file('c.jb.zip')]);
    await screen.findByText(/3 jobs read: 1 taken in, 2 here already\./);
    expect(document.body.textContent).toMatch(/a\.jb\.zip: taken in\./);
    expect(document.body.textContent).toMatch(/b\.jb\.zip: here already, the same\./);
    expect(document.body.textContent).toMatch(/c\.jb\.zip: here already, and has changed since; left as it is\./);
  });
  test('what is refused names its file and holds up none behind it; without the server none is read', async () => {
    let sent = 0;
    server(SIGNED_IN);
    const get = globalThis.fetch;
    globalThis.fetch = (async (url: string, init: RequestInit) => {
      if (url !== '/api/archives') return get(url, init);
      sent++;
      const body = { statusCode: 400, message: 'manifest.json: is missing' };
      return { ok: false, status: 400, headers: new Map(), json: async () => body } as never;
    }) as never;
    const { person } = openSignedIn(<ArchiveIn from={null} to={null} />);
    await screen.findByRole('link', { name: /The whole shop as one file/ });
    await person.upload(box(), [file('a.jb.zip'), file('b.jb.zip')]);
    await screen.findByText('b.jb.zip: manifest.json: is missing');
    expect(screen.getByText('a.jb.zip: manifest.json: is missing')).toBeTruthy();
    expect(sent).toBe(2);
    globalThis.fetch = (async (url: string, init: RequestInit) => {
      if (url !== '/api/archives') return get(url, init);
      sent++;
      throw new TypeError('Failed to fetch');
    }) as never;
    await person.upload(box(), [file('c.jb.zip'), file('d.jb.zip')]);
    await screen.findByText(/^c\.jb\.zip: /);
    expect(sent).toBe(3);
  });
  test('not for who may not judge', async () => {
    const rights = ['look', 'work'];
    server({ 'GET /session': { body: { account: { ...LEAD, rights }, setupNeeded: false, demo: null } } });
    openSignedIn(
      <>
        <p>here</p>
        <ArchiveIn from={null} to={null} />
      </>,
    );
    await screen.findByText('here');
    expect(screen.queryByText('Archives')).toBeNull();
  });
});
