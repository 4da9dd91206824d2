import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { v4 as uuid } from 'uuid';
import { ROUTES } from '../src/accounts/rights.ts';
import { Job, ReadingRow, TestRow, Vehicle } from '../src/database/models.ts';
import { Client, startWorld, type World } from './harness.ts';

let world: World;
let me: Client;
beforeAll(async () => {
  world = await startWorld();
  me = await new Client(() => world.base).signIn();
}, 60_000);
afterAll(() => world.close());

const deep = (n: number) => '['.repeat(n) + ']'.repeat(n);

/** Bodies that no client of ours sends. */
const BODIES: readonly (readonly [string, string])[] = [
  ['null', 'null'],
  ['a list', '[]'],
  ['a number', '1'],
  ['a text', '"x"'],
  ['cut short', '{"id":'],
  ['nested', `{"complaint":${deep(3000)}}`],
  ['nested in a list', deep(400_000)],
  ['many values', `{"x":[${'1,'.repeat(100_000)}1]}`],
  [
    'many keys',
    `{"reading":{"at":"idle","quantum":{${Array.from({ length: 60_000 }, (_, i) => `"k${i}":1`).join(',')}}}}`,
  ],
  ['a name of the language', '{"__proto__":{"role":"lead"},"constructor":{"prototype":{}}}'],
  [
    'lists for objects',
    '{"id":[],"vehicle":[],"complaint":[],"ambient":[],"reading":[],"test":[],"settings":[],"summary":[],"parts":[],"data":[]}',
  ],
  [
    'lists in lists',
    '{"complaint":{"symptoms":[[]],"recentWork":[[]],"when":[[]]},"readings":[[]],"marks":[[]],"stored":[[]]}',
  ],
  [
    'nulls',
    '{"id":null,"vehicle":null,"complaint":null,"rev":null,"reading":null,"test":null,"command":null,"data":null,"low":null}',
  ],
  ['objects for texts', '{"id":{},"email":{},"password":{},"text":{},"token":{},"name":{},"caution":{},"at":{}}'],
  ['half a character', '{"id":"\\ud83d","text":"\\ud83d","caution":"\\ude00","name":"\\ud83d","story":"\\ud83d"}'],
  ['a zero byte', '{"id":"\\u0000","text":"\\u0000","caution":"a\\u0000","step":"b","adaptation":"relearn"}'],
  ['beyond all measure', '{"rev":1e308,"low":-1e308,"high":1e308,"from":1e999,"to":1}'],
  [
    'long texts',
    JSON.stringify({
      text: 'x'.repeat(400_000),
      email: `${'x'.repeat(10_000)}@x.example`,
      caution: 'x'.repeat(100_000),
    }),
  ],
];

/** Bodies that are nearly right, per route. */
const id = () => uuid();
const NEARLY: Readonly<Record<string, readonly unknown[]>> = {
  'POST /api/jobs': [
    { id: id(), vehicleId: id(), vehicle: [], complaint: { symptoms: [] } },
    {
      id: id(),
      vehicleId: id(),
      vehicle: { label: 'x', fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4 },
      complaint: [],
    },
    {
      id: id(),
      vehicleId: id(),
      vehicle: { label: '\ud83d', fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4 },
      complaint: { symptoms: [] },
    },
    {
      id: id(),
      vehicleId: id(),
      vehicle: { label: 'x', fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4, limits: [] },
      complaint: { symptoms: [], recentWork: [[]] },
    },
  ],
  'PATCH /api/jobs/:id': [
    { rev: 1, complaint: [] },
    { rev: 1, ambient: [] },
    { rev: 1, complaint: { symptoms: [], recentWork: [[]] } },
  ],
  'POST /api/jobs/:id/readings': [
    { id: id(), phase: 'before', reading: [] },
    { id: id(), phase: 'before', reading: { at: 'idle', trims: [] } },
    { id: id(), phase: 'before', reading: { at: 'idle', o2: { bank1s1: null } } },
    { id: id(), phase: 'before', reading: { at: 'idle', quantum: { a: 'x' } } },
  ],
  'POST /api/jobs/:id/tests': [
    { id: id(), test: [] },
    { id: id(), test: { id: 'smoke-intake', outcome: { toString: 1 } } },
    { id: id(), test: { id: 'fuel-pressure', values: { idleKPa: {} } } },
  ],
  'POST /api/jobs/:id/records/by-hand': [{ id: id(), phase: 'before', stored: [{}], pending: [], lampOn: true }],
  'POST /api/jobs/:id/imports': [
    {
      id: id(),
      phase: 'before',
      name: 'x',
      startedAt: '99999-01-01',
      summary: { rows: 0, problemCount: 0, problems: [], leftOut: [] },
    },
    { id: id(), phase: 'before', name: 'x', summary: { rows: 0, problemCount: 0, problems: [[]], leftOut: [] } },
  ],
  'PUT /api/shop/settings': [
    { rev: 1, settings: [] },
    { rev: 1, settings: { limits: [], priors: null, minutes: [1], tools: {} } },
    { rev: 1, settings: { limits: { actPct: {} } } },
  ],
  'POST /api/bays/:bay': [
    { command: 'fault', fault: {}, severity: [] },
    { command: 'degrade', degradation: [] },
  ],
};

