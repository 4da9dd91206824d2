import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import { type AccountView, ROUTES } from '@just-balance/contract';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { Route, Routes } from 'react-router';
import { mutate } from 'swr';
import { Gate } from '../src/app/Gate.tsx';
import { api } from '../src/data/api.ts';
import { useDraft } from '../src/data/drafts.ts';
import { outbox } from '../src/data/queue.ts';
import { leaveAccount, wasSignedIn } from '../src/data/session.tsx';
import { AccountPage } from '../src/pages/people/AccountPage.tsx';
import { VehiclePage } from '../src/pages/vehicle/VehiclePage.tsx';
import { drawsNothing, LEAD, openRoutes, openSignedIn, refused, SIGNED_IN, said, server } from './page.tsx';

drawsNothing();
beforeEach(async () => {
  localStorage.clear();
  await outbox.useAccount('a1');
});
afterEach(cleanup);
const input = (label: RegExp | string) => screen.getByLabelText(label) as HTMLInputElement;

describe('one’s own account', () => {
  // As browsers say who they are (from memory: Mozilla’s and Chromium’s user agent strings).
  const FIREFOX = 'Mozilla/5.0 (X11; Linux x86_64; rv:150.0) Gecko/20100101 Firefox/150.0';
  const EDGE = 'Mozilla/5.0 (Windows NT 10.0; Win64; x64) AppleWebKit/537.36 (KHTML, like Gecko) Edg/150.0.1';
  const session = (id: string, device: string, current = false) => ({
    ...{ id, device, current, since: '2026-05-01T08:00:00Z', seen: '2026-05-04T08:00:00Z' },
  });

  test('each browser by its name; one is signed out, or all others', async () => {
    let left = [session('s1', FIREFOX, true), session('s2', EDGE), session('s3', 'jb/1')];
    const asked = server({
      ...SIGNED_IN,
      'GET /account/sessions': () => ({ body: left }),
      'DELETE /account/sessions/s2': () => {
        left = left.filter((s) => s.id !== 's2');
        return { body: {} };
      },
      'DELETE /account/sessions': () => {
        left = left.filter((s) => s.current);
        return { body: {} };
      },
    });
    const { person } = openSignedIn(<AccountPage />);
    const list = within(await screen.findByRole('list', { name: 'Sessions' }));
    await waitFor(() => expect(list.getAllByRole('listitem')).toHaveLength(3));
    const lines = list.getAllByRole('listitem').map((l) => l.textContent);
    expect(lines[0]).toMatch(/^Firefox, .*this browser$/);
    expect(lines[1]).toMatch(/^Edge, /);
    expect(lines[2]).toMatch(/^jb\/1/);
    expect(screen.getByText('You are signed in on 2 more.')).toBeTruthy();
    await person.click(list.getAllByRole('button', { name: 'Sign out' })[0]!);
    await screen.findByText('You are signed in on 1 more.');
    await person.click(screen.getByRole('button', { name: 'Sign out everywhere else' }));
    await screen.findByText('You are signed in on this browser only.');
    expect((screen.getByRole('button', { name: 'Sign out everywhere else' }) as HTMLButtonElement).disabled).toBe(true);
    expect(asked.filter((a) => a.method === 'DELETE').map((a) => a.path)).toEqual([
      '/account/sessions/s2',
      '/account/sessions',
    ]);
  });

  test('another password: too short is said at its field, a wrong one beside, a good one once', async () => {
    let right = false;
    const asked = server({
      ...SIGNED_IN,
      'GET /account/sessions': { body: [session('s1', FIREFOX, true)] },
      'POST /account/password': () =>
        right
          ? { body: {} }
          : refused(403, 'not the present password', { errors: [{ field: 'current', message: 'is not it' }] }),
    });
    const { person } = openSignedIn(<AccountPage />);
    await person.type(await screen.findByLabelText('Present password'), 'old words here');
    await person.type(input(/^New password/), 'short');
    const change = () => person.click(screen.getByRole('button', { name: 'Change it' }));
    await change();
    await waitFor(() => expect(said(input(/^New password/))).toMatch(/10/));
    expect(asked.some((a) => a.method === 'POST')).toBe(false);
    await person.type(input(/^New password/), ' and long enough');
    await change();
    await waitFor(() => expect(said(input('Present password'))).toBe('is not it'));
    expect(screen.queryByText(/^Changed\./)).toBeNull();
    right = true;
    await change();
    await screen.findByText('Changed. Every other browser of yours is signed out.');
    expect(input('Present password').value).toBe('');
    expect(asked.findLast((a) => a.method === 'POST')!.body).toEqual({
      current: 'old words here',
      next: 'short and long enough',
    });
  });
});

