import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { v4 as uuid } from 'uuid';
import { hashPassword } from '../src/accounts/passwords.ts';
import { allowed, ROLES, ROUTES } from '../src/accounts/rights.ts';
import { Account } from '../src/rows/accounts.ts';
import { Client, type Fixture, signInToOtherShop, startFixture } from './harness.ts';

let fixture: Fixture;
beforeAll(async () => {
  fixture = await startFixture({ sim: null });
});
afterAll(() => fixture.close());

/** Every route that exists, as the router has it: from the API's own description. */
async function existing(): Promise<string[]> {
  const { paths } = (await new Client(() => fixture.base).get('/openapi.json')).body as {
    paths: Record<string, Record<string, unknown>>;
  };
  return Object.entries(paths)
    .flatMap(([path, methods]) =>
      Object.keys(methods).map((m) => `${m.toUpperCase()} ${path.replaceAll(/\{(\w+)\}/g, ':$1')}`),
    )
    .sort();
}

test('the table names every route that exists, and no other', async () => {
  expect(Object.keys(ROUTES).sort()).toEqual(await existing());
});

const fill = (route: string, ids: Record<string, string>) => {
  const [method, path] = route.split(' ') as [string, string];
  return {
    method,
    path: path
      .replace('/api', '')
      .replaceAll(
        /:(\w+)/g,
        (_, name: string) =>
          ids[name] ?? ({ bay: '1', resource: 'reading', channel: 'rpm', document: 'customer' }[name] || uuid()),
      ),
  };
};

test('route by role: what the table refuses is refused, what it grants is not', async () => {
  const lead = await new Client(() => fixture.base).signIn();
  const { shopId } = (await Account.findOne({ where: { email: 'okafor@linden.example' } }))!;
  const passwordHash = await hashPassword('a long password');
  for (const role of [...Object.keys(ROLES), 'unheard-of']) {
    const job = await lead.newJob();
    const email = `${role}@roles.example`;
    await Account.create({ id: uuid(), shopId, email, name: role, role, passwordHash });
    const c = await new Client(() => fixture.base).signIn(email, 'a long password');
    for (const route of Object.keys(ROUTES)) {
      if (ROUTES[route] === 'open' || route === 'DELETE /api/session') continue;
      const { method, path } = fill(route, { id: job.id });
      const r = await c.ask(method, path, method === 'GET' || method === 'DELETE' ? undefined : {});
      expect([role, route, r.status === 403]).toEqual([role, route, !allowed(role, route)]);
      expect(r.status).not.toBe(401);
    }
  }
});

test('route by shop: nothing of one shop exists for the lead of another', async () => {
  const mine = await new Client(() => fixture.base).signIn();
  const job = await mine.newJob();
  const reading = { at: 'idle', rpm: 700, trims: { bank1: { stft: 1, ltft: 2 } } };
  const made = {
    reading: (await mine.post(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'before', reading })).body.id,
    test: (await mine.post(`/jobs/${job.id}/tests`, { id: uuid(), test: { id: 'fuse-check', outcome: 'ok' } })).body.id,
  };
  const before = await mine.job(job.id);
  const theirs = await signInToOtherShop(() => fixture.base);
  const bodies: Record<string, unknown> = {
    'PATCH /api/jobs/:id': { rev: 1, status: 'closed' },
    'POST /api/jobs/:id/readings': { id: uuid(), phase: 'before', reading },
    'PUT /api/jobs/:id/vehicle': {
      rev: 1,
      vehicle: { label: 'x', fuel: 'petrol', metering: 'maf', displacementL: 1, cylinders: 3 },
    },
    'PUT /api/jobs/:id/readings/:rowId': { rev: 1, reading },
    'PATCH /api/jobs/:id/readings/:rowId': { rev: 1, undone: true },
    'PUT /api/jobs/:id/records/:rowId': { rev: 1, phase: 'before', stored: [], pending: [], lampOn: false },
    'POST /api/jobs/:id/tests': { id: uuid(), test: { id: 'fuse-check', outcome: 'ok' } },
    'PATCH /api/jobs/:id/tests/:rowId': { rev: 1, undone: true },
    'POST /api/jobs/:id/repairs': { id: uuid(), text: 'x', adaptation: 'relearn' },
    'PATCH /api/jobs/:id/repairs/:rowId': { rev: 1, undone: true },
    'POST /api/jobs/:id/known': {
      id: uuid(),
      layer: 'shop',
      at: 'idle',
      quantity: 'airflow',
      low: 1,
      high: 2,
      source: 'theirs',
    },
    'PATCH /api/jobs/:id/known/:rowId': { rev: 1, undone: true },
    'POST /api/jobs/:id/cautions': { id: uuid(), caution: 'x', step: 'y' },
    'POST /api/jobs/:id/records': { id: uuid(), phase: 'before' },
    'POST /api/jobs/:id/records/heard': {
      id: uuid(),
      phase: 'before',
      heard: [{ asked: '0101', ecu: '7E8', payload: '410100076504' }],
    },
    'POST /api/jobs/:id/captures/spooled': { id: uuid(), phase: 'before', at: 'free' },
    'POST /api/jobs/:id/captures/:captureId/seconds': {
      from: 0,
      seconds: [{ atMs: 1_700_000_000_000, data: { rpm: [[0, 700]] } }],
    },
    'POST /api/jobs/:id/captures/:captureId/end': { seconds: 1, how: 'stop', events: [] },
    'POST /api/jobs/:id/records/by-hand': { id: uuid(), phase: 'before', stored: [], pending: [], lampOn: false },
    'POST /api/jobs/:id/records/clear': { id: uuid(), understood: true },
    'PUT /api/jobs/:id/damaged/:resource/:rowId': { data: reading },
    'POST /api/jobs/:id/captures': { id: uuid(), phase: 'before', at: 'idle' },
    'POST /api/jobs/:id/captures/:captureId/command': { command: 'stop' },
    'POST /api/jobs/:id/captures/:captureId/marks': { at: 'x', from: 0, to: 1 },
    'POST /api/jobs/:id/imports': {
      id: uuid(),
      phase: 'before',
      name: 'x',
      summary: { rows: 0, problemCount: 0, problems: [], leftOut: [] },
    },
    'POST /api/jobs/:id/runs': { id: uuid(), procedure: SHIPPED_PROCEDURES[0] },
    'POST /api/jobs/:id/runs/:runId/events': {
      events: [{ id: uuid(), atMs: Date.now(), what: { kind: 'resumed' } }],
    },
    'POST /api/jobs/:id/entries': { id: uuid(), kind: 'outcome', data: { part: 'throttle-body', held: true } },
    'PATCH /api/jobs/:id/entries/:rowId': { rev: 1, undone: true },
    'PATCH /api/jobs/:id/photos/:photoId': { rev: 1, good: true },
    'POST /api/jobs/:id/imports/:captureId/finish': { parts: {}, marks: [], readings: [] },
  };
  for (const route of Object.keys(ROUTES).filter((r) => r.includes('/jobs/:id'))) {
    const { method, path } = fill(route, { id: job.id, rowId: made.test });
    const query = route.endsWith('/export') ? '?as=json' : route.includes('/columns/:channel') ? '?part=0&unit=x' : '';
    const r = await theirs.ask(
      method,
      path + query,
      method === 'GET' || method === 'DELETE' ? undefined : (bodies[route] ?? {}),
    );
    expect([route, r.status]).toEqual([route, 404]);
    expect(JSON.stringify(r.body)).not.toMatch(/Tarn/);
  }
  expect(await mine.job(job.id)).toEqual(before);
});
