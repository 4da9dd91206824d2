import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { QueryTypes } from 'sequelize';
import { v7 as uuid } from 'uuid';
import WebSocket from 'ws';
import { Live } from '../src/live/live.service.ts';
import { JobEvent } from '../src/rows/jobs.ts';
import { ShopWord } from '../src/rows/logbook.ts';
import { Photo } from '../src/rows/photos.ts';
import { PERSONAL } from '../src/vehicles/personal.ts';
import { Client, type Fixture, signInToOtherShop, startFixture, until } from './harness.ts';

let fixture: Fixture;
let me: Client;
let other: Client;
beforeAll(async () => {
  fixture = await startFixture({ sim: null });
  me = await new Client(() => fixture.base).signIn();
  other = await new Client(() => fixture.base).signIn('duarte@linden.example', 'bench-demo-2');
});
afterAll(() => fixture.close());

const trims = { bank1: { stft: 1, ltft: 12 } };

test('the history as sentences: by job, person, kind and day; the shop’s own changes among them', async () => {
  const { id } = await me.newJob();
  await me.into(`/jobs/${id}/readings`, {
    id: uuid(),
    phase: 'before',
    reading: { at: 'idle', rpm: 700, mafGps: 2.4, trims },
  });
  const test1 = uuid();
  await other.into(`/jobs/${id}/tests`, { id: test1, test: { id: 'smoke-intake', outcome: 'pcv' } });
  await other.into(`/jobs/${id}/tests/${test1}`, { rev: 1, undone: true }, 'PATCH');
  const said = async (q: string) => (await me.get(`/audit?${q}`)).body.map((l: { said: string }) => l.said) as string[];
  const all = await said(`job=${id}`);
  expect(all).toEqual(
    expect.arrayContaining([
      'M. Duarte took back a test.',
      expect.stringMatching(/^M\. Duarte tested: smoke the intake, /),
      'R. Okafor took idle as it came in, by hand.',
      'R. Okafor opened the job.',
    ]),
  );
  expect(all.some((s) => /^After .*weighing: /.test(s))).toBe(true);
  expect(await said(`job=${id}&person=R.%20Okafor&kind=measured`)).toEqual([
    'R. Okafor took idle as it came in, by hand.',
  ]);
  expect(await said(`job=${id}&to=2020-01-01`)).toEqual([]);
  await me.post('/people', { id: uuid(), name: 'K. Weber', email: 'weber@linden.example', role: 'learner' });
  const [newest] = await said('kind=shop');
  expect(newest).toBe('R. Okafor added, as learner, K. Weber.');
  // Pages meet: nothing twice, nothing left out.
  const seen: string[] = [];
  let path: string | null = '/audit';
  while (path) {
    const r = await me.get(path);
    seen.push(...r.body.map((l: { id: string }) => l.id));
    path = /<\/api([^>]+)>; rel="next"/.exec(r.headers.get('link') ?? '')?.[1] ?? null;
  }
  expect(new Set(seen).size).toBe(seen.length);
  const stranger = await signInToOtherShop(() => fixture.base);
  expect((await stranger.get(`/audit?job=${id}`)).body).toEqual([]);
  expect((await me.get('/audit?kind=gossip')).status).toBe(400);
});

