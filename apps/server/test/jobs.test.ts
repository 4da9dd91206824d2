import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { TYPED_HEADER } from '@just-balance/contract';
import { diagnose } from '@just-balance/core/diagnosis';
import { caseOfJob } from '@just-balance/core/job';
import { inWords } from '@just-balance/core/units';
import { Ajv2020 } from 'ajv/dist/2020.js';
import { v4 as uuid } from 'uuid';
import { STEPS as PLAIN_NAMES } from '../src/database/migrations/0005-plain-names.ts';
import { Job, JobEvent } from '../src/rows/jobs.ts';
import { ReadingRow } from '../src/rows/readings.ts';
import { Repair } from '../src/rows/repairs.ts';
import { Client, type Fixture, startFixture } from './harness.ts';

let fixture: Fixture;
let me: Client;
beforeAll(async () => {
  fixture = await startFixture({ sim: null });
  me = await new Client(() => fixture.base).signIn();
});
afterAll(() => fixture.close());

const idle = (total = 18) => ({
  at: 'idle',
  rpm: 700,
  mafGps: 2,
  ectC: 90,
  trims: { bank1: { stft: 2, ltft: total - 2, sd: 0.8, n: 90 } },
});
const hold = (total = 5) => ({
  at: 'hold-2500',
  rpm: 2500,
  mafGps: 8,
  ectC: 90,
  trims: { bank1: { stft: 1, ltft: total - 1, sd: 0.8, n: 90 } },
});

describe('the demo', () => {
  test('is seeded once, with jobs at several stations and stored diagnoses', async () => {
    const jobs = (await me.get('/jobs')).body;
    expect(jobs.length).toBeGreaterThanOrEqual(4);
    await fixture.restart({ mayseed: true });
    expect((await me.get('/jobs')).body.length).toBe(jobs.length);
  });
});

test('a repair of an older version is read under its plain name, however often the step is taken', async () => {
  const job = await me.newJob();
  const id = uuid();
  await me.post(`/jobs/${job.id}/repairs`, { id, text: 'hose', adaptation: 'reset' });
  const old = JSON.stringify({ text: 'hose', fault: null, part: null, school: 'reset' });
  const db = Repair.sequelize!;
  await db.query('UPDATE repair SET data = ? WHERE id = ?', { replacements: [old, id] });
  for (let i = 0; i < 2; i++) for (const step of PLAIN_NAMES) await db.query(step);
  expect((await me.get(`/jobs/${job.id}/repairs`)).body).toMatchObject([{ id, text: 'hose', adaptation: 'reset' }]);
});

