import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import sharp from 'sharp';
import { v4 as uuid } from 'uuid';
import { ROUTES } from '../src/accounts/rights.ts';
import { Job } from '../src/rows/jobs.ts';
import { ReadingRow } from '../src/rows/readings.ts';
import { TestRow } from '../src/rows/tests.ts';
import { Vehicle } from '../src/rows/vehicles.ts';
import { Client, type Fixture, readingAt, startFixture } from './harness.ts';

let fixture: Fixture;
let me: Client;
beforeAll(async () => {
  fixture = await startFixture();
  me = await new Client(() => fixture.base).signIn();
});
afterAll(() => fixture.close());

interface Hostile {
  JSON_BODIES: readonly (readonly [string, string])[];
  YAML_BODIES: readonly (readonly [string, string])[];
  uploads(): Promise<readonly (readonly [string, string, Buffer])[]>;
}
let hostile: Hostile;
beforeAll(async () => {
  hostile = (await import('../../../scripts/lib/hostileBodies.mjs' as string)) as Hostile;
});

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
    .replaceAll(/:(\w+)/g, (_, n: string) => ({ bay: '3', resource: 'reading', channel: 'rpm' })[n] ?? uuid());

/** A job with a row of every kind; gives for each parameter of a route an id that is there. */
async function everyId(who: Client): Promise<(route: string, name: string) => string> {
  const job = await who.newJob();
  const made = async (path: string, body: Record<string, unknown>) => {
    const id = uuid();
    const r = await who.post(`/jobs/${job.id}/${path}`, { id, ...body });
    expect([path, r.status < 300, r.body]).toEqual([path, true, r.body]);
    return id;
  };
  const rows: Record<string, string> = {
    readings: await made('readings', { phase: 'before', reading: readingAt('idle', 12, 2.4) }),
    tests: await made('tests', { test: { id: 'fuse-check', outcome: 'ok' } }),
    repairs: await made('repairs', { text: 'x', adaptation: 'relearn' }),
    known: await made('known', { layer: 'entered', at: 'idle', quantity: 'airflow', low: 1, high: 4, source: 'plate' }),
    entries: await made('entries', { kind: 'recheck', data: { dueAt: '2027-01-05', what: 'x' } }),
    records: await made('records/by-hand', { phase: 'before', stored: [], pending: [], lampOn: false }),
  };
  const run = await made('runs', { procedure: SHIPPED_PROCEDURES[0] as never });
  const capture = await made('captures/spooled', { at: 'free', phase: 'before' });
  const imported = await made('imports', {
    ...{ phase: 'before', name: 'x.csv' },
    summary: { rows: 1, problemCount: 0, problems: [], leftOut: [] },
  });
  const photo = uuid();
  const image = await sharp({ create: { width: 40, height: 30, channels: 3, background: '#345' } })
    .jpeg()
    .toBuffer();
  await fetch(`${fixture.base}/api/jobs/${job.id}/photos/${photo}`, {
    method: 'PUT',
    headers: { cookie: who.cookie, 'content-type': 'image/jpeg' },
    body: new Uint8Array(image),
  });
  const person = (await who.get('/people')).body.find((p: { email: string }) => !p.email.startsWith('okafor'));
  const attempt = (await who.post('/practice/attempts', { id: uuid(), hints: true, scenario: 'breather' })).body.id;
  const names: Record<string, string> = {
    ...{ id: job.id, runId: run, photoId: photo, personId: person.id, vehicleId: job.vehicle.id, attemptId: attempt },
    ...{ bay: '3', channel: 'rpm', resource: 'reading', scenarioId: 'breather', jobId: job.id, document: 'customer' },
  };
  return (route, name) => {
    const resource = /:id\/(\w+)\/:rowId/.exec(route)?.[1] ?? '';
    if (name === 'captureId') return route.includes('/imports/') ? imported : capture;
    return (name === 'rowId' ? (rows[resource] ?? rows.readings) : names[name]) ?? uuid();
  };
}