describe('the gate', () => {
  const GUARDED = [{ path: '/', Component: Gate, children: [{ index: true, element: <p>inside</p> }] }];
  const arrive = () => openRoutes(GUARDED);

  test('nobody is signed in: what was asked for is not shown, and this browser forgets that somebody was', async () => {
    localStorage.setItem('jb-signed-in', '1');
    server({ 'GET /session': { body: { account: null, setupNeeded: false, demo: null } } });
    arrive();
    await screen.findByLabelText('Email');
    expect(screen.queryByText('inside')).toBeNull();
    await waitFor(() => expect(wasSignedIn()).toBe(false));
  });

  test('somebody is: what was asked for, and it is remembered', async () => {
    server(SIGNED_IN);
    arrive();
    await screen.findByText('inside');
    await waitFor(() => expect(wasSignedIn()).toBe(true));
  });

  test('what is half typed outlives a page loaded anew, and another person who signs in there finds none of it', async () => {
    const Note = () => {
      const [text, set] = useDraft('j1 note', '');
      return <input aria-label="Notes" value={text} onChange={(e) => set(e.target.value)} />;
    };
    const of = async (account: AccountView) => {
      cleanup();
      server({ 'GET /session': { body: { account, setupNeeded: false, demo: null } } });
      const page = openRoutes([{ path: '/', Component: Gate, children: [{ index: true, Component: Note }] }]);
      return { ...page, notes: (await screen.findByLabelText('Notes')) as HTMLInputElement };
    };
    const { person, notes } = await of(LEAD);
    await person.type(notes, 'plug loose');
    expect((await of(LEAD)).notes.value).toBe('plug loose');
    // The tab was left open, the session ended by itself: nobody signed out.
    expect((await of({ ...LEAD, id: 'somebody-else' })).notes.value).toBe('');
    expect((await of(LEAD)).notes.value).toBe('');
  });

  test('a session that is ended elsewhere asks for sign-in at once; the same person finds what was typed, another does not', async () => {
    let account: AccountView | null = LEAD;
    server({
      'GET /session': () => ({ body: { account, setupNeeded: false, demo: null } }),
      'GET /adapters': () => (account ? { body: [] } : refused(401, 'sign in first')),
    });
    const Inside = () => <input aria-label="Notes" />;
    const { person } = openRoutes([{ path: '/', Component: Gate, children: [{ index: true, Component: Inside }] }]);
    await person.type(await screen.findByLabelText('Notes'), 'plug loose');
    account = null;
    await api.get(ROUTES.adapters).catch(() => {});
    await screen.findByLabelText('Email');
    const notes = screen.getByLabelText('Notes') as HTMLInputElement;
    expect([notes.value, notes.closest('[inert]') !== null]).toEqual(['plug loose', true]);
    account = LEAD;
    await mutate(ROUTES.session);
    await waitFor(() => expect(screen.queryByLabelText('Email')).toBeNull());
    expect([notes.isConnected, notes.value, notes.closest('[inert]')]).toEqual([true, 'plug loose', null]);
    // Signed out by hand: nothing stays.
    leaveAccount();
    account = null;
    await mutate(ROUTES.session);
    await screen.findByLabelText('Email');
    expect([screen.queryByLabelText('Notes'), notes.isConnected]).toEqual([null, false]);
    // Somebody else then: the page begins anew, with nothing of what was read before.
    account = { ...LEAD, id: 'somebody-else' };
    await mutate(ROUTES.session);
    await screen.findByText('Opening…');
    expect(screen.queryByLabelText('Notes')).toBeNull();
  });

  test('a server that does not answer says so, and is tried again', async () => {
    let there = false;
    server({ 'GET /session': () => (there ? SIGNED_IN['GET /session'] : 'away') });
    const { person } = arrive();
    await screen.findByText('The server does not answer');
    there = true;
    await person.click(screen.getByRole('button', { name: 'Try again' }));
    await screen.findByText('inside');
  });
});

