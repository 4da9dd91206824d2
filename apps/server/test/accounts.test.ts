import { get } from 'node:http';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { v4 as uuid } from 'uuid';
import WebSocket from 'ws';
import { Sessions } from '../src/accounts/sessions.ts';
import { Origin } from '../src/common/origin.ts';
import { Live } from '../src/live/live.service.ts';
import { Account, Session } from '../src/rows/accounts.ts';
import { Client, type Fixture, signInToOtherShop, startFixture, until } from './harness.ts';

let fixture: Fixture;
const client = () => new Client(() => fixture.base);
beforeAll(async () => {
  fixture = await startFixture({ sim: null });
});
afterAll(() => fixture.close());

const otherShop = () => signInToOtherShop(() => fixture.base);

describe('signing in', () => {
  test('health, API description and the session answer without an account; nothing else does', async () => {
    const c = client();
    expect((await c.get('/health')).body).toEqual({ status: 'ok' });
    const description = (await c.get('/openapi.json')).body;
    expect(Object.keys(description.paths)).toEqual(
      expect.arrayContaining(['/api/jobs', '/api/session', '/api/health']),
    );
    for (const path of Object.keys(description.paths)) {
      for (const method of Object.keys(description.paths[path])) {
        if (/\/(health|session|session\/setup|session\/invitation)$/.test(path) && method !== 'delete') continue;
        const at = path.replace('/api', '').replaceAll(/\{\w+\}/g, uuid());
        const r = await c.ask(method.toUpperCase(), at, method === 'get' ? undefined : {});
        expect([path, method, r.status]).toEqual([path, method, 401]);
      }
    }
  });
  test('a cookie that scripts cannot read and other sites do not send', async () => {
    const r = await client().post('/session', { email: 'okafor@linden.example', password: 'bench-demo-1' });
    expect(r.status).toBe(200);
    for (const set of r.headers.getSetCookie()) {
      expect(set).toMatch(/HttpOnly/i);
      expect(set).toMatch(/SameSite=Lax/i);
    }
    expect(JSON.stringify(r.body)).not.toMatch(/argon|hash/i);
  });
  test('passwords are argon2id; sessions are kept by the hash of their token', async () => {
    const c = await client().signIn();
    expect((await Account.findOne())!.passwordHash).toMatch(/^\$argon2id\$/);
    const token = /jb_session=([^;]+)/.exec(c.cookie)![1]!;
    expect((await Session.findAll()).some((s) => s.id.includes(token))).toBe(false);
  });
  test('wrong password and unknown address read the same', async () => {
    const a = await client().post('/session', { email: 'okafor@linden.example', password: 'x' });
    const b = await client().post('/session', { email: 'nobody@linden.example', password: 'x' });
    expect([a.status, a.body]).toEqual([b.status, b.body]);
    expect(a.status).toBe(401);
  });
  test('signing out ends the session on the server', async () => {
    const c = await client().signIn();
    const stolen = c.cookie;
    expect((await c.remove('/session')).status).toBe(204);
    const thief = client();
    thief.cookie = stolen;
    expect((await thief.get('/jobs')).status).toBe(401);
  });
  test('writes from another site are refused', async () => {
    const c = await client().signIn();
    const r = await c.ask('POST', '/jobs', {}, { origin: 'https://elsewhere.example' });
    expect([r.status, r.body.message]).toEqual([403, 'this write came from another site']);
    expect((await c.ask('POST', '/jobs', {}, { origin: fixture.base })).status).toBe(400);
  });
  test('sign-ins, failures and sessions ended are in the history, for the lead alone', async () => {
    const lead = await client().signIn();
    for (let i = 0; i < 3; i++) await client().post('/session', { email: 'duarte@linden.example', password: 'x' });
    const c = await client().signIn('duarte@linden.example', 'bench-demo-2');
    const said = async (who: Client) =>
      (await who.get('/audit?kind=sign-ins')).body.map((l: { said: string }) => l.said);
    await c.remove('/session');
    const all = await said(lead);
    expect(all.slice(0, 4)).toEqual([
      'M. Duarte signed out.',
      'M. Duarte signed in.',
      'A sign-in as M. Duarte failed: wrong password, 2 tries.',
      'A sign-in as M. Duarte failed: wrong password, 1 try.',
    ]);
    expect(await said(await client().signIn('duarte@linden.example', 'bench-demo-2'))).toEqual([]);
  });
  test('90 wrong ones at a time: the work is bounded, and a right one of a known browser is answered', async () => {
    const known = await client().signIn();
    const wrong = Array.from({ length: 90 }, (_, i) =>
      client().post('/session', { email: `nobody-${i}@linden.example`, password: 'x' }),
    );
    const right = await known.post('/session', { email: 'okafor@linden.example', password: 'bench-demo-1' });
    expect(right.status).toBe(200);
    const seen = new Set((await Promise.all(wrong)).map((r) => r.status));
    expect([...seen].every((s) => s === 401 || s === 429)).toBe(true);
  });
  test('content-security policy without inline scripts', async () => {
    const csp = (await client().get('/health')).headers.get('content-security-policy')!;
    expect(csp).toMatch(/script-src 'self'(;|$)/);
    expect(csp).not.toMatch(/script-src[^;]*unsafe/);
    expect(csp).toMatch(/default-src 'none'/);
  });
});

