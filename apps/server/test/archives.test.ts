import { request } from 'node:http';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { unzipSync } from 'fflate';
import { v7 as uuid } from 'uuid';
import { JobEvent } from '../src/rows/jobs.ts';
import { newIds, packed } from './archiveFiles.ts';
import { Client, type Fixture, readingAt, startFixture } from './harness.ts';

let fixture: Fixture;
let me: Client;
/** The files of a good archive, as text or bytes. */
let good: Record<string, Uint8Array>;
let jobId: string;
beforeAll(async () => {
  fixture = await startFixture({ sim: null });
  me = await new Client(() => fixture.base).signIn();
  jobId = (await me.newJob()).id;
  await me.into(`/jobs/${jobId}/readings`, { id: uuid(), phase: 'before', reading: readingAt('idle', 14, 2.6) });
  const pressures = { idleKPa: 378, loadKPa: 241.5, specKPa: 380 };
  await me.into(`/jobs/${jobId}/tests`, { id: uuid(), test: { id: 'fuel-pressure', values: pressures } });
  await me.into(`/jobs/${jobId}/repairs`, { id: uuid(), text: 'hose renewed', adaptation: 'relearn' });
  const r = await fetch(`${fixture.base}/api/jobs/${jobId}/archive`, { headers: { cookie: me.cookie } });
  good = unzipSync(new Uint8Array(await r.arrayBuffer()));
});
afterAll(() => fixture.close());

const _MANIFEST = 'manifest.json';

type Rows = Record<string, Record<string, unknown>[]>;
/** The good archive under new ids, its rows changed. */
function changed(change: (rows: Rows) => void): Uint8Array {
  const job = newIds().renamed(Buffer.from(good['job.json']!).toString());
  const whole = JSON.parse(job) as { rows: Rows };
  change(whole.rows);
  return packed({ 'job.json': Buffer.from(JSON.stringify(whole)) });
}

async function send(body: Uint8Array): Promise<{ status: number; message: string; job: string }> {
  const r = await fetch(`${fixture.base}/api/archives`, {
    method: 'POST',
    body: new Uint8Array(body),
    headers: { cookie: me.cookie, 'content-type': 'application/zip' },
  });
  const body1 = (await r.json()) as { message: string; job: string };
  return { status: r.status, message: body1.message, job: body1.job };
}

const MIB = 1024 * 1024;
const filled = (n: number, text: string) => Buffer.alloc(n, text);

