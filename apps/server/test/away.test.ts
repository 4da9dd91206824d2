import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { DatabaseError, QueryTypes, type Transaction } from 'sequelize';
import { v7 as uuid } from 'uuid';
import { databaseAway } from '../src/database/away.ts';
import { Job } from '../src/rows/jobs.ts';
import { Client, type Fixture, readingAt, startFixture, until } from './harness.ts';

/** As Sequelize hands over what the connector says. */
const wrapped = (errno: number, message = '') =>
  new DatabaseError(Object.assign(new Error(message), { errno, sql: '' }) as never);

describe('an error of the database', () => {
  // Codes: MariaDB's manual, “MariaDB Error Codes”; 45xxx: the connector's own list.
  test.each([
    [1213, 'away'],
    [1205, 'away'],
    [1047, 'away'],
    [1927, 'away'],
    [1053, 'away'],
    [2013, 'away'],
    [45009, 'away'],
    [45028, 'away'],
    [1114, 'full'],
    [1021, 'full'],
  ] as const)('%i is %s', (errno, why) => {
    expect(databaseAway(wrapped(errno))).toBe(why);
    expect(databaseAway(Object.assign(new Error('x'), { errno }))).toBe(why);
    expect(databaseAway(new Error('outer', { cause: wrapped(errno) }))).toBe(why);
  });
  test('a full disk within “got error”; a socket that was reset; words of a lost transaction', () => {
    expect(databaseAway(wrapped(1030, 'Got error 28 "No space left on device" from storage engine'))).toBe('full');
    expect(databaseAway(wrapped(1030, 'Got error 122 from storage engine'))).toBe(null);
    expect(databaseAway(Object.assign(new Error('read'), { code: 'ECONNRESET' }))).toBe('away');
    expect(databaseAway(new Error('Cannot execute new commands: connection closed'))).toBe('away');
  });
  test.each([1062, 1064, 1406, 1452, 45017])('%i is somebody’s mistake, not the hour', (errno) => {
    expect(databaseAway(wrapped(errno))).toBe(null);
  });
  test.each([null, undefined, 'x', 7, {}, new Error('x')])('%p is none', (e) => expect(databaseAway(e)).toBe(null));
});

describe('a connection killed in the middle of a write', () => {
  let fixture: Fixture;
  let me: Client;
  beforeAll(async () => {
    fixture = await startFixture({ sim: null });
    me = await new Client(() => fixture.base).signIn();
  });
  afterAll(() => fixture.close());

  test('is a 503 that says when to come again; the same again is stored once', async () => {
    const job = await me.newJob();
    const db = fixture.running.sequelize;
    const body = { id: uuid(), phase: 'before', reading: readingAt('idle', 12, 2.4) };
    const key = { 'idempotency-key': uuid() };
    // The job is held: the write waits in its transaction, where it is killed.
    const holder = await db.transaction();
    await Job.findByPk(job.id, { transaction: holder, lock: true });
    const write = me.post(`/jobs/${job.id}/readings`, body, key);
    const select = <T extends object>(sql: string, transaction?: Transaction) =>
      db.query<T>(sql, { type: QueryTypes.SELECT, ...(transaction ? { transaction } : {}) });
    const [mine] = await select<{ id: number }>('SELECT CONNECTION_ID() AS id', holder);
    const victim = await until(async () => {
      const [row] = await select<{ id: number }>(
        `SELECT id FROM information_schema.processlist WHERE info LIKE '%FOR UPDATE%' AND info NOT LIKE '%processlist%' AND id <> ${mine!.id}`,
      );
      return row;
    });
    await db.query(`KILL ${victim.id}`);
    const r = await write;
    await holder.rollback();
    expect([r.status, Number(r.headers.get('retry-after')) > 0]).toEqual([503, true]);
    expect((await me.post(`/jobs/${job.id}/readings`, body, key)).status).toBe(201);
    expect((await me.get(`/jobs/${job.id}/readings`)).body).toHaveLength(1);
  });

  test('what somebody else wrote before is refused under this account, and waits for its owner', async () => {
    const job = await me.newJob();
    const account = (await me.get('/session')).body.account.id;
    const body = () => ({ id: uuid(), phase: 'before', reading: readingAt('idle', 12, 2.4) });
    const by = (id: string) => ({ 'x-account': id });
    const refused = await me.post(`/jobs/${job.id}/readings`, body(), by(uuid()));
    expect([refused.status, refused.body.message]).toEqual([412, expect.stringMatching(/waits for its owner/)]);
    const taken = await me.post(`/jobs/${job.id}/readings`, body(), by(account));
    expect([taken.status, taken.headers.get('x-account')]).toEqual([201, account]);
    expect((await me.get(`/jobs/${job.id}/readings`)).body).toHaveLength(1);
  });

  test('nothing of the API is kept by a browser unless it says so', async () => {
    for (const path of ['/session', '/jobs', '/shop/settings', '/audit'])
      expect([path, (await me.get(path)).headers.get('cache-control')]).toEqual([path, 'no-store']);
  });
});
