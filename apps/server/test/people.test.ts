import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { v4 as uuid } from 'uuid';
import { openDemoDoors } from '../src/accounts/demoDoors.ts';
import { Account, Invitation, Session } from '../src/rows/accounts.ts';
import { Client, type Fixture, signInToOtherShop, startFixture } from './harness.ts';

let fixture: Fixture;
let lead: Client;
const client = () => new Client(() => fixture.base);
beforeAll(async () => {
  fixture = await startFixture({ sim: null });
  lead = await client().signIn();
});
afterAll(() => fixture.close());

/** A person added and let in by a one-time link, signed in. */
async function join(role: string, password = 'a long password') {
  const email = `${uuid()}@linden.example`;
  const added = await lead.post('/people', { id: uuid(), name: `N ${role}`, email, role });
  expect(added.status).toBe(201);
  const { token } = (await lead.post(`/people/${added.body.id}/link`, {})).body;
  const c = client();
  const r = await c.post('/session/invitation', { token, password });
  expect([r.status, r.body.role]).toEqual([200, role]);
  return { c, id: added.body.id as string, email, password, token };
}

describe('people', () => {
  test('added, let in by a link that works once, changed with a revision, shut out at once everywhere', async () => {
    const p = await join('technician');
    expect((await p.c.get('/jobs')).status).toBe(200);
    const again = await client().post('/session/invitation', { token: p.token, password: 'another password' });
    expect([again.status, again.body.message]).toEqual([403, expect.stringMatching(/used already or is too old/)]);
    // Kept by its hash only.
    const { token } = (await lead.post(`/people/${p.id}/link`, {})).body;
    expect((await Invitation.findAll()).some((i) => JSON.stringify(i).includes(token))).toBe(false);
    const row = async () => (await lead.get('/people')).body.find((x: { id: string }) => x.id === p.id);
    expect(await row()).toMatchObject({ hasPassword: true, sessions: 1, linkWaits: true, rev: 2, known: true });
    expect((await lead.patch(`/people/${p.id}`, { rev: 1, name: 'X' })).status).toBe(409);
    expect((await lead.patch(`/people/${p.id}`, { rev: 2, disabled: true })).body).toMatchObject({ disabled: true });
    expect((await p.c.get('/jobs')).status).toBe(401);
    expect((await client().post('/session', { email: p.email, password: p.password })).status).toBe(401);
    // The link given before is void with it.
    expect((await client().post('/session/invitation', { token, password: 'another password' })).status).toBe(403);
    expect((await lead.post(`/people/${p.id}/link`, {})).status).toBe(409);
    await lead.patch(`/people/${p.id}`, { rev: 3, disabled: false });
    expect((await client().signIn(p.email, p.password)).cookie).toMatch(/jb_session/);
  });

  test('the last lead stays; two leads that shut each other out at once leave one', async () => {
    const people = (await lead.get('/people')).body as { id: string; role: string; rev: number; email: string }[];
    const me = people.find((x) => x.email === 'okafor@linden.example')!;
    const refused = await lead.patch(`/people/${me.id}`, { rev: me.rev, role: 'technician' });
    expect([refused.status, refused.body.message]).toEqual([409, expect.stringMatching(/needs a lead/)]);
    const second = await join('lead');
    const rev = (await lead.get('/people')).body.find((x: { id: string }) => x.id === second.id).rev;
    const codes = (
      await Promise.all([
        lead.patch(`/people/${second.id}`, { rev, disabled: true }),
        second.c.patch(`/people/${me.id}`, { rev: me.rev, disabled: true }),
      ])
    ).map((r) => r.status);
    expect(codes.filter((c) => c === 200)).toHaveLength(1);
    expect(
      await Account.count({
        where: { role: 'lead', disabledAt: null, shopId: (await Account.findByPk(me.id))!.shopId },
      }),
    ).toBe(1);
    await Account.update({ disabledAt: null }, { where: { id: me.id } });
    lead = await client().signIn();
  });

  test('one address, one person; another shop sees and touches nobody', async () => {
    const body = { id: uuid(), name: 'A', email: 'duarte@linden.example', role: 'learner' };
    const r = await lead.post('/people', body);
    expect([r.status, r.body.errors[0].field]).toEqual([400, 'email']);
    const theirs = await signInToOtherShop(() => fixture.base);
    expect((await theirs.get('/people')).body).toHaveLength(1);
    const p = await join('learner');
    for (const [method, path, b] of [
      ['PATCH', `/people/${p.id}`, { rev: 2, disabled: true }],
      ['POST', `/people/${p.id}/link`, {}],
      ['DELETE', `/people/${p.id}/sessions`, undefined],
    ] as const)
      expect([path, (await theirs.ask(method, path, b)).status]).toEqual([path, 404]);
    expect((await p.c.get('/jobs')).status).toBe(200);
  });

  test('an own password, sessions listed and ended one by one or all at once', async () => {
    const p = await join('technician');
    const elsewhere = await client().signIn(p.email, p.password);
    const third = await client().signIn(p.email, p.password);
    const list = (await p.c.get('/account/sessions')).body as { id: string; current: boolean }[];
    expect(list.map((s) => s.current).sort()).toEqual([false, false, true]);
    // Nobody ends another's.
    const foreign = (await lead.get('/account/sessions')).body[0].id;
    expect((await p.c.remove(`/account/sessions/${foreign}`)).status).toBe(404);
    const other = list.find((s) => !s.current)!;
    expect((await p.c.remove(`/account/sessions/${other.id}`)).status).toBe(204);
    expect([(await elsewhere.get('/jobs')).status, (await third.get('/jobs')).status].sort()).toEqual([200, 401]);
    const wrong = await p.c.post('/account/password', { current: 'not it', next: 'another password' });
    expect([wrong.status, wrong.body.errors[0].field]).toEqual([400, 'current']);
    expect((await p.c.post('/account/password', { current: p.password, next: 'another password' })).status).toBe(204);
    expect((await third.get('/jobs')).status + (await elsewhere.get('/jobs')).status).toBe(802);
    expect((await p.c.get('/jobs')).status).toBe(200);
    await client().signIn(p.email, 'another password');
    await p.c.remove('/account/sessions');
    expect(await Session.count({ where: { accountId: p.id } })).toBe(1);
  });

  test('signing in again on the same browser ends the session it had', async () => {
    const c = await client().signIn();
    const stolen = client();
    stolen.cookie = c.cookie;
    await c.signIn('duarte@linden.example', 'bench-demo-2');
    expect((await stolen.get('/jobs')).status).toBe(401);
    expect((await c.get('/session')).body.account.name).toBe('M. Duarte');
  });

  test('a role nobody knows has no rights', async () => {
    const p = await join('technician');
    await Account.update({ role: 'owner' }, { where: { id: p.id } });
    expect((await p.c.get('/jobs')).status).toBe(403);
    expect((await p.c.get('/session')).body.account).toMatchObject({ role: 'owner', rights: [] });
    expect((await lead.get('/people')).body.find((x: { id: string }) => x.id === p.id).known).toBe(false);
  });

  test('doors of the demo that are still open are known by name', async () => {
    expect(await openDemoDoors()).toEqual(['okafor@linden.example', 'duarte@linden.example']);
  });
});