test('a customer is forgotten; the figures, the causes and the outcome stay', async () => {
  const vehicle = {
    label: 'Marl 2.0',
    plate: 'QT 771',
    note: 'Mrs Rossi',
    vin: 'ZZZM20AA1P0000771',
    fuel: 'petrol',
    metering: 'maf',
    displacementL: 2,
    cylinders: 4,
  };
  const { id, vehicle: v } = await me.newJob({
    vehicle,
    complaint: { symptoms: ['rough-idle'], story: 'Rossi said it shakes', noticedBy: 'A. Rossi' },
  });
  await me.into(`/jobs/${id}/readings`, {
    id: uuid(),
    phase: 'before',
    reading: { at: 'idle', rpm: 700, mafGps: 2.4, trims },
  });
  const card = (await me.get(`/jobs/${id}`)).body.vehicle;
  const { id: _, rev, ...facts } = card;
  await me.put(`/jobs/${id}/vehicle`, { rev, vehicle: { ...facts, note: 'Mrs Rossi, new phone' } });
  // A second car of the same model: what only the first has goes, what both have stays.
  await me.newJob({ vehicle: { ...vehicle, plate: 'QT 772', note: 'white', vin: 'ZZZM20AA1P0000772' } });
  expect((await me.get('/logbook?q=rossi')).body).toHaveLength(1);
  expect((await other.post(`/vehicles/${v.id}/erase`, { reason: 'x' })).status).toBe(403);
  const { rev: jobRev, vehicle: before } = (await me.get(`/jobs/${id}`)).body;
  expect((await me.post(`/vehicles/${v.id}/erase`, { reason: 'asked by letter' })).body).toEqual({ jobs: 1 });
  // Whoever has an older version open is told that there is a newer one.
  expect((await me.get(`/jobs/${id}`)).body).toMatchObject({ rev: jobRev + 1, vehicle: { rev: before.rev + 1 } });
  const whole = JSON.stringify([
    (await me.get(`/jobs/${id}/export`)).body,
    (await me.get(`/vehicles/${v.id}/history`)).body,
    (await me.get(`/audit?job=${id}`)).body,
  ]);
  expect(whole).not.toMatch(/Rossi|QT 771|0000771/);
  for (const q of ['rossi', 'qt771', 'ZZZM20AA1P0000771']) expect((await me.get(`/logbook?q=${q}`)).body).toEqual([]);
  const words = (await ShopWord.findAll({ raw: true })).map((w) => w.word);
  expect(words.filter((w) => /rossi|qt771$|0000771/i.test(w))).toEqual([]);
  expect(words).toEqual(expect.arrayContaining(['marl', 'qt772']));
  const job = await me.job(id);
  expect(job.readings[0].reading.trims).toEqual(trims);
  expect(job.diagnoses.length).toBeGreaterThan(0);
  expect(await Photo.count({ where: { jobId: id } })).toBe(0);
  expect((await me.get('/audit?kind=shop')).body[0].said).toBe('R. Okafor erased what is known of a customer.');
  // Nobody else changes the history.
  await expect(JobEvent.update({ data: {} }, { where: { jobId: id } })).rejects.toThrow(/append-only/);
});

/** Columns of a job's tables that hold no words of a person: ids, kinds, names of the shop's own people, bytes. */
const NOT_PERSONAL = [
  'id jobId shopId vehicleId accountId captureId runId by openedBy importedBy kind state phase status source layer',
  'adapter command coreVersion summary form at channel unit step label image small value data:job_lesson',
  'data:capture_row data:capture_column data:capture_frames holder address',
]
  .join(' ')
  .split(' ');

test('every column that may hold words of a customer is on the one list', async () => {
  const columns = await fixture.running.sequelize.query<{ t: string; c: string }>(
    `SELECT c.table_name t, c.column_name c FROM information_schema.columns c
     WHERE c.table_schema = DATABASE() AND c.data_type IN ('char', 'varchar', 'text', 'longtext', 'json', 'mediumblob', 'longblob', 'blob')
       AND (c.table_name IN ('job', 'vehicle') OR EXISTS (SELECT 1 FROM information_schema.columns o
            WHERE o.table_schema = c.table_schema AND o.table_name = c.table_name AND o.column_name IN ('jobId', 'captureId')))`,
    { type: QueryTypes.SELECT },
  );
  const listed = new Set(PERSONAL.map((p) => `${p.model.getTableName()}.${p.column}`));
  // What a practice car is asked is nobody's; tags are dropped and made again.
  const missing = columns.filter(
    ({ t, c }) =>
      !listed.has(`${t}.${c}`) &&
      !NOT_PERSONAL.includes(c) &&
      !NOT_PERSONAL.includes(`${c}:${t}`) &&
      !['practice_attempt', 'job_tag'].includes(t),
  );
  expect(missing).toEqual([]);
  expect(columns.length).toBeGreaterThan(60);
});