describe('by what name it is asked', () => {
  /** As a browser asks that was told this address for another name. */
  const asked = (host: string) =>
    new Promise<{ status: number; message: string }>((done, failed) => {
      const { hostname, port } = new URL(fixture.base);
      get({ hostname, port, path: '/api/session', headers: { host, origin: `http://${host}` } }, (res) => {
        let text = '';
        res.on('data', (d) => {
          text += d;
        });
        res.on('end', () => done({ status: res.statusCode!, message: JSON.parse(text).message ?? '' }));
      }).on('error', failed);
    });
  test('addresses and localhost are its own; another name is sent away, with the demo’s passwords', async () => {
    const port = new URL(fixture.base).port;
    for (const host of [`127.0.0.1:${port}`, `localhost:${port}`, `[::1]:${port}`])
      expect([host, (await asked(host)).status]).toEqual([host, 200]);
    for (const host of [`elsewhere.example:${port}`, 'localhost.elsewhere.example', 'a b'])
      expect([host, await asked(host)]).toEqual([host, { status: 421, message: expect.stringMatching(/JB_HOSTS/) }]);
  });
  test.each([
    [{}, 'bench.example', false],
    [{}, undefined, true],
    [{ hosts: ['bench.example'] }, 'Bench.Example:4300', true],
    [{ host: 'bench-1' }, 'bench-1:4300', true],
    [{ behindTls: true }, 'any.example', true],
    [{ behindTls: true, hosts: ['bench.example'] }, 'any.example', false],
  ])('%j asked as %s: %s', (change, host, ours) => {
    const config = { host: '127.0.0.1', hosts: [], tls: null, behindTls: false, ...change };
    expect(new Origin(config).isOurHost({ headers: { host } } as never)).toBe(ours);
  });
});

describe('over TLS', () => {
  test('cookies are this host’s alone', () => {
    const over = new Sessions({ behindTls: true, tls: null });
    const plain = new Sessions({ behindTls: false, tls: null });
    expect([over.cookie, over.deviceCookie, over.secure]).toEqual(['__Host-jb_session', '__Host-jb_device', true]);
    expect([plain.cookie, plain.deviceCookie, plain.secure]).toEqual(['jb_session', 'jb_device', false]);
  });
});