describe('an archive that is made to hurt', () => {
  const HURTING: readonly (readonly [string, () => Uint8Array, RegExp])[] = [
    ['spaces', () => packed({ 'job.json': filled(10 * MIB, ' ') }), /job\.json: shrinks to less than a 200th/],
    ['brackets', () => packed({ 'job.json': filled(6 * MIB, '[') }, 0), /job\.json: nested deeper than 24/],
    [
      'values',
      () =>
        packed({ 'job.json': Buffer.concat([Buffer.from('{"rows":['), filled(3 * MIB, '0,'), Buffer.from('0]}')]) }, 0),
      /job\.json: more than 1,000,000 values/,
    ],
    ['more than is taken', () => packed({ 'job.json': filled(49 * MIB, 'x') }, 0), /larger than is taken \(48 MiB\)/],
    ['bytes that are no text', () => packed({ 'job.json': Buffer.from([0xff, 0xfe]) }), /job\.json: not JSON/],
    ['no zip', () => filled(1000, 'PK'), /not a whole zip file/],
    [
      'a directory that lies about a size',
      () => {
        const zip = Buffer.from(packed({ 'job.json': filled(4000, ' ') }));
        // The size in the central directory (PKWARE APPNOTE 4.3.12) stands 24 bytes after its signature.
        const at = zip.indexOf(Buffer.from('PK\u0001\u0002', 'latin1'));
        zip.writeUInt32LE(10, at + 24);
        return zip;
      },
      /job\.json: (cannot be unpacked|is not what)/,
    ],
  ];
  test.each(HURTING)('%s: refused in words, and others are answered meanwhile', async (_, made, message) => {
    const body = made();
    let answered = 0;
    let going = true;
    const beside = (async () => {
      while (going) {
        const r = await fetch(`${fixture.base}/api/health`);
        if (r.status === 200) answered++;
      }
    })();
    const r = await send(body);
    going = false;
    await beside;
    expect([r.status, r.message]).toEqual([400, expect.stringMatching(message)]);
    expect(answered).toBeGreaterThan(0);
  });

  const ODD: readonly (readonly [string, (rows: Rows) => void, RegExp])[] = [
    ['a kind nobody knows', (r) => Object.assign(r.events![0]!, { kind: 'constructor' }), /events\[0\]\.kind/],
    ['a kind of the shop', (r) => Object.assign(r.events![0]!, { kind: 'settings' }), /events\[0\]\.kind/],
    [
      'an object for a text',
      (r) => Object.assign(r.events!.find((e) => e.kind === 'repair')!, { data: { text: {} } }),
      /events\[\d+\]\.data\.text: a text/,
    ],
    [
      'an outcome that is none',
      (r) => Object.assign(r.events!.find((e) => e.kind === 'test')!, { data: { test: 'x', outcome: { a: {} } } }),
      /data\.outcome: what a test showed/,
    ],
    ['a number for a name', (r) => Object.assign(r.events![0]!, { by: 7 }), /events\[0\]\.by: a text/],
    ['the year 0', (r) => Object.assign(r.job![0]!, { createdAt: '0000-01-01T00:00:00.000Z' }), /createdAt: a moment/],
    [
      'the year 9999',
      (r) => Object.assign(r.tests![0]!, { createdAt: '9999-12-31T23:59:59.999Z' }),
      /createdAt: a moment/,
    ],
    ['no rows', (r) => delete r.events, /rows\.events: a list/],
  ];
  test.each(ODD)('%s: a 400 that names the field', async (_, change, message) => {
    const r = await send(changed(change));
    expect([r.status, r.message]).toEqual([400, expect.stringMatching(message)]);
  });

  test('rows of the history that are odd all the same do not close it', async () => {
    const job = await me.newJob();
    const odd: [string, unknown][] = [
      ['constructor', { text: 1 }],
      ['__proto__', {}],
      ['test', { test: {}, outcome: { a: { b: 1 } } }],
      ['test', []],
      ['vehicle', { after: 'x' }],
      ['diagnosis', { fault: 7, probability: 'much' }],
      ['repair', 'text'],
      ['run-took-off', { taken: { item: {} } }],
      ['caution', { caution: {}, step: [] }],
    ];
    for (const [kind, data] of odd)
      await JobEvent.create({
        ...{ id: uuid(), jobId: job.id, accountId: null, by: 'R. Okafor', kind, data },
        shopId: (await JobEvent.findOne({ where: { jobId: job.id } }))!.shopId,
      } as never);
    for (const path of [`/audit?job=${job.id}`, '/audit', `/jobs/${job.id}/cautions`, `/jobs/${job.id}/export`]) {
      const r = await me.get(path);
      expect([path, r.status, JSON.stringify(r.body).includes('[object')]).toEqual([path, 200, false]);
    }
  });
});