describe('what was typed is put right', () => {
  const byHand = (more: object = {}) => ({
    phase: 'before',
    stored: ['P0171'],
    pending: [],
    lampOn: true,
    ...more,
  });

  test('the vehicle’s card: whole, with history, judged anew, held back where readings forbid it', async () => {
    const job = await me.newJob();
    await me.post(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'before', reading: idle() });
    const { id, rev, ...card } = job.vehicle;
    const turbo = { ...card, induction: 'turbo', banks: 2, limits: { fuelPressureKPa: 400 }, tankL: 55 };
    const put = await me.put(`/jobs/${job.id}/vehicle`, { rev, vehicle: turbo });
    expect([put.status, put.body.rev]).toEqual([200, rev + 1]);
    const stands = await me.job(job.id);
    expect(stands.vehicle).toMatchObject({ id, induction: 'turbo', tankL: 55 });
    expect(stands.diagnoses.at(-1).input.vehicle).toMatchObject({ induction: 'turbo', banks: 2 });
    expect(stands.diagnoses.at(-1).output.causes.map((c: { fault: string }) => c.fault)).toContain('boost-leak');
    const { events } = (await me.get(`/jobs/${job.id}/export`)).body.job;
    expect(events.find((e: { kind: string }) => e.kind === 'vehicle').data).toMatchObject({
      before: { induction: null, tankL: null },
      after: { induction: 'turbo', tankL: 55 },
    });
    const changes = (await me.get(`/vehicles/${id}/changes`)).body;
    expect(changes).toMatchObject([{ before: { banks: 1, tankL: null }, after: { banks: 2, tankL: 55 } }]);
    expect([changes[0].by.length > 0, Object.keys(changes[0].after).includes('label')]).toEqual([true, false]);
    // Somebody with the card as it was.
    const late = await me.put(`/jobs/${job.id}/vehicle`, { rev, vehicle: card });
    expect([late.status, late.body.current.tankL]).toEqual([409, 55]);
    const wrong = await me.put(`/jobs/${job.id}/vehicle`, { rev: rev + 1, vehicle: { ...turbo, displacementL: 99 } });
    expect([wrong.status, wrong.body.errors[0].field]).toEqual([400, 'vehicle.displacementL']);
    const both = { ...idle(), trims: { bank1: { stft: 1 }, bank2: { stft: 2 } } };
    await me.post(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'before', reading: both });
    const one = await me.put(`/jobs/${job.id}/vehicle`, { rev: rev + 1, vehicle: { ...turbo, banks: 1 } });
    expect([one.status, one.body.errors[0].field]).toEqual([400, 'vehicle.banks']);
  });

  test('a known vehicle’s card, changed while its next job is opened, stands from then on', async () => {
    const first = await me.newJob();
    const { id: vehicleId, rev: _, ...card } = first.vehicle;
    const again = await me.post('/jobs', {
      id: uuid(),
      vehicleId,
      vehicle: { ...card, odometerKm: 123_456 },
      complaint: { symptoms: [] },
    });
    expect(again.body.vehicle).toMatchObject({ id: vehicleId, rev: 2, odometerKm: 123_456 });
    expect((await me.get(`/jobs/${first.id}`)).body.vehicle.odometerKm).toBe(123_456);
  });

  test('a record typed: codes by their form, monitors, freeze frame, counters; then put right', async () => {
    const job = await me.newJob();
    const path = `/jobs/${job.id}/records`;
    for (const code of ['FOO', 'P01711', '<b>1'])
      expect(
        (await me.post(`${path}/by-hand`, { id: uuid(), ...byHand({ stored: [code] }) })).body.errors[0].field,
      ).toBe('stored');
    const odd = await me.post(`${path}/by-hand`, { id: uuid(), ...byHand({ monitors: { warp: 'complete' } }) });
    expect(odd.body.errors[0]).toEqual({ field: 'monitors.warp', message: 'is no monitor' });
    const frame = [{ name: 'ect', value: 88, unit: '°C' }];
    const made = await me.post(`${path}/by-hand`, {
      id: uuid(),
      ...byHand({
        stored: ['p0171', 'P0171', 'P1604'],
        permanent: ['P0171'],
        monitors: { catalyst: 'incomplete', misfire: 'complete' },
        freezeFrame: frame,
        warmupsSinceClear: 4,
        minutesSinceClear: 90,
      }),
    });
    expect(made.status).toBe(201);
    expect(made.body).toMatchObject({
      rev: 1,
      source: 'hand',
      freezeFrame: frame,
      warmupsSinceClear: 4,
      counters: { minutesSinceClear: 90 },
      codes: [
        { code: 'P0171', state: 'stored', kind: 'standard' },
        { code: 'P1604', state: 'stored', kind: 'maker' },
        { code: 'P0171', state: 'permanent' },
      ],
    });
    const state = (r: { monitors: { monitors: { id: string; state: string }[] } }, m: string) =>
      r.monitors.monitors.find((x) => x.id === m)!.state;
    expect([state(made.body, 'catalyst'), state(made.body, 'misfire'), state(made.body, 'evap')]).toEqual([
      'incomplete',
      'complete',
      'unsupported',
    ]);
    const right = { rev: 1, ...byHand({ stored: ['P0174'], monitors: { catalyst: 'complete' } }) };
    const put = await me.put(`${path}/${made.body.id}`, right);
    expect(put.body).toMatchObject({ rev: 2, codes: [{ code: 'P0174' }], freezeFrame: [] });
    expect(state(put.body, 'catalyst')).toBe('complete');
    expect((await me.put(`${path}/${made.body.id}`, right)).status).toBe(409);
    const { events } = (await me.get(`/jobs/${job.id}/export`)).body.job;
    expect(events.at(-1)).toMatchObject({ kind: 'record-corrected', data: { before: { warmupsSinceClear: 4 } } });
  });

  test('a reading typed is put right and taken back; one without a figure, or one that was captured, is not', async () => {
    const job = await me.newJob();
    const path = `/jobs/${job.id}/readings`;
    const empty = await me.post(path, { id: uuid(), phase: 'before', reading: { at: 'idle', quantum: { stft: 1 } } });
    expect([empty.status, empty.body.errors[0].field]).toEqual([400, 'reading']);
    const made = (await me.post(path, { id: uuid(), phase: 'before', reading: idle(18) })).body;
    const put = await me.put(`${path}/${made.id}`, { rev: 1, reading: idle(4) });
    expect(put.body).toMatchObject({ rev: 2, reading: { trims: { bank1: { ltft: 2 } } } });
    expect((await me.get(`/jobs/${job.id}`)).body.worst.totalPct).toBe(4);
    expect((await me.put(`${path}/${made.id}`, { rev: 1, reading: idle(5) })).status).toBe(409);
    expect((await me.patch(`${path}/${made.id}`, { rev: 2, undone: true })).status).toBe(200);
    expect((await me.get(path)).body).toEqual([]);
    expect((await me.get(`/jobs/${job.id}`)).body.counts.before).toBe(0);
    expect((await me.patch(`${path}/${made.id}`, { rev: 3, undone: false })).status).toBe(200);
    expect((await me.get(path)).body).toHaveLength(1);
    await ReadingRow.update({ source: 'capture' }, { where: { id: made.id } });
    expect((await me.put(`${path}/${made.id}`, { rev: 4, reading: idle(5) })).body.message).toMatch(/was not typed/);
  });
});