describe('a shop sees only its own', () => {
  test('jobs, vehicles, exports and writes of another shop do not exist', async () => {
    const mine = await client().signIn();
    const job = await mine.newJob();
    const theirs = await otherShop();
    expect((await theirs.get('/jobs')).body).toEqual([]);
    expect((await theirs.get('/vehicles')).body).toEqual([]);
    for (const [method, path, body] of [
      ['GET', `/jobs/${job.id}`, undefined],
      ['GET', `/jobs/${job.id}/export`, undefined],
      ['GET', `/jobs/${job.id}/link`, undefined],
      ['PATCH', `/jobs/${job.id}`, { rev: 1, status: 'closed' }],
      ['POST', `/jobs/${job.id}/tests`, { id: uuid(), test: { id: 'smoke-intake', outcome: 'none' } }],
      [
        'POST',
        `/jobs/${job.id}/known`,
        { id: uuid(), layer: 'shop', at: 'idle', quantity: 'airflow', low: 1, high: 2, source: 'theirs' },
      ],
      ['POST', `/jobs/${job.id}/diagnosis`, {}],
      ['POST', `/jobs/${job.id}/cautions`, { id: uuid(), caution: 'x', step: 'y' }],
      ['POST', `/jobs/${job.id}/captures`, { id: uuid(), phase: 'before', at: 'idle' }],
    ] as const) {
      expect([method, path, (await theirs.ask(method, path, body)).status]).toEqual([method, path, 404]);
    }
    expect((await mine.get(`/jobs/${job.id}`)).body.status).toBe('open');
  });
  test('an id that another shop has used is not shown and not overwritten', async () => {
    const mine = await client().signIn();
    const job = await mine.newJob();
    const theirs = await otherShop();
    const again = await theirs.post('/jobs', {
      id: job.id,
      vehicleId: uuid(),
      vehicle: { label: 'X', fuel: 'petrol', metering: 'maf', displacementL: 1, cylinders: 3 },
      complaint: { symptoms: [] },
    });
    expect(again.status).toBeGreaterThanOrEqual(400);
    expect(JSON.stringify(again.body)).not.toMatch(/Tarn/);
    expect((await mine.get(`/jobs/${job.id}`)).body.vehicle.label).toBe('Tarn 2.0');
  });
});

