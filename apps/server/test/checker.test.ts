import { createHash } from 'node:crypto';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import sharp from 'sharp';
import { v7 as uuid } from 'uuid';
import { Account } from '../src/rows/accounts.ts';
import { Capture } from '../src/rows/captures.ts';
import { Shop } from '../src/rows/shop.ts';
import { Client, type Fixture, readingAt, startFixture, until } from './harness.ts';

interface Db {
  query(sql: string, args?: unknown[]): Promise<Record<string, unknown>[]>;
  end(): Promise<void>;
}
interface Ledger {
  acknowledged: object[];
  seconds: Map<string, number>;
  samples: Map<string, Map<string, number>>;
  photos: object[];
  archives: { job: string; rows: Record<string, { id: string; data: unknown }[]> }[];
}

let fixture: Fixture;
let db: Db;
let ledger: Ledger;
let check: (db: Db, ledger: Ledger, failures: string[], how?: object) => Promise<void>;
let jobId: string;
let otherShop: string;
const ids: Record<string, string> = {};

/** A job with every kind of write in it, each in the ledger as it was sent. */
beforeAll(async () => {
  fixture = await startFixture({ sim: null });
  const checker = await import('../../../scripts/faults/check.mjs' as string);
  check = checker.check;
  ledger = checker.newLedger();
  const me = await new Client(() => fixture.base).signIn();
  const account = (await Account.findOne({ where: { email: 'okafor@linden.example' } }))!;
  const { shopId, id: accountId } = account;
  otherShop = uuid();
  await Shop.create({ id: otherShop, name: 'Other', settings: {}, rev: 1 });
  jobId = (await me.newJob()).id;
  const keep = async (kind: string, path: string, id: string, body: object, data: unknown) => {
    const key = uuid();
    const r = await me.post(`/jobs/${jobId}/${path}`, body, { 'idempotency-key': key });
    expect([kind, r.status < 300, r.body]).toEqual([kind, true, r.body]);
    ledger.acknowledged.push({ kind, id, jobId, shopId, data, key, accountId });
    ids[kind] = id;
  };
  const [a, b, t, r, c, e, run, event] = Array.from({ length: 8 }, () => uuid());
  const [idle, hold] = [readingAt('idle', 14, 2.6), readingAt('hold-2500', 5, 9)];
  await keep('reading', 'readings', a!, { id: a, phase: 'before', reading: idle }, idle);
  await keep('reading', 'readings', b!, { id: b, phase: 'before', reading: hold }, hold);
  const test1 = { id: 'smoke-intake', outcome: 'none' };
  await keep('test', 'tests', t!, { id: t, test: test1 }, test1);
  const repair = { text: 'hose renewed', adaptation: 'relearn' };
  await keep('repair', 'repairs', r!, { id: r, ...repair }, repair);
  await keep('caution', 'cautions', c!, { id: c, caution: 'hot', step: c }, null);
  const recheck = { dueAt: '2027-01-05', what: 'look again' };
  await keep('entry', 'entries', e!, { id: e, kind: 'recheck', data: recheck }, recheck);
  await keep('run', 'runs', run!, { id: run, procedure: SHIPPED_PROCEDURES[0] }, { id: SHIPPED_PROCEDURES[0]!.id });
  const what = { kind: 'parked', reason: 'rain', toOrder: [] };
  await keep('run-event', `runs/${run}/events`, event!, { events: [{ id: event, atMs: Date.now(), what }] }, what);
  const photo = uuid();
  const image = await sharp({ create: { width: 60, height: 40, channels: 3, background: '#456' } })
    .jpeg()
    .toBuffer();
  const at = `${fixture.base}/api/jobs/${jobId}/photos/${photo}`;
  const headers = { cookie: me.cookie, 'content-type': 'image/jpeg' };
  expect((await fetch(at, { method: 'PUT', headers, body: new Uint8Array(image) })).status).toBe(200);
  const kept = Buffer.from(await (await fetch(at, { headers: { cookie: me.cookie } })).arrayBuffer());
  ledger.photos.push({ id: photo, jobId, sha256: createHash('sha256').update(kept).digest('hex') });
  ids.photo = photo;
  const capture = uuid();
  const path = `/jobs/${jobId}/captures`;
  await me.post(`${path}/spooled`, { id: capture, at: 'free', phase: 'before' });
  const seconds = Array.from({ length: 5 }, (_, i) => ({
    atMs: Date.UTC(2026, 4, 4, 9) + 1000 * i,
    data: { rpm: [0, 250, 500, 750].map((ms) => [ms, 720]) },
  }));
  await me.post(`${path}/${capture}/seconds`, { from: 0, seconds });
  await me.post(`${path}/${capture}/end`, { seconds: 5, how: 'stop', events: [] });
  await until(async () => (await Capture.findByPk(capture))!.form === 'columns');
  ledger.seconds.set(capture, 5);
  ledger.samples.set(capture, new Map([['rpm', 20]]));
  ids.capture = capture;
  ledger.archives.push({ job: jobId, rows: { tests: [{ id: t!, data: test1 }], repairs: [{ id: r!, data: repair }] } });
  const { createConnection } = await import('mariadb');
  const { hostname, port, username, password } = new URL(fixture.dbUrl);
  db = (await createConnection({
    ...{ host: hostname, port: Number(port), user: username, password, database: 'just_balance' },
  })) as unknown as Db;
  // The history takes no change from anybody: what the planted faults do, a broken disk could.
  for (const { name } of (await db.query(
    'SELECT trigger_name AS name FROM information_schema.triggers WHERE trigger_schema = DATABASE()',
  )) as { name: string }[])
    await db.query(`DROP TRIGGER ${name}`);
});
afterAll(async () => {
  await db?.end();
  await fixture.close();
});