describe('a job', () => {
  test('the complaint keeps each symptom with its situations, other lamps, and what was touched when', async () => {
    const job = await me.newJob();
    const complaint = {
      symptoms: ['rough-idle', 'stall'],
      when: [{ symptom: 'stall', situations: ['ac-engaging', 'cold-start'] }],
      otherLamps: 'glow plug',
      recentWork: [{ part: 'air-filter', days: 12 }],
    };
    expect((await me.patch(`/jobs/${job.id}`, { rev: 1, complaint })).body.complaint).toEqual(complaint);
    const bad = { ...complaint, when: [{ symptom: 'stall', situations: ['full moon'] }] };
    const refused = await me.patch(`/jobs/${job.id}`, { rev: 2, complaint: bad });
    expect([refused.status, refused.body.errors[0].field]).toEqual([400, 'complaint.when[0].situations']);
    const record = { id: uuid(), phase: 'before', stored: ['p0171'], pending: [], permanent: ['P0420'], lampOn: false };
    const kept = (await me.post(`/jobs/${job.id}/records/by-hand`, record)).body;
    expect(kept.codes.map((c: { state: string }) => c.state)).toEqual(['stored', 'permanent']);
    expect(kept.sensors).toBeNull();
  });

  test('from complaint to hand-over; the same core as the screen recomputes and keeps', async () => {
    const job = await me.newJob();
    await me.post(`/jobs/${job.id}/records/by-hand`, {
      id: uuid(),
      phase: 'before',
      stored: ['P0171'],
      pending: [],
      lampOn: true,
    });
    await me.post(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'before', reading: idle() });
    const read = await me.into(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'before', reading: hold() });
    expect(read.worst).toEqual({ totalPct: 18, at: 'idle' });
    const d = (await me.post(`/jobs/${job.id}/diagnosis`, {})).body;
    const judged = JSON.parse(JSON.stringify(diagnose(caseOfJob(read))));
    expect(d.output).toEqual(inWords(judged, 'own'));
    // A page that shows it in the units of its reader gets the figures as figures.
    const headers = { cookie: me.cookie, [TYPED_HEADER]: '1' };
    const typed = await fetch(`${fixture.base}/api/jobs/${job.id}/diagnosis`, { headers });
    expect(((await typed.json()) as { output: unknown }[]).at(-1)?.output).toEqual(judged);
    expect(d.output.causes[0].fault).toBe('vac-leak');
    const kept = (await me.get(`/jobs/${job.id}/diagnosis`)).body;
    // One after each reading: kept with the write, before anybody asked.
    expect(kept).toHaveLength(2);
    expect(read.diagnoses.at(-1).id).toBe(kept[1].id);
    expect(kept[1]).toMatchObject({ coreVersion: expect.any(String), input: { id: job.id } });
    // Nothing new: the stored one stands.
    await me.post(`/jobs/${job.id}/diagnosis`, {});
    expect((await me.get(`/jobs/${job.id}/diagnosis`)).body).toHaveLength(2);
    await me.post(`/jobs/${job.id}/tests`, { id: uuid(), test: { id: 'smoke-intake', outcome: 'gasket-bank1' } });
    await me.post(`/jobs/${job.id}/repairs`, {
      id: uuid(),
      text: 'gasket',
      fault: 'vac-leak-bank1',
      adaptation: 'relearn',
    });
    await me.post(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'after', reading: idle(1) });
    const end = await me.into(`/jobs/${job.id}`, { rev: 1, status: 'closed' }, 'PATCH');
    expect(end).toMatchObject({ status: 'closed', rev: 2, counts: { before: 2, after: 1, tests: 1, repairs: 1 } });
    const { events } = (await me.get(`/jobs/${job.id}/export`)).body.job;
    expect(events.map((e: { kind: string }) => e.kind)).toEqual([
      'opened',
      'record',
      'reading',
      'diagnosis',
      'reading',
      'diagnosis',
      'test',
      'diagnosis',
      'repair',
      'reading',
      'changed',
    ]);
  });
  test('a figure better than physics: for this vehicle, or for every car of its engine family; taken back with a revision', async () => {
    const job = await me.newJob();
    const figure = { at: 'idle', quantity: 'airflow', low: 2.1, high: 2.9, source: 'service manual' };
    const own = { ...figure, id: uuid(), layer: 'entered' };
    const family = { ...figure, id: uuid(), layer: 'shop', source: 'three proven jobs' };
    await me.post(`/jobs/${job.id}/known`, own);
    await me.post(`/jobs/${job.id}/known`, own);
    const { known } = await me.into(`/jobs/${job.id}/known`, family);
    // Where it was true is kept with it, so that it can be scaled elsewhere.
    expect(known).toMatchObject([
      { layer: 'entered', low: 2.1, source: 'service manual', baroKPa: 99.1, rev: 1 },
      { layer: 'shop', source: 'three proven jobs' },
    ]);
    // What is weighed is held against it, and says so.
    const reading = { at: 'idle', rpm: 700, mafGps: 1.6, mapKPa: 33, trims: { bank1: { stft: 2, ltft: 15 } } };
    await me.post(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'before', reading });
    const judged = (await me.get(`/jobs/${job.id}/diagnosis`)).body.at(-1).output;
    const said = JSON.stringify(
      judged.causes.map((x: { because: string[]; against: string[] }) => [x.because, x.against]),
    );
    expect(said).toMatch(/% from known good/);
    expect(said).not.toMatch(/% from physics/);
    const layers = async (id: string) =>
      (await me.get(`/jobs/${id}/known`)).body.map((k: { layer: string }) => k.layer);
    expect(await layers((await me.newJob()).id)).toEqual(['shop']);
    const six = { label: 'Tarn 3.0', fuel: 'petrol', metering: 'maf', displacementL: 3, cylinders: 6, banks: 2 };
    expect(await layers((await me.newJob({ vehicle: six })).id)).toEqual([]);
    for (const [change, field] of [
      [{ low: 3 }, 'high'],
      [{ quantity: 'charm' }, 'quantity'],
      [{ at: 'uphill' }, 'at'],
      [{ source: '' }, 'source'],
    ] as const) {
      const r = await me.post(`/jobs/${job.id}/known`, { ...own, id: uuid(), ...change });
      expect([r.status, r.body.errors[0].field]).toEqual([400, field]);
    }
    const undo = (rev: number) => me.patch(`/jobs/${job.id}/known/${family.id}`, { rev, undone: true });
    expect((await undo(1)).body).toMatchObject({ layer: 'shop', rev: 2 });
    expect(await layers(job.id)).toEqual(['entered']);
    expect((await undo(1)).status).toBe(409);
  });

  test('undo and redo carry a revision; two people do not overwrite each other', async () => {
    const job = await me.newJob();
    const t = (await me.post(`/jobs/${job.id}/tests`, { id: uuid(), test: { id: 'pinch-pcv', outcome: 'changes' } }))
      .body;
    expect((await me.patch(`/jobs/${job.id}/tests/${t.id}`, { rev: 1, undone: true })).body).toMatchObject({
      undone: true,
      rev: 2,
    });
    const late = await me.patch(`/jobs/${job.id}/tests/${t.id}`, { rev: 1, undone: false });
    expect(late.status).toBe(409);
    expect(late.body).toMatchObject({
      message: expect.stringContaining('changed by someone else'),
      current: { rev: 2 },
    });
    const other = await new Client(() => fixture.base).signIn('duarte@linden.example', 'bench-demo-2');
    expect((await other.patch(`/jobs/${job.id}`, { rev: 1, ambient: { baroKPa: 98 } })).status).toBe(200);
    const mine = await me.patch(`/jobs/${job.id}`, { rev: 1, ambient: { baroKPa: 90 } });
    expect(mine.status).toBe(409);
    expect(mine.body.current.ambient).toEqual({ baroKPa: 98 });
  });
  test('a repeated write with the same id or idempotency key happens once', async () => {
    const job = await me.newJob();
    const body = { id: uuid(), phase: 'before', reading: idle() };
    await me.post(`/jobs/${job.id}/readings`, body);
    await me.post(`/jobs/${job.id}/readings`, body);
    const key = { 'idempotency-key': uuid() };
    const caution = { id: uuid(), caution: 'pinch', step: 'test:pinch-pcv' };
    const a = await me.post(`/jobs/${job.id}/cautions`, caution, key);
    const b = await me.post(`/jobs/${job.id}/cautions`, caution, key);
    expect(b.body).toEqual(a.body);
    const view = await me.job(job.id);
    expect(view.readings).toHaveLength(1);
    expect(view.cautions).toHaveLength(1);
    // Twins at once: one does the work, the others wait for it and get its answer.
    const twin = { 'idempotency-key': uuid() };
    const same = { id: uuid(), caution: 'fan', step: 'read:idle' };
    const twins = await Promise.all(Array.from({ length: 6 }, () => me.post(`/jobs/${job.id}/cautions`, same, twin)));
    expect(twins.map((r) => [r.status, r.body])).toEqual(twins.map(() => [201, twins[0]!.body]));
    // A refused first try leaves no key behind.
    const later = { 'idempotency-key': uuid() };
    expect((await me.post(`/jobs/${job.id}/cautions`, { ...same, caution: 7 }, later)).status).toBe(400);
    expect((await me.post(`/jobs/${job.id}/cautions`, { ...same, caution: 'belt' }, later)).status).toBe(201);
    // Another body or another address under the same key: said, and not stored.
    const other = await me.post(`/jobs/${job.id}/cautions`, { ...caution, caution: 'hot' }, key);
    expect([other.status, other.body.message]).toEqual([422, expect.stringMatching(/used for another request/)]);
    expect(
      (await me.post(`/jobs/${job.id}/repairs`, { id: uuid(), text: 'x', adaptation: 'relearn' }, key)).status,
    ).toBe(422);
    // Long keys differ to their end; another account's key is another key.
    const long = 'k'.repeat(120);
    const post = (who: Client, k: string, c: string) =>
      who.post(`/jobs/${job.id}/cautions`, { id: uuid(), caution: c, step: 's' }, { 'idempotency-key': k });
    const tech = await new Client(() => fixture.base).signIn('duarte@linden.example', 'bench-demo-2');
    for (const [who, k] of [
      [me, `${long}a`],
      [me, `${long}b`],
      [tech, `${long}a`],
    ] as const)
      expect((await post(who, k, 'hot')).status).toBe(201);
    expect((await me.get(`/jobs/${job.id}/cautions`)).body).toHaveLength(6);
    expect((await post(me, 'k'.repeat(201), 'hot')).status).toBe(400);
  });
  test('ten tablets sending the same reading at once leave one', async () => {
    const job = await me.newJob();
    const body = { id: uuid(), phase: 'before', reading: idle() };
    const codes = (await Promise.all(Array.from({ length: 10 }, () => me.post(`/jobs/${job.id}/readings`, body)))).map(
      (r) => r.status,
    );
    expect(codes).toEqual(codes.map(() => 201));
    expect((await me.get(`/jobs/${job.id}/readings`)).body).toHaveLength(1);
  });
  test('history cannot be rewritten, by the database itself', async () => {
    const e = (await JobEvent.findOne())!;
    await expect(JobEvent.update({ kind: 'other' }, { where: { id: e.id } })).rejects.toThrow(/append-only/);
    await expect(JobEvent.destroy({ where: { id: e.id } })).rejects.toThrow(/append-only/);
  });
  test('the export is whole and fits its schema', async () => {
    const job = (await me.get('/jobs?limit=200')).body.find((j: { label: string }) => j.label === 'Pelora 1.6');
    const r = await me.get(`/jobs/${job.id}/export`);
    const schema = JSON.parse(readFileSync(join(__dirname, '../../../docs/formats/job.schema.json'), 'utf8'));
    const check = new Ajv2020({ strict: true, allowUnionTypes: true }).compile(schema);
    expect(check(r.body) ? [] : check.errors).toEqual([]);
    expect(r.headers.get('content-disposition')).toMatch(/attachment/);
    expect(r.body.job.repairs[0].text).toMatch(/Crankcase hose/);
  });
});

