import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { JOB_RESOURCES, ROUTES, WRITES } from '@just-balance/contract';
import { v7 as uuid } from 'uuid';
import { hashPassword } from '../src/accounts/passwords.ts';
import { ROUTES as RIGHTS } from '../src/accounts/rights.ts';
import { Account } from '../src/rows/accounts.ts';
import { Client, type Fixture, startFixture } from './harness.ts';

let fixture: Fixture;
let me: Client;
beforeAll(async () => {
  fixture = await startFixture({ sim: null });
  me = await new Client(() => fixture.base).signIn();
});
afterAll(() => fixture.close());

/** An id that nothing has. */
const NOBODY = '01890000-0000-7000-8000-000000000000';

test('every address of the contract is one the server has: it answers what it has, or says that the thing is not here', async () => {
  const { id: job } = await me.newJob();
  const asked: [name: string, path: string][] = [
    ...JOB_RESOURCES.map((resource): [string, string] => [resource, ROUTES.jobRows(job, resource)]),
    ...Object.entries(ROUTES).flatMap(([name, route]): [string, string][] => {
      if (typeof route === 'string') return [[name, route]];
      switch (name) {
        case 'jobRows':
          return [];
        case 'job':
        case 'link':
        case 'runningCapture':
          return [[name, (route as (id: string) => string)(job)]];
        case 'newestDiagnoses':
          return [[name, ROUTES.newestDiagnoses(job, 2)]];
        case 'ownOpenJobs':
          return [[name, ROUTES.ownOpenJobs(10)]];
        case 'jobs':
        case 'logbook':
        case 'logbookCounts':
        case 'audit':
          return [[name, (route as (query: string) => string)('')]];
        case 'recording':
          return [[name, ROUTES.recording(job, NOBODY)]];
        case 'vehicleChanges':
          return [[name, ROUTES.vehicleChanges(NOBODY, 1)]];
        default:
          return [[name, (route as (id: string) => string)(NOBODY)]];
      }
    }),
  ];
  const answers = await Promise.all(asked.map(async ([name, path]) => ({ name, path, ...(await me.get(path)) })));
  // An address that is not there says so in other words than a thing that is not there.
  const nowhere = (await me.get('/no-such-address')).body.message;
  expect(nowhere).toMatch(/^Cannot GET |no such address/i);
  for (const { name, path, status, body } of answers) {
    // There is no simulated vehicle here.
    expect([name, path, [200, 404, 503].includes(status)]).toEqual([name, path, true]);
    expect([name, `${body.message}`.startsWith(nowhere.slice(0, 12))]).toEqual([name, false]);
  }
});

test('what stands in a place of an address stays in its place', () => {
  expect(ROUTES.job('../people?x=1#y')).toBe('/jobs/..%2Fpeople%3Fx%3D1%23y');
  expect(ROUTES.vehiclesLike('a b&limit=9')).toBe('/vehicles?q=a%20b%26limit%3D9');
});

/** For programs: no page asks for them. */
const NO_PAGE = ['DELETE /api/jobs/:id/link', 'PUT /api/procedures/:procedureId'];

test('every write of the contract is one the server has, and the other way round', () => {
  const of = { channel: 'x', part: 0, unit: 'x', quantum: null, label: 'x' };
  const made = Object.entries(WRITES).map(([name, w]) => {
    const third = name === 'addPhoto' || name === 'importColumn' ? of : 'x';
    const { method, path } = typeof w === 'function' ? (w as (...a: unknown[]) => Written)('x', 'x', third) : w;
    return `${method} /api${path.split('?')[0]}`;
  });
  const had = Object.keys(RIGHTS).filter((r) => !r.startsWith('GET ') && !NO_PAGE.includes(r));
  expect(made.sort()).toEqual(had.map((r) => r.replaceAll(/:\w+/g, 'x')).sort());
});
type Written = { method: string; path: string };

test('a part of an import and a picture carry what belongs to them in their address', () => {
  const column = { channel: 'a/b', part: 2, unit: '°C', quantum: 0.25 };
  expect(WRITES.importColumn('j', 'c', column).path).toBe(
    '/jobs/j/imports/c/columns/a%2Fb?part=2&unit=%C2%B0C&quantum=0.25',
  );
  expect(WRITES.importColumn('j', 'c', { ...column, quantum: null }).path).not.toMatch(/quantum/);
  expect(WRITES.addPhoto('j', 'p', { label: 'off & on', step: 's1' }).path).toBe(
    '/jobs/j/photos/p?label=off%20%26%20on&step=s1',
  );
});

test('what costs the server seconds is held to its number a minute, each account by itself; the rest is free', async () => {
  const ask = async (who: Client, path: string, times: number) => {
    const all = await Promise.all(Array.from({ length: times }, () => who.get(path)));
    return all.map((r) => r.status);
  };
  // The whole shop as one file: six a minute.
  const statuses = await ask(me, '/archives?from=2020-01-01&to=2020-01-02', 8);
  expect(statuses.filter((s) => s === 429)).toHaveLength(2);
  expect((await me.get('/archives?from=2020-01-01&to=2020-01-02')).body).toMatchObject({
    statusCode: 429,
    message: 'too many of these in a minute: wait a little',
  });
  expect(await ask(me, '/jobs/counts', 20)).toEqual(Array.from({ length: 20 }, () => 200));
  const { shopId } = (await Account.findOne({ where: { email: 'okafor@linden.example' } }))!;
  const passwordHash = await hashPassword('another lead’s');
  const email = 'second@linden.example';
  await Account.create({ id: uuid(), shopId, email, name: 'P. Moreau', role: 'lead', passwordHash });
  const other = await new Client(() => fixture.base).signIn(email, 'another lead’s');
  expect((await ask(other, '/jobs/counts', 1))[0]).toBe(200);
  expect((await ask(other, '/archives?from=2020-01-01&to=2020-01-02', 1))[0]).toBe(200);
});