test('a name planted wherever words go is nowhere once its customer is forgotten: database, exports, search', async () => {
  const name = 'Zorblatt';
  const plate = 'ZB 90 LT';
  const vin = 'ZZZM20AA1P0090771';
  const vehicle = {
    ...{ label: `${name} estate`, plate, note: `Mr ${name}, ring first`, vin, throttleChannel: `${name} throttle` },
    ...{ fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4 },
  };
  const key = () => ({ 'idempotency-key': uuid() });
  const made = await me.post(
    '/jobs',
    {
      ...{ id: uuid(), vehicleId: uuid(), vehicle, ambient: { baroKPa: 99 } },
      complaint: {
        ...{ symptoms: ['rough-idle'], story: `${name}: shakes`, noticedBy: `A. ${name}`, otherLamps: name },
        recentWork: [{ part: `hose of ${name}`, days: 3 }],
      },
    },
    key(),
  );
  expect(made.status).toBe(201);
  const { id, vehicle: v } = made.body;
  const done = async (r: Promise<{ status: number; body: unknown }>) => {
    const { status, body } = await r;
    expect([status < 300, body]).toEqual([true, body]);
  };
  const post = (path: string, body: object) => done(me.post(`/jobs/${id}${path}`, body, key()));
  await post('/readings', { id: uuid(), phase: 'before', reading: { at: 'idle', rpm: 700, mafGps: 2.4, trims } });
  await post('/tests', { id: uuid(), test: { id: 'known-good-swap', outcome: 'fixed', part: `sensor of ${name}` } });
  await post('/repairs', { id: uuid(), text: `${name} asked for it`, part: `${name} hose`, adaptation: 'relearn' });
  await post('/known', {
    ...{ id: uuid(), layer: 'entered', at: 'idle', quantity: 'airflow', low: 1, high: 4, source: `${name} said` },
  });
  for (const [kind, data] of [
    ['part', { name: `${name} hose`, make: 'copy', oldKept: false, supplier: name, substitute: `near ${name}` }],
    ['value', { quantity: 'torque', value: 10, unit: 'N·m', source: `told by ${name}` }],
    ['recheck', { dueAt: '2027-01-05', what: `ring ${name}` }],
    ['wording', { document: 'customer', section: 'story', text: `Dear ${name}`, was: '' }],
  ] as const)
    await post('/entries', { id: uuid(), kind, data });
  const run = uuid();
  const procedure = SHIPPED_PROCEDURES[0]!;
  await post('/runs', { id: run, procedure });
  const events = [
    { kind: 'done', step: procedure.steps[0]!.id, round: 0, note: `${name} waits` },
    { kind: 'parked', reason: `${name} has the key`, toOrder: [`hose for ${name}`] },
  ];
  await post(`/runs/${run}/events`, { events: events.map((what) => ({ id: uuid(), atMs: Date.now(), what })) });
  await post('/imports', {
    ...{ id: uuid(), phase: 'before', name: `${name} drive.csv` },
    summary: { rows: 1, problemCount: 1, problems: [`line 1: ${name}`], leftOut: [name] },
  });
  const card = (await me.get(`/jobs/${id}`)).body.vehicle;
  const { id: _, rev, ...facts } = card;
  await me.put(`/jobs/${id}/vehicle`, { rev, vehicle: { ...facts, plate: 'ZB 91 LT' } });
  await done(me.put(`/learned/jobs/${id}`, { leftOut: true, reason: `${name} objects` }));
  await me.put(`/logbook/views/${uuid()}`, { name: `for ${name}`, query: `q=${name.toLowerCase()}` });
  const everywhere = async () => {
    const tables = await fixture.running.sequelize.query<Record<string, string>>('SHOW TABLES', {
      type: QueryTypes.SELECT,
    });
    const hits: string[] = [];
    for (const table of tables.map((t) => Object.values(t)[0]!)) {
      const rows = await fixture.running.sequelize.query(`SELECT * FROM \`${table}\``, { type: QueryTypes.SELECT });
      const text = JSON.stringify(rows);
      const hit = /.{0,60}(zorblatt|zb ?9[01] ?lt|0090771).{0,30}/i.exec(text);
      if (hit) hits.push(`${table}: ${hit[0]}`);
    }
    return hits;
  };
  expect((await everywhere()).length).toBeGreaterThan(10);
  expect((await me.post(`/vehicles/${v.id}/erase`, { reason: `asked by ${name}` })).status).toBe(200);
  expect(await everywhere()).toEqual([]);
  const told = JSON.stringify([
    (await me.get(`/jobs/${id}/export`)).body,
    (await me.get(`/vehicles/${v.id}/history`)).body,
    (await me.get(`/vehicles/${v.id}/changes`)).body,
    (await me.get(`/audit?job=${id}`)).body,
    (await me.get('/audit?kind=shop')).body,
    (await me.get('/logbook/views')).body,
  ]);
  expect(told).not.toMatch(/zorblatt|zb ?9[01] ?lt|0090771/i);
  for (const q of ['zorblatt', 'zb90lt', vin]) expect((await me.get(`/logbook?q=${q}`)).body).toEqual([]);
  // The job still reads, with its figures, and says what was taken out.
  const job = await me.job(id);
  expect(job.damaged).toEqual([]);
  expect(job.readings[0].reading.trims).toEqual(trims);
  expect(job.repairs[0].text).toBe('erased on request');
});