describe('a vehicle over the years', () => {
  const VEHICLE = {
    ...{ id: 'v1', rev: 1, label: 'Marl 2.0', note: 'blue', plate: 'LY 2204', fuel: 'petrol', metering: 'maf' },
    ...{ displacementL: 2, cylinders: 4, banks: 1 },
  };
  const visit = (job: string, at: string, more: object = {}) => ({
    ...{ job, at, status: 'closed', station: 'hand-over', causes: [], verdict: null, proven: false, cameBackOf: null },
    ...{ repairs: [], points: [] },
    ...more,
  });
  const shown = (visits: object[]) => {
    server({
      ...SIGNED_IN,
      'GET /vehicles/v1/history': { body: { vehicle: VEHICLE, visits } },
      'GET /vehicles/v1/changes': { body: [] },
    });
    return openSignedIn(
      <Routes>
        <Route path="/vehicles/:vehicleId" element={<VehiclePage />} />
      </Routes>,
      '/vehicles/v1',
    );
  };

  test('the same cause twice is asked about; visits the newest first, each with what stands of it', async () => {
    shown([
      visit('j1', '2025-03-02T09:00:00Z', { causes: ['vac-leak-bank1'], verdict: 'proven', proven: true }),
      visit('j2', '2026-04-20T09:00:00Z', { causes: ['vac-leak-bank1'], cameBackOf: 'j1', repairs: ['hose replaced'] }),
    ]);
    expect(await screen.findByText(/: 2 visits$/)).toBeTruthy();
    expect(screen.getByText('The same cause more than once: was its source found?')).toBeTruthy();
    expect(screen.getByRole('link', { name: 'Open the last job' }).getAttribute('href')).toBe('/jobs/j2');
    expect(screen.getByRole('link', { name: 'In the logbook' }).getAttribute('href')).toBe('/logbook?vehicle=v1');
    const visits = within(screen.getByText('Visits').closest('section')!).getAllByRole('listitem');
    expect(visits[0]!.textContent).toMatch(/^20 April 2026.*came back.*hose replaced$/);
    expect(visits[1]!.textContent).toMatch(/^2 March 2025.*proven/);
    // Nothing was measured: no picture of nothing.
    expect(screen.queryByText('Its figures over time')).toBeNull();
  });

  test('figures of every visit: the newest solid, all of them below, those without trims left out', async () => {
    shown([
      visit('j1', '2025-03-02T09:00:00Z', {
        points: [
          { at: 'idle', phase: 'before', totals: [{ bank: 1, totalPct: 14 }] },
          { at: 'hold-2500', phase: 'before', totals: [] },
        ],
      }),
      visit('j2', '2026-04-20T09:00:00Z', {
        points: [{ at: 'idle', phase: 'after', totals: [{ bank: 1, totalPct: -1.5 }] }],
      }),
    ]);
    const picture = (await screen.findByText('Its figures over time')).closest('section')!;
    const rows = within(picture)
      .getAllByRole('listitem', { hidden: true })
      .map((l) => l.textContent);
    expect(rows).toEqual([
      expect.stringMatching(/^20 Apr 2026, idle, after: −1\.5 %$/),
      expect.stringMatching(/^2 Mar 2025, idle, before: \+14\.0 %$/),
    ]);
    const table = within(picture).getByRole('table', { hidden: true, name: /newest solid/ });
    expect(table.textContent).toMatch(/−1\.5 % in band/);
    expect(table.textContent).toMatch(/14\.0/);
  });

  test('one that was never here, and one that cannot be shown', async () => {
    shown([]);
    expect(await screen.findByText('It has not been here yet.')).toBeTruthy();
    expect(screen.queryByRole('link', { name: 'Open the last job' })).toBeNull();
    cleanup();
    server({ ...SIGNED_IN, 'GET /vehicles/v9/history': refused(404, 'No such vehicle.') });
    openSignedIn(
      <Routes>
        <Route path="/vehicles/:vehicleId" element={<VehiclePage />} />
      </Routes>,
      '/vehicles/v9',
    );
    expect(await screen.findByText('This vehicle cannot be shown')).toBeTruthy();
    expect(screen.getByText('No such vehicle.')).toBeTruthy();
  });
});
