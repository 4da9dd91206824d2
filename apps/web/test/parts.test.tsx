import 'fake-indexeddb/auto';
import { afterEach, beforeEach, describe, expect, test } from '@jest/globals';
import type { PartOrderView } from '@just-balance/contract';
import { cleanup, screen, waitFor, within } from '@testing-library/react';
import { outbox } from '../src/data/queue.ts';
import { store } from '../src/data/store.ts';
import { ToOrder } from '../src/pages/board/Waits.tsx';
import { PartsPage } from '../src/pages/parts/PartsPage.tsx';
import { open, openSignedIn, SIGNED_IN, server } from './page.tsx';

beforeEach(async () => {
  localStorage.clear();
  await outbox.useAccount('a1');
});
afterEach(async () => {
  cleanup();
  const db = await store();
  await db.clear('outbox');
});

const RING: PartOrderView = {
  ...{ job: 'j1', label: 'Marl 2.0', note: 'red', run: 'w1', part: 'seal ring', is: 'wanted' },
  ...{ by: 'A. Lund', at: '2026-05-04T08:30:00Z' },
};
const HOSE: PartOrderView = {
  ...RING,
  job: 'j2',
  label: 'Tarn 1.6',
  note: null,
  run: 'w2',
  part: 'hose',
  is: 'ordered',
};
const row = (name: RegExp) => within(screen.getByRole('row', { name }));

describe('parts of all jobs', () => {
  test('each with its car and where it stands; one press says more, kept first on this device', async () => {
    let list = [RING, HOSE];
    const asked = server({
      ...SIGNED_IN,
      'GET /jobs/orders': () => ({ body: list }),
      'POST /jobs/j1/runs/w1/events': (a) => {
        list = [{ ...RING, is: a.body.events[0].what.is }, HOSE];
        return { body: { id: 'w1', events: [] } };
      },
    });
    const { person } = openSignedIn(<PartsPage />);
    await screen.findByText('1 part to order');
    expect(row(/^hose/).getByRole('link', { name: 'Tarn 1.6' }).getAttribute('href')).toBe('/jobs/j2/service');
    expect(row(/^seal ring/).getByText('to order')).toBeTruthy();
    await person.click(screen.getByRole('button', { name: 'seal ring: Ordered' }));
    await screen.findByText('Nothing to order');
    expect(asked.find((a) => a.method === 'POST')!.body.events[0].what).toEqual({
      ...{ kind: 'order', part: 'seal ring', is: 'ordered' },
    });
    expect(screen.getByText(/2 ordered and not here yet\./)).toBeTruthy();
  });
  test('struck out it leaves the list, and can be put back; away from the server too', async () => {
    server({ ...SIGNED_IN, 'GET /jobs/orders': { body: [RING] }, 'POST /jobs/j1/runs/w1/events': 'away' });
    const { person } = openSignedIn(<PartsPage />);
    await person.click(await screen.findByRole('button', { name: 'seal ring: Strike out' }));
    await screen.findByText(/Struck out: seal ring, Marl 2\.0/);
    expect(screen.queryByRole('row', { name: /seal ring/ })).toBeNull();
    await person.click(screen.getByRole('button', { name: 'seal ring: Back on the list' }));
    await waitFor(() => expect(row(/^seal ring/).getByText('to order')).toBeTruthy());
    expect(screen.queryByText(/Struck out/)).toBeNull();
    expect(outbox.waiting()).toHaveLength(2);
  });
  test('the board says how many are to be ordered, and nothing where none is', async () => {
    server({ 'GET /jobs/orders': { body: [RING, HOSE] } });
    open(<ToOrder />);
    expect((await screen.findByRole('link')).textContent).toMatch(/1 part to order/);
    cleanup();
    server({ 'GET /jobs/orders': { body: [HOSE] } });
    open(<ToOrder />);
    await new Promise((done) => setTimeout(done, 30));
    expect(screen.queryByRole('link')).toBeNull();
  });
});