test('two screens on one job know of each other, and when one has gone', async () => {
  const { id } = await me.newJob();
  const watch = (c: Client, screen?: string) => {
    const seen: string[][] = [];
    const at: (string | null)[][] = [];
    const ws = new WebSocket(`${fixture.base.replace('http', 'ws')}/ws`, {
      headers: { cookie: c.cookie, origin: fixture.base },
    });
    ws.on('open', () => ws.send(JSON.stringify({ type: 'subscribe', jobId: id, screen })));
    ws.on('message', (m) => {
      const x = JSON.parse(String(m));
      if (x.type !== 'present') return;
      seen.push([...x.people].sort());
      at.push(x.at);
    });
    return { seen, at, ws };
  };
  const a = watch(me);
  await until(() => a.seen.length > 0);
  const b = watch(other);
  await until(() => a.seen.at(-1)?.length === 2);
  expect(a.seen.at(-1)).toEqual(['M. Duarte', 'R. Okafor']);
  // Each sees at what the other is; what is no place is refused.
  b.ws.send(JSON.stringify({ type: 'at', at: 'Service: Unplug it.' }));
  await until(() => a.at.at(-1)?.includes('Service: Unplug it.') === true);
  b.ws.send(JSON.stringify({ type: 'at', at: 'x'.repeat(121) }));
  b.ws.send(JSON.stringify({ type: 'at', at: 7 }));
  // Asked whether it is there, it says what o'clock it is, and gives back when it was asked.
  const beats: { type: string; sentMs: unknown; clockMs: number }[] = [];
  b.ws.on('message', (data) => {
    const m = JSON.parse(String(data));
    if (m.type === 'beat') beats.push(m);
  });
  const beat = async (sentMs: unknown) => {
    const had = beats.length;
    b.ws.send(JSON.stringify({ type: 'beat', sentMs }));
    await until(() => beats.length > had);
    return beats.at(-1)!;
  };
  const asked = Date.now();
  expect(await beat(asked - 5000)).toEqual({ type: 'beat', sentMs: asked - 5000, clockMs: expect.any(Number) });
  const { sentMs, clockMs } = await beat('soon');
  expect([sentMs, clockMs >= asked && clockMs <= Date.now()]).toEqual([null, true]);
  b.ws.close();
  await until(() => a.seen.at(-1)?.length === 1);
  // A page that came again before its old socket is missed is one screen; one that does not answer is gone.
  const again = watch(me, uuid());
  await until(() => again.seen.at(-1)?.length === 2);
  a.ws.close();
  await until(() => again.seen.at(-1)?.length === 1);
  const screen = uuid();
  const [old, now] = [watch(me, screen), watch(me, screen)];
  await until(() => now.seen.length > 0 && old.seen.length > 0);
  expect(now.seen.at(-1)).toEqual(['R. Okafor', 'R. Okafor']);
  // Its network is gone: nothing of it is heard any more, not even that it left.
  (old.ws as unknown as { pong: () => void }).pong = () => {};
  const live = fixture.running.app.get(Live);
  live.lookAround();
  await new Promise((r) => setTimeout(r, 300));
  live.lookAround();
  await until(() => old.ws.readyState === WebSocket.CLOSED);
  expect(now.ws.readyState).toBe(WebSocket.OPEN);
  for (const w of [again, now]) w.ws.close();
});