describe('what an archive brought in', () => {
  test('is its word: marked, with who read it in; nobody of the shop is said to have done it', async () => {
    const r = await send(changed(() => {}));
    expect(r.status).toBe(200);
    const lines = (await me.get(`/audit?job=${r.job}`)).body as { said: string; imported: { by: string } | null }[];
    const repaired = lines.find((l) => l.said.includes('hose renewed'));
    expect(repaired).toMatchObject({ imported: { by: 'R. Okafor', at: expect.stringMatching(/^20/) } });
    const own = (await me.get(`/audit?job=${r.job}&person=R.%20Okafor`)).body as { said: string }[];
    expect(own.filter((l) => l.said.includes('hose renewed'))).toEqual([]);
    expect((await me.get(`/jobs/${r.job}`)).body.imported).toMatchObject({ by: 'R. Okafor' });
    const ofOkafor = async () => (await me.get('/logbook?person=R.%20Okafor')).body.map((j: { id: string }) => j.id);
    expect(await ofOkafor()).not.toContain(r.job);
    // What is done here from then on is this shop's.
    await me.into(`/jobs/${r.job}/tests`, { id: uuid(), test: { id: 'fuse-check', outcome: 'ok' } });
    const since = (await me.get(`/audit?job=${r.job}&person=R.%20Okafor&kind=tested`)).body;
    expect(since).toContainEqual(
      expect.objectContaining({ imported: null, said: expect.stringMatching(/tested: check the fuses/) }),
    );
    expect(await ofOkafor()).toContain(r.job);
    // The job that was not brought in has no such mark.
    expect((await me.get(`/audit?job=${jobId}`)).body.every((l: { imported: unknown }) => l.imported === null)).toBe(
      true,
    );
  });

  test('a test with figures is told with its figures', async () => {
    const said = (await me.get(`/audit?job=${jobId}&kind=tested`)).body.map((l: { said: string }) => l.said);
    expect(said).toContainEqual(
      expect.stringMatching(/^R\. Okafor tested: .*at idle 378 kPa, under load 241\.5 kPa, should be 380 kPa\.$/),
    );
  });
});

test('the same key with another archive is refused', async () => {
  const key = { cookie: me.cookie, 'content-type': 'application/zip', 'idempotency-key': uuid() };
  const post = (body: Uint8Array) =>
    fetch(`${fixture.base}/api/archives`, { method: 'POST', body: new Uint8Array(body), headers: key });
  const first = changed(() => {});
  expect([(await post(first)).status, (await post(first)).status]).toEqual([200, 200]);
  expect((await post(changed(() => {}))).status).toBe(422);
});

describe('days that no calendar has', () => {
  test.each(['/audit?from=0000-01-01', '/audit?to=9999-12-31', '/logbook?from=0000-01-01', '/archives?to=9999-12-31'])(
    '%s: a 400 that names the field',
    async (path) => {
      const r = await me.get(path);
      expect([r.status, r.body.errors[0].field]).toEqual([400, expect.stringMatching(/from|to/)]);
    },
  );

  test('a place in a list that no clock reaches is refused or the beginning', async () => {
    for (const path of ['/audit', '/logbook', '/jobs'])
      expect((await me.get(`${path}?before=9999999999999999_${uuid()}`)).status).toBeLessThan(500);
  });
});

describe('a body of somebody who is not signed in', () => {
  /** Sends `n` bytes and says with what it was answered, and how many had been taken by then. */
  const answerOf = (path: string, type: string, n: number, method = 'PUT') =>
    new Promise<{ status: number; taken: number }>((done) => {
      const { hostname, port } = new URL(fixture.base);
      const req = request({ hostname, port, path, method, headers: { 'content-type': type, 'content-length': n } });
      req.on('response', (res) => {
        done({ status: res.statusCode!, taken: req.socket?.bytesWritten ?? 0 });
        req.destroy();
      });
      req.on('error', () => {});
      // Only the beginning is sent: the answer does not wait for the rest.
      req.write(Buffer.alloc(1000));
    });

  test.each([
    ['a picture', `/api/jobs/${uuid()}/photos/${uuid()}`, 'image/jpeg', 11_000_000, 'PUT'],
    ['a column', `/api/jobs/${uuid()}/imports/${uuid()}/columns/rpm`, 'application/octet-stream', 7_000_000, 'PUT'],
    ['an archive', '/api/archives', 'application/zip', 150_000_000, 'POST'],
    ['a write', '/api/jobs', 'application/json', 900_000, 'POST'],
  ] as const)('%s is refused before it is read', async (_, path, type, n, method) => {
    const r = await answerOf(path, type, n, method);
    expect(r.status).toBe(401);
    expect(r.taken).toBeLessThan(5000);
  });
});