describe('bad input names what and where', () => {
  test.each([
    ['/jobs', {}, /id/],
    ['/jobs', { id: 'x' }, /id: /],
    ['/jobs/:id/readings', { id: uuid(), phase: 'before', reading: { at: 'idle', mafGps: -3 } }, /reading\.mafGps/],
    [
      '/jobs/:id/readings',
      { id: uuid(), phase: 'before', reading: { ...idle(), lambda: { bank1: 0 } } },
      /reading\.lambda\.bank1/,
    ],
    [
      '/jobs/:id/readings',
      { id: uuid(), phase: 'before', reading: { ...idle(), trims: { bank2: { stft: 1 } } } },
      /one bank/,
    ],
    ['/jobs/:id/tests', { id: uuid(), test: { id: 'tarot', outcome: 'x' } }, /test\.id: unknown test/],
    ['/jobs/:id/tests', { id: uuid(), test: { id: 'smoke-intake', outcome: 'purple' } }, /test\.outcome/],
    ['/jobs/:id/repairs', { id: uuid(), text: '', adaptation: 'relearn' }, /text/],
    [
      '/jobs/:id/records/by-hand',
      { id: uuid(), phase: 'before', stored: ['<b>'], pending: [], lampOn: false },
      /stored/,
    ],
    ['/jobs/:id/captures', { id: uuid(), phase: 'before', at: 'idle' }, /adapter: choose one first/],
    ['/jobs/:id/diagnosis', {}, /at least one reading/],
  ])('%s %j', async (path, body, message) => {
    const job = await me.newJob();
    const r = await me.post(path.replace(':id', job.id), body);
    expect(r.status).toBe(400);
    expect(r.body.message).toMatch(message);
    const view = await me.job(job.id);
    expect([view.readings, view.tests, view.repairs, view.captures]).toEqual([[], [], [], []]);
  });
  test('not JSON, too large, an id that is no id, no such job', async () => {
    const raw = (body: string) => me.ask('POST', '/jobs', body, { 'content-type': 'application/json' });
    expect(await raw('{"a":')).toMatchObject({ status: 400, body: { message: expect.stringMatching(/not JSON/) } });
    expect(await raw(JSON.stringify({ a: 'x'.repeat(1_100_000) }))).toMatchObject({ status: 413 });
    expect((await me.get('/jobs/nonsense')).status).toBe(400);
    expect((await me.get(`/jobs/${uuid()}`)).body.message).toBe('no such job in this shop');
  });
  test('nobody sees a stack trace', async () => {
    const r = await me.get('/nowhere');
    expect(r.status).toBe(404);
    expect(JSON.stringify(r.body)).not.toMatch(/\.ts|\.js:/);
  });
});