const path = (route: string, jobId: string) =>
  route
    .split(' ')[1]!
    .replace('/api', '')
    .replace(':id', jobId)
    .replaceAll(/:(\w+)/g, (_, n: string) => ({ bay: '3', noun: 'reading', channel: 'rpm' })[n] ?? uuid());

describe('a hostile body on every route', () => {
  test('is refused with a 4xx in words, never a 5xx, never a stack trace; nothing of it is stored', async () => {
    const job = await me.newJob();
    const before = await me.job(job.id);
    const seen: Record<string, number> = {};
    for (const route of Object.keys(ROUTES)) {
      const method = route.split(' ')[0]!;
      if (method === 'GET' || method === 'DELETE') continue;
      const nearly = (NEARLY[route] ?? []).map((b) => ['nearly right', JSON.stringify(b)] as const);
      for (const [what, body] of [...BODIES, ...nearly]) {
        const c = ROUTES[route] === 'open' ? new Client(() => world.base) : me;
        const r = await c.ask(method, path(route, job.id), body);
        seen[`${route} ${what}`] = r.status;
        expect([route, what, r.status >= 400 && r.status < 500, r.body]).toEqual([
          route,
          what,
          true,
          expect.anything(),
        ]);
        expect([route, what, typeof r.body.message]).toEqual([route, what, 'string']);
        expect(JSON.stringify(r.body)).not.toMatch(/node_modules|\.[jt]s:\d|at \w+ \(/);
      }
    }
    expect(Object.keys(seen).length).toBeGreaterThan(400);
    expect(await me.job(job.id)).toEqual(before);
  }, 180_000);

  test('addresses nobody gave out: a 4xx', async () => {
    for (const at of [
      '/jobs/%00',
      '/jobs/%E0%A4%A',
      `/jobs/${uuid()}/captures/x/recording`,
      '/jobs?before=x',
      '/jobs?limit=-1',
      '/jobs?limit=1e9',
      '/jobs?status=[]',
      '/bays/1e99',
      '/nowhere',
      `/jobs/${uuid()}/damaged/__proto__/${uuid()}`,
    ]) {
      const r = await me.ask('GET', at);
      expect([at, r.status >= 400 && r.status < 500]).toEqual([at, true]);
    }
    for (const at of ['/jobs?before[]=1', '/jobs?__proto__[x]=1'])
      expect((await me.ask('GET', at)).status).toBeLessThan(500);
    expect((await me.ask('POST', '/bays/999999999999999999999', { command: 'idle' })).status).toBe(400);
    expect((await me.ask('GET', '/jobs', undefined, { cookie: 'jb_session=%E0%A4%A' })).status).toBe(401);
  });

  test('before signing in a body may be small only', async () => {
    const stranger = new Client(() => world.base);
    const r = await stranger.post('/session', { email: 'x@y.example', password: 'x'.repeat(20_000) });
    expect([r.status, r.body.message]).toEqual([413, expect.stringMatching(/16 kB before signing in/)]);
  });
});

describe('rows that cannot be read', () => {
  test('are named, left out, and mended; the board and the other jobs go on', async () => {
    const job = await me.newJob();
    const reading = { at: 'idle', rpm: 700, mafGps: 2, trims: { bank1: { stft: 2, ltft: 16 } } };
    const kept = await me.into(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'before', reading });
    const rowId = kept.readings[0].id;
    await me.post(`/jobs/${job.id}/tests`, { id: uuid(), test: { id: 'fuse-check', outcome: 'ok' } });
    // As older versions let them in.
    await Job.update({ complaint: [] as never, summary: null }, { where: { id: job.id } });
    await Vehicle.update({ data: [] as never }, { where: { id: (await Job.findByPk(job.id))!.vehicleId } });
    await ReadingRow.update({ data: { at: 'idle', trims: [] } as never }, { where: { id: rowId } });
    await TestRow.update({ data: [[]] as never }, { where: { jobId: job.id } });
    const row = (await me.get('/jobs')).body.find((j: { id: string }) => j.id === job.id);
    expect(row).toMatchObject({ damaged: true, label: 'Vehicle that cannot be read', symptom: null });
    const broken = await me.job(job.id);
    expect(broken.damaged.map((d: { noun: string }) => d.noun).sort()).toEqual([
      'complaint',
      'reading',
      'test',
      'vehicle',
    ]);
    expect([broken.readings, broken.tests]).toEqual([[], []]);
    // It still takes what is entered.
    const hold = { ...reading, at: 'hold-2500', mafGps: 8 };
    expect((await me.post(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'before', reading: hold })).status).toBe(
      201,
    );
    const mend = (noun: string, at: string, data: unknown) => me.put(`/jobs/${job.id}/damaged/${noun}/${at}`, { data });
    const bad = await mend('complaint', job.id, { symptoms: [[]] });
    expect([bad.status, bad.body.errors[0].field]).toEqual([400, 'data.symptoms']);
    const vehicleId = (await Job.findByPk(job.id))!.vehicleId;
    const vehicle = { label: 'Tarn 2.0', fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4 };
    for (const [noun, at, data] of [
      ['complaint', job.id, { symptoms: ['stall'] }],
      ['vehicle', vehicleId, vehicle],
      ['reading', rowId, reading],
      ['test', broken.damaged.find((d: { noun: string }) => d.noun === 'test').id, { id: 'fuse-check', outcome: 'ok' }],
    ] as const)
      expect([noun, (await mend(noun, at, data)).status]).toEqual([noun, 200]);
    const whole = await me.job(job.id);
    expect(whole).toMatchObject({ damaged: [], complaint: { symptoms: ['stall'] }, vehicle: { label: 'Tarn 2.0' } });
    expect(whole.readings.map((r: { reading: { at: string } }) => r.reading.at)).toEqual(['idle', 'hold-2500']);
    expect(whole.diagnoses.at(-1).input.readings).toHaveLength(2);
    // Sound rows are not rewritten by this door.
    expect((await mend('reading', rowId, hold)).status).toBe(409);
  });
});

describe('a closed job', () => {
  test('takes nothing more until it is reopened', async () => {
    const job = await me.newJob();
    await me.patch(`/jobs/${job.id}`, { rev: 1, status: 'closed' });
    const reading = { at: 'idle', rpm: 700, trims: { bank1: { stft: 1, ltft: 2 } } };
    for (const [at, body] of [
      ['readings', { id: uuid(), phase: 'before', reading }],
      ['tests', { id: uuid(), test: { id: 'fuse-check', outcome: 'ok' } }],
      ['repairs', { id: uuid(), text: 'x', adaptation: 'relearn' }],
      ['cautions', { id: uuid(), caution: 'x', step: 'y' }],
    ] as const) {
      const r = await me.post(`/jobs/${job.id}/${at}`, body);
      expect([at, r.status, r.body.message]).toEqual([at, 409, expect.stringMatching(/closed.*reopen it/)]);
    }
    expect((await me.patch(`/jobs/${job.id}`, { rev: 2, ambient: { baroKPa: 99 } })).status).toBe(409);
    expect((await me.patch(`/jobs/${job.id}`, { rev: 2, status: 'open' })).status).toBe(200);
    expect((await me.post(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'before', reading })).status).toBe(201);
  });
});