describe('a hostile body on every route', () => {
  test('is refused with a 4xx in words, never a 5xx, never a stack trace; nothing of it is stored', async () => {
    const job = await me.newJob();
    const before = await me.job(job.id);
    const seen: Record<string, number> = {};
    for (const route of Object.keys(ROUTES)) {
      const method = route.split(' ')[0]!;
      if (method === 'GET' || method === 'DELETE') continue;
      const nearly = (NEARLY[route] ?? []).map((b) => ['nearly right', JSON.stringify(b)] as const);
      for (const [what, body] of [...hostile.JSON_BODIES, ...nearly]) {
        const c = ROUTES[route] === 'open' ? new Client(() => fixture.base) : me;
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
  });

  test('with ids that exist, every content type and every kind of upload: never a 5xx, never a stack trace', async () => {
    const real = await everyId(me);
    const uploads = await hostile.uploads();
    const small = uploads.filter(([, , bytes]) => bytes.length < 100_000);
    let asked = 0;
    for (const route of Object.keys(ROUTES)) {
      const [method, pattern] = route.split(' ') as [string, string];
      if (method === 'GET' || route.startsWith('DELETE /api/session') || route.startsWith('POST /api/session'))
        continue;
      const path = pattern.replaceAll(/:(\w+)/g, (_, name: string) => real(route, name));
      // What is large goes to the routes that take it; of the others the guards have nothing to read.
      const takes = /photos\/:photoId$|columns\/:channel$|archives$/.test(pattern);
      for (const [what, type, bytes] of takes ? uploads : small) {
        const r = await fetch(`${fixture.base}${path}`, {
          method,
          headers: { cookie: me.cookie, 'content-type': type },
          ...(method === 'DELETE' ? {} : { body: new Uint8Array(bytes) }),
        }).catch((e: Error) => {
          throw new Error(`${route} ${what}: ${e.message}, ${String(e.cause)}`);
        });
        const text = await r.text();
        asked++;
        expect([route, what, r.status < 500, /node_modules|\.[jt]s:\d|at \w+ \(/.test(text)]).toEqual([
          route,
          what,
          true,
          false,
        ]);
        if (r.status === 401) await me.signIn();
      }
    }
    expect(asked).toBeGreaterThan(700);
    expect((await new Client(() => fixture.base).get('/health')).status).toBe(200);
  });

  test('texts of files that are made to be slow: a 4xx with the line, and others are answered meanwhile', async () => {
    for (const kind of ['service', 'drive', 'rule'])
      for (const [what, text] of hostile.YAML_BODIES) {
        let others = 0;
        let open = true;
        const beside = (async () => {
          for (; open; others++) await fetch(`${fixture.base}/api/health`);
        })();
        const r = await me.post('/procedures/file', { id: uuid(), kind, text });
        open = false;
        await beside;
        expect([kind, what, r.status, typeof (r.body.errors?.[0]?.line ?? r.body.message)]).toEqual([
          kind,
          what,
          400,
          expect.stringMatching(/number|string/),
        ]);
        expect(others).toBeGreaterThan(0);
      }
  });

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
    const stranger = new Client(() => fixture.base);
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
    expect(broken.damaged.map((d: { resource: string }) => d.resource).sort()).toEqual([
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
    const mend = (resource: string, at: string, data: unknown) =>
      me.put(`/jobs/${job.id}/damaged/${resource}/${at}`, { data });
    const bad = await mend('complaint', job.id, { symptoms: [[]] });
    expect([bad.status, bad.body.errors[0].field]).toEqual([400, 'data.symptoms']);
    const vehicleId = (await Job.findByPk(job.id))!.vehicleId;
    const vehicle = { label: 'Tarn 2.0', fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4 };
    for (const [resource, at, data] of [
      ['complaint', job.id, { symptoms: ['stall'] }],
      ['vehicle', vehicleId, vehicle],
      ['reading', rowId, reading],
      [
        'test',
        broken.damaged.find((d: { resource: string }) => d.resource === 'test').id,
        { id: 'fuse-check', outcome: 'ok' },
      ],
    ] as const)
      expect([resource, (await mend(resource, at, data)).status]).toEqual([resource, 200]);
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