describe('shop settings', () => {
  test('the lead changes them, by revision; a technician does not; bad ones are refused by field', async () => {
    const before = (await me.get('/shop/settings')).body;
    const ok = await me.put('/shop/settings', { rev: before.rev, settings: { limits: { watchPct: 4, actPct: 8 } } });
    expect(ok.body).toMatchObject({ rev: before.rev + 1, settings: { limits: { actPct: 8 } } });
    expect((await me.put('/shop/settings', { rev: before.rev, settings: {} })).status).toBe(409);
    expect(
      (await me.put('/shop/settings', { rev: before.rev + 1, settings: { limits: { actPct: -1 } } })).body.message,
    ).toMatch(/settings\.limits\.actPct/);
    const tech = await new Client(() => fixture.base).signIn('duarte@linden.example', 'bench-demo-2');
    expect((await tech.put('/shop/settings', { rev: before.rev + 1, settings: {} })).status).toBe(403);
    await me.put('/shop/settings', { rev: before.rev + 1, settings: {} });
  });

  test('a write from which nothing is worked out weighs nothing: what was set since waits for one that does', async () => {
    const job = await me.newJob();
    await me.post(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'before', reading: idle() });
    const weighed = async () => (await me.get(`/jobs/${job.id}/diagnosis`)).body.length;
    const was = await weighed();
    const { rev } = (await me.get('/shop/settings')).body;
    await me.put('/shop/settings', { rev, settings: { priors: { 'maf-dirty': 40 } } });
    const { changes } = (await Job.findByPk(job.id))!;
    expect(
      (await me.post(`/jobs/${job.id}/cautions`, { id: uuid(), caution: 'running-engine', step: 'read:idle' })).status,
    ).toBe(201);
    expect([await weighed(), (await Job.findByPk(job.id))!.changes]).toEqual([was, changes + 1]);
    await me.post(`/jobs/${job.id}/tests`, { id: uuid(), test: { id: 'fuse-check', outcome: 'ok' } });
    expect(await weighed()).toBe(was + 1);
    await me.put('/shop/settings', { rev: rev + 1, settings: {} });
  });
});