const broken = async (recompute: boolean) => {
  const failures: string[] = [];
  await check(db, ledger, failures, { snapshot: false, recompute });
  return failures;
};

describe('the checker of the fault tests', () => {
  test('says nothing of what is whole', async () => {
    expect(await broken(true)).toEqual([]);
    const failures: string[] = [];
    await check(db, ledger, failures);
    expect(failures).toEqual([]);
  });

  /** Each done to the database, in a transaction that is rolled back. */
  const FAULTS: readonly (readonly [string, (id: typeof ids) => [string, unknown[]], RegExp])[] = [
    ['a row gone', (i) => ['DELETE FROM repair WHERE id = ?', [i.repair]], /repair is not there/],
    [
      'changed content',
      (i) => ["UPDATE test_result SET data = JSON_SET(data, '$.outcome', 'duct') WHERE id = ?", [i.test]],
      /test says something else/,
    ],
    ['another shop’s row', (i) => ['UPDATE reading SET shopId = ? WHERE id = ?', [otherShop, i.reading]], /another/],
    [
      'a row of another kind in another shop',
      (i) => ['UPDATE photo SET shopId = ? WHERE id = ?', [otherShop, i.photo]],
      /another shop/,
    ],
    ['a job in another shop', () => ['UPDATE job SET shopId = ? WHERE id = ?', [otherShop, jobId]], /another shop/],
    [
      'another judgement',
      () => [
        "UPDATE diagnosis SET output = JSON_SET(output, '$.causes[0].probability', 0.111) WHERE jobId = ?",
        [jobId],
      ],
      /not what the same readings give/,
    ],
    [
      'a judgement without a reading',
      () => ["UPDATE diagnosis SET input = JSON_REMOVE(input, '$.readings[0]') WHERE jobId = ?", [jobId]],
      /1 of 2 readings/,
    ],
    ['no judgement', () => ['DELETE FROM diagnosis WHERE jobId = ?', [jobId]], /no judgement/],
    [
      'samples gone from a packed capture',
      (i) => ['DELETE FROM capture_column WHERE captureId = ?', [i.capture]],
      /20 samples of rpm were told, 0 are there/,
    ],
    [
      'a packed column that is none',
      (i) => ["UPDATE capture_column SET data = 'x' WHERE captureId = ?", [i.capture]],
      /says 20 samples and holds -1/,
    ],
    [
      'seconds gone',
      (i) => ["UPDATE capture SET meta = JSON_SET(meta, '$.seconds', 4) WHERE id = ?", [i.capture]],
      /5 seconds were shown as kept, 4/,
    ],
    [
      'a run’s event gone',
      (i) => ['DELETE FROM service_event WHERE id = ?', [i['run-event']]],
      /run-event is not there/,
    ],
    ['an entry gone', (i) => ['DELETE FROM service_entry WHERE id = ?', [i.entry]], /entry is not there/],
    ['keys gone', () => ['DELETE FROM done_request', []], /key of an acknowledged/],
    ['a key without its answer', () => ['UPDATE done_request SET response = NULL', []], /has no answer/],
    ['a line of the history gone', () => ["DELETE FROM job_event WHERE kind = 'repair'", []], /lines in the history/],
    [
      'a line of the history twice',
      () => [
        "INSERT INTO job_event (id, shopId, createdAt, jobId, `by`, kind, data) SELECT UUID(), shopId, createdAt, jobId, `by`, kind, data FROM job_event WHERE kind = 'test' AND jobId = ?",
        [jobId],
      ],
      /lines in the history/,
    ],
    [
      'a board that counts wrong',
      () => ["UPDATE job SET summary = JSON_SET(summary, '$.counts.tests', 7) WHERE id = ?", [jobId]],
      /the board says/,
    ],
    ['another picture', (i) => ["UPDATE photo SET image = 'x' WHERE id = ?", [i.photo]], /picture is another one/],
  ];
  test.each(FAULTS)('sees: %s', async (name, plant, said) => {
    await db.query('START TRANSACTION');
    try {
      const [sql, args] = plant(ids);
      await db.query(sql, args);
      const failures = await broken(/judgement/.test(name));
      expect(failures).toContainEqual(expect.stringMatching(said));
    } finally {
      await db.query('ROLLBACK');
    }
  });
});