describe('the live socket', () => {
  const socket = (headers: Record<string, string>) => {
    const ws = new WebSocket(`${fixture.base.replace('http', 'ws')}/ws`, { headers });
    const messages: Record<string, unknown>[] = [];
    ws.on('message', (m) => messages.push(JSON.parse(String(m))));
    const closed = new Promise<number>((r) => ws.on('close', (code) => r(code)));
    ws.on('error', () => {});
    const refused = new Promise<number>((r) => ws.on('unexpected-response', (_, res) => r(res.statusCode ?? 0)));
    return { ws, messages, closed, refused, opened: new Promise((r) => ws.on('open', r)) };
  };
  const soon = () => new Promise((r) => setTimeout(r, 200));
  test('needs a session and its own origin: a stranger gets a 401 and no socket', async () => {
    expect(await socket({}).refused).toBe(401);
    const c = await client().signIn();
    const foreign = 'https://elsewhere.example';
    expect(await socket({ cookie: c.cookie, origin: foreign }).refused).toBe(401);
    // What a proxy would say counts only where there is one.
    const headers = { cookie: c.cookie, origin: foreign, 'x-forwarded-host': 'elsewhere.example' };
    expect(await socket(headers).refused).toBe(401);
    expect((await c.ask('POST', '/jobs', {}, headers)).status).toBe(403);
  });

  test('another role reaches what is open; one without rights gets no socket', async () => {
    const lead = await client().signIn();
    const c = await client().signIn('duarte@linden.example', 'bench-demo-2');
    const s = socket({ cookie: c.cookie, origin: fixture.base });
    await s.opened;
    const person = (await lead.get('/people')).body.find((p: { email: string }) => p.email === 'duarte@linden.example');
    const patched = await lead.patch(`/people/${person.id}`, { rev: person.rev, role: 'read-only' });
    expect(patched.status).toBe(200);
    expect(await s.closed).toBe(4403);
    await Account.update({ role: 'passer-by' }, { where: { id: person.id } });
    expect(await socket({ cookie: c.cookie, origin: fixture.base }).refused).toBe(401);
    await Account.update({ role: person.role }, { where: { id: person.id } });
  });

  test('no frame ends the server: each is answered, or closes its own socket', async () => {
    const c = await client().signIn();
    const s = socket({ cookie: c.cookie, origin: fixture.base });
    await s.opened;
    const frames = [
      'null',
      '[]',
      '1',
      '"x"',
      '{"type":null}',
      '{"type":"subscribe"}',
      '{"type":"subscribe","jobId":null}',
      '{"type":"subscribe","jobId":{}}',
      '{"type":"unsubscribe","jobId":[]}',
      '[['.repeat(500),
      '\u0000',
    ];
    for (const f of frames) s.ws.send(f);
    await until(() => s.messages.length >= frames.length);
    expect(s.messages.every((m) => m.type === 'error')).toBe(true);
    // Larger than a frame may be: the socket closes, the server stays.
    s.ws.send('x'.repeat(10_000));
    expect(await s.closed).toBe(1009);
    // Closed in the middle of signing in.
    for (let i = 0; i < 20; i++) socket({ cookie: c.cookie, origin: fixture.base }).ws.terminate();
    await soon();
    expect((await c.get('/health')).status).toBe(200);
    expect(fixture.running.app.get(Live).sessions()).toEqual([]);
  });
  test('subscriptions stay inside the shop; rubbish is answered; sign-out closes it', async () => {
    const c = await client().signIn();
    const job = await c.newJob();
    const foreign = await (await otherShop()).newJob();
    const s = socket({ cookie: c.cookie, origin: fixture.base });
    await s.opened;
    s.ws.send(JSON.stringify({ type: 'subscribe', jobId: foreign.id }));
    s.ws.send('{');
    s.ws.send(JSON.stringify({ type: 'dance' }));
    s.ws.send(JSON.stringify({ type: 'subscribe', jobId: job.id }));
    await soon();
    expect(s.messages.map((m) => [m.type, m.message ?? m.jobId]).sort()).toEqual(
      [
        ['error', 'no such job in this shop'],
        ['error', 'not JSON'],
        ['error', 'unknown message'],
        ['subscribed', job.id],
        // Who has it open: oneself.
        ['present', job.id],
      ].sort(),
    );
    // As new as the subscription: what was read before it and is as new need not be read again.
    const { changes } = s.messages.find((m) => (m as { type: string }).type === 'subscribed') as { changes: number };
    const reads = await Promise.all(['', '/tests', '/captures', '/diagnosis'].map((n) => c.get(`/jobs/${job.id}${n}`)));
    expect(reads.map((r) => r.headers.get('x-changes'))).toEqual(reads.map(() => String(changes)));
    const test = () => ({ id: uuid(), test: { id: 'fuse-check', outcome: 'ok' } });
    await c.post(`/jobs/${job.id}/tests`, test());
    await c.post(`/jobs/${job.id}/tests`, test(), { 'x-screen': 'a page' });
    await soon();
    // What to look at again, and whose write it was: that page has the answer and need not look.
    const changed = { type: 'changed', jobId: job.id, resources: ['tests'] };
    expect(s.messages).toContainEqual({ ...changed, screen: null });
    expect(s.messages).toContainEqual({ ...changed, screen: 'a page' });
    // Seen in the database as well, and not told twice.
    await new Promise((r) => setTimeout(r, 2200));
    expect(s.messages.filter((m) => (m as { type: string }).type === 'changed')).toHaveLength(2);
    expect((await c.get(`/jobs/${job.id}/tests`)).headers.get('x-changes')).toBe(String(changes + 2));
    await c.remove('/session');
    expect(await s.closed).toBe(4401);
  });
});