describe('wrong passwords', () => {
  const sign = (c: Client, email: string, password: string) => c.post('/session', { email, password });

  test('slow down who guesses, and never who knows: not on another address, not on a browser known to the account', async () => {
    const p = await join('technician');
    const guesser = client();
    const codes: number[] = [];
    for (let i = 0; i < 8; i++) codes.push((await sign(guesser, p.email, `guess ${i}`)).status);
    expect(codes.slice(0, 5)).toEqual([401, 401, 401, 401, 401]);
    const waits = await sign(guesser, p.email, p.password);
    expect([waits.status, waits.body.message]).toEqual([429, expect.stringMatching(/try again in \d+ s/)]);
    expect(Number(waits.headers.get('retry-after'))).toBeGreaterThanOrEqual(1);
    // The browser that the account knows is let in meanwhile, and so is everybody else.
    expect((await sign(p.c, p.email, p.password)).status).toBe(200);
    expect((await sign(client(), 'duarte@linden.example', 'bench-demo-2')).status).toBe(200);
    expect((await sign(guesser, 'duarte@linden.example', 'bench-demo-2')).status).toBe(200);
  });
});

describe('one-time links', () => {
  test('wrong ones are counted by link; a right one is never told to wait', async () => {
    const guesser = client();
    const password = 'nine wet spanners';
    const codes: number[] = [];
    for (let i = 0; i < 8; i++)
      codes.push((await guesser.post('/session/invitation', { token: 'x'.repeat(40), password })).status);
    expect(codes).toEqual([403, 403, 403, 403, 403, 429, 429, 429]);
    const { body } = await lead.post('/people', {
      ...{ id: uuid(), name: 'N', email: `${uuid()}@linden.example`, role: 'learner' },
    });
    const { token } = (await lead.post(`/people/${body.id}/link`, {})).body;
    expect((await guesser.post('/session/invitation', { token, password })).status).toBe(200);
  });
});

describe('passwords that anybody would try first', () => {
  test.each(['password123', '1234567890', 'qwertyuiop', 'Password1!', 'aaaaaaaaaaaa'])(
    '%s is refused, with the field named; the link stays good',
    async (bad) => {
      const email = `${uuid()}@linden.example`;
      const { body } = await lead.post('/people', { id: uuid(), name: 'N Linden', email, role: 'learner' });
      const { token } = (await lead.post(`/people/${body.id}/link`, {})).body;
      const c = client();
      const r = await c.post('/session/invitation', { token, password: bad });
      expect([r.status, r.body.errors?.[0]]).toEqual([
        400,
        { field: 'password', message: expect.stringMatching(/easily guessed/) },
      ]);
      expect((await c.post('/session/invitation', { token, password: 'nine wet spanners' })).status).toBe(200);
    },
  );
});