describe('events of a run that no client of ours writes', () => {
  const event = (data: unknown) =>
    changed((rows) => {
      const { id: job } = rows.job![0]!;
      const run = uuid();
      const at = '2026-05-04T09:12:33.120Z';
      const procedure = SHIPPED_PROCEDURES[0]!;
      rows.runs = [{ id: run, createdAt: at, by: 'x', data: procedure }] as never;
      rows.runEvents = [{ id: uuid(), createdAt: at, by: 'x', runId: run, atMs: 1_700_000_000_000, data }] as never;
      expect(job).toBeTruthy();
    });
  test.each([
    [{ kind: 'parked', reason: 'rain' }, /toOrder: parked needs it/],
    [{ kind: 'order', is: 'ordered' }, /part: order needs it/],
    [{ kind: 'order', part: 'ring', is: 'lost' }, /is/],
    [{ kind: 'done', step: 'cold' }, /round: done needs it/],
  ])('%p is refused, named', async (data, said) => {
    const r = await send(event(data));
    expect([r.status, r.message]).toEqual([400, expect.stringMatching(said)]);
  });
  test('one that is whole comes in, and its part stands on the list of the shop', async () => {
    const r = await send(event({ kind: 'parked', reason: 'rain', toOrder: ['seal ring'] }));
    expect(r.status).toBe(200);
    const orders = (await me.get('/jobs/orders')).body as { job: string; part: string; is: string }[];
    expect(orders.filter((o) => o.job === r.job)).toMatchObject([{ part: 'seal ring', is: 'wanted' }]);
  });
});

describe('rows of any table that are odd inside', () => {
  /** What no client of ours writes, in the place of a row's own data. */
  const ODD: readonly unknown[] = [
    {},
    { a: { b: [null, 'x', 7] } },
    { symptoms: 5, story: {}, recentWork: 'x', when: [1] },
    { label: 7, fuel: [], displacementL: 'two', banks: 9, limits: 'x' },
    { at: {}, trims: { bank1: 'x' }, rpm: 'fast', o2: [] },
    { id: 'fuel-pressure', outcome: { a: 1 }, values: { idleKPa: 'x' } },
    { text: 5, fault: {}, part: [], adaptation: 'x' },
    { kind: 'constructor', steps: 'x', title: {} },
    { codes: 'P0171', monitorBytes: 5, freezeFrame: {}, phase: 'later' },
    { dueAt: 'never', what: {}, job: 5 },
  ];
  test('are refused, or named as damage; no page of the shop answers with a 5xx', async () => {
    let taken = 0;
    const tables = ['vehicle', 'job', 'events', 'readings', 'tests', 'repairs', 'entries', 'diagnoses'];
    // Each table with some of them, each of them in some tables: every pair was tried once by hand, and takes a minute.
    for (const [t, table] of tables.entries())
      for (const odd of ODD.filter((_, i) => (i + t) % 4 === 0)) {
        const r = await send(
          changed((rows) => {
            const row = rows[table]![0];
            if (!row) return;
            if (table === 'job') Object.assign(row, { complaint: odd, ambient: odd });
            else row[table === 'diagnoses' ? 'input' : 'data'] = odd;
          }),
        );
        expect([table, odd, r.status === 200 || r.status === 400, r.message]).toEqual([table, odd, true, r.message]);
        if (r.status !== 200) continue;
        taken++;
        const { job } = r;
        for (const page of ['', '/readings', '/tests', '/repairs', '/entries', '/diagnosis', '/damaged', '/export'])
          expect([table, odd, page, (await me.get(`/jobs/${job}${page}`)).status < 500]).toEqual([
            table,
            odd,
            page,
            true,
          ]);
        // A paper takes a second: one of each table.
        if (odd === ODD[ODD.length - 1 - (taken % 2)])
          expect([table, odd, (await me.get(`/jobs/${job}/hand-over/technician`)).status < 500]).toEqual([
            table,
            odd,
            true,
          ]);
        expect((await me.get(`/audit?job=${job}`)).status).toBe(200);
      }
    expect(taken).toBeGreaterThan(8);
    for (const page of ['/jobs', '/logbook', '/audit', '/learned', '/vehicles', '/jobs/due', '/service/outcomes'])
      expect([page, (await me.get(page)).status]).toEqual([page, 200]);
  });
});
