import { execFileSync } from 'node:child_process';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import type { PartOrderView, WholeJob } from '@just-balance/contract';
import { type Happened, inOrder, runState, SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { inWords } from '@just-balance/core/units';
import sharp from 'sharp';
import { v7 as uuid } from 'uuid';
import { stringify } from 'yaml';
import { Photo } from '../src/rows/photos.ts';
import { ServiceEvent, ServiceRun } from '../src/rows/service.ts';
import { Client, type Fixture, readingAt, signInToOtherShop, startFixture } from './harness.ts';

let fixture: Fixture;
let me: Client;
beforeAll(async () => {
  fixture = await startFixture({ sim: null });
  me = await new Client(() => fixture.base).signIn();
});
afterAll(() => fixture.close());

const CLEAN = SHIPPED_PROCEDURES.find((p) => p.id === 'airflow-sensor-clean')!;
const event = (what: Happened, atMs = Date.now()) => ({ id: uuid(), atMs, what });
async function begun() {
  const job = await me.newJob();
  const id = uuid();
  const r = await me.post(`/jobs/${job.id}/runs`, { id, procedure: CLEAN });
  expect(r.status).toBe(201);
  return { job: job.id as string, id, path: `/jobs/${job.id}/runs/${id}` };
}
const say = (path: string, ...events: object[]) => me.post(`${path}/events`, { events });
const done = (step: string, more: object = {}) => event({ kind: 'done', step, round: 0, ...more });

describe('a run', () => {
  test('is kept event by event; repeats change nothing; another tablet sees the same', async () => {
    const { job, id, path } = await begun();
    const first = done('cold', { answer: 'cool' });
    expect((await say(path, first)).status).toBe(201);
    expect((await say(path, first, done('sits'))).body.events).toHaveLength(2);
    // The run itself once more, as a tablet repeats it.
    expect((await me.post(`/jobs/${job}/runs`, { id, procedure: CLEAN })).body.events).toHaveLength(2);
    const other = await new Client(() => fixture.base).signIn();
    const [run] = (await other.get(`/jobs/${job}/runs`)).body;
    expect(runState(run.procedure, run.events).current!.id).toBe('unplug');
    expect(run.events[0]).toMatchObject({ id: first.id, by: expect.stringMatching(/\w/) });
  });

  test('two people at the same step, at the same moment: both are kept, the step is through once', async () => {
    const { job, path } = await begun();
    const both = [done('cold', { answer: 'cool' }), done('cold', { answer: 'still warm' })];
    expect((await Promise.all(both.map((e) => say(path, e)))).map((r) => r.status)).toEqual([201, 201]);
    const [run] = (await me.get(`/jobs/${job}/runs`)).body;
    expect(run.events).toHaveLength(2);
    expect(runState(run.procedure, run.events).way).toHaveLength(1);
  });

  test('what comes at once stands in the order it came in, whatever the tablets’ clocks say; what comes late by its own moment', async () => {
    const { job, path } = await begun();
    const at = Date.now();
    const first = event({ kind: 'took-over' }, at);
    const second = event({ kind: 'took-over' }, at - 1500);
    const late = event({ kind: 'took-over' }, at - 60_000);
    for (const e of [first, second, late]) expect((await say(path, e)).status).toBe(201);
    const [run] = (await me.get(`/jobs/${job}/runs`)).body;
    expect(inOrder(run.events).map((e) => e.id)).toEqual([late.id, first.id, second.id]);
    // The moment of each is its own all the same: a wait counts from it.
    const momentOf = (id: string) => run.events.find((e: { id: string }) => e.id === id).atMs;
    expect([first, second, late].map((e) => momentOf(e.id) - e.atMs)).toEqual([0, 0, 0]);
  });

  test('a stop and a harmless answer: the stop holds until somebody says with a reason which is right', async () => {
    const { job, path } = await begun();
    const look = CLEAN.steps.find((s) => s.answers?.some((a) => a.stopRule) && s.answers.some((a) => !a.stopRule))!;
    const harmless = done(look.id, { answer: look.answers!.find((a) => !a.stopRule)!.text });
    const stop = done(look.id, { answer: look.answers!.find((a) => a.stopRule)!.text });
    await say(path, harmless);
    await say(path, stop);
    const now = async () => {
      const [run] = (await me.get(`/jobs/${job}/runs`)).body;
      return runState(run.procedure, run.events);
    };
    const s = await now();
    expect([s.stopped !== null, s.disputes.map((d) => d.id)]).toEqual([true, [harmless.id]]);
    const bad = await say(path, event({ kind: 'settled', dispute: harmless.id, keep: 'other', reason: '' }));
    expect([bad.status, bad.body.errors[0].field]).toEqual([400, 'events[0].what.reason']);
    expect((await say(path, event({ kind: 'settled', dispute: harmless.id } as never))).status).toBe(400);
    await say(path, event({ kind: 'settled', dispute: harmless.id, keep: 'other', reason: 'it was the light' }));
    const after = await now();
    expect([after.stopped, after.disputes, after.settled[0]!.reason]).toEqual([null, [], 'it was the light']);
    const history = JSON.stringify((await me.get(`/audit?job=${job}`)).body);
    expect(history).toContain('it was the light');
  });

  test('what is found in it is evidence at once: judgement, papers and the exported case; opened again, it is not', async () => {
    const procedure = SHIPPED_PROCEDURES.find((p) => p.id === 'catalyst-inspection')!;
    const job = await me.newJob();
    const id = uuid();
    await me.into(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'before', reading: readingAt('idle', 1, 2.6) });
    expect((await me.post(`/jobs/${job.id}/runs`, { id, procedure })).status).toBe(201);
    const path = `/jobs/${job.id}/runs/${id}`;
    const before = ['first', 'cold', 'unplug', 'out', 'face'].map((step) =>
      done(step, step === 'first' ? { answer: 'all of them' } : {}),
    );
    await say(path, ...before, done('look', { answer: 'cracked or broken' }));
    const condemned = async () => (await me.get(`/jobs/${job.id}/diagnosis?newest=1`)).body.at(-1).output.condemned;
    expect(await condemned()).toEqual(['cat-degraded']);
    const whole = (await me.get(`/jobs/${job.id}/export`)).body.job as WholeJob;
    expect(whole.tests).toEqual([
      expect.objectContaining({
        phase: 'before',
        test: { id: 'borescope-cat', outcome: 'broken' },
        found: { run: id, work: 'Look at the catalyst', step: 'look' },
      }),
    ]);
    expect(whole.counts.tests).toBe(1);
    // Read by another program.
    const paper = async (document: string) => {
      const at = `${fixture.base}/api/jobs/${job.id}/hand-over/${document}?units=metric`;
      const pdf = await fetch(at, { headers: { cookie: me.cookie } });
      return execFileSync('pdftotext', ['-', '-'], { input: Buffer.from(await pdf.arrayBuffer()), encoding: 'utf8' });
    };
    expect(await paper('technician')).toMatch(/broken/);
    expect(await paper('customer')).toMatch(/catalyst/i);
    await say(path, event({ kind: 'reopened', step: 'look' }));
    expect(await condemned()).toEqual([]);
    expect(((await me.get(`/jobs/${job.id}/export`)).body.job as WholeJob).tests).toEqual([]);
  });

  test('survives the server; a clock that is ahead is set right; the board says what is off and to order', async () => {
    const { job, path } = await begun();
    const ahead = Date.now() + 3_600_000;
    const kept = (await say(path, event({ kind: 'done', step: 'cold', round: 0, answer: 'cool' }, ahead))).body;
    expect(kept.events[0].atMs).toBeLessThanOrEqual(Date.now());
    const parked = event({ kind: 'parked', reason: 'ring not in stock', toOrder: ['seal ring'] });
    await say(path, done('sits'), done('unplug'), done('pins', { answer: 'bright and straight' }), done('out'), parked);
    await fixture.restart();
    me = await new Client(() => fixture.base).signIn();
    const row = (await me.get('/jobs')).body.find((j: { id: string }) => j.id === job);
    expect(row.work).toEqual({
      title: 'Clean the airflow sensor',
      state: 'parked',
      step: expect.stringMatching(/clean cloth/),
      off: ['airflow sensor (2)', 'plug of the airflow sensor'],
      toOrder: ['seal ring'],
      ordered: [],
      reason: 'ring not in stock',
    });
    expect((await me.get(`/jobs/${job}`)).body.work).toEqual(row.work);
    await say(path, event({ kind: 'given-up', reason: 'sold as it is' }));
    expect((await me.get(`/jobs/${job}`)).body.work).toBeNull();
    const { events, runs } = (await me.get(`/jobs/${job}/export`)).body.job;
    expect(events.map((e: { kind: string }) => e.kind)).toEqual(
      expect.arrayContaining(['run-begun', 'run-parked', 'run-given-up']),
    );
    expect(runs[0].events).toHaveLength(7);
  });

  test('parts of all jobs are one list: ordered, here, struck out; a closed job still has what it ordered', async () => {
    const { job, path } = await begun();
    const orders = async (who = me) =>
      ((await who.get('/jobs/orders')).body as PartOrderView[]).filter((o) => o.job === job);
    const order = (part: string, is: string) => say(path, event({ kind: 'order', part, is } as Happened));
    await say(path, event({ kind: 'parked', reason: 'not in stock', toOrder: ['seal ring', 'hose'] }));
    expect((await orders()).map((o) => [o.part, o.is, o.by])).toEqual([
      ['seal ring', 'wanted', expect.any(String)],
      ['hose', 'wanted', expect.any(String)],
    ]);
    const waits = async () => (await me.get(`/jobs/${job}`)).body.waits.map((w: { what: string }) => w.what);
    expect((await order('seal ring', 'ordered')).status).toBe(201);
    expect(await waits()).toEqual(['seal ring (ordered), hose']);
    await order('hose', 'struck');
    expect((await orders()).map((o) => [o.part, o.is])).toEqual([['seal ring', 'ordered']]);
    const { rev } = (await me.get(`/jobs/${job}`)).body;
    await me.patch(`/jobs/${job}`, { rev, status: 'closed' });
    await order('seal ring', 'arrived');
    expect((await orders()).map((o) => o.is)).toEqual(['arrived']);
    // Here, and the work is over: nobody has anything to do with it.
    await say(path, event({ kind: 'given-up', reason: 'sold as it is' }));
    expect(await orders()).toEqual([]);
    const other = await signInToOtherShop(() => fixture.base);
    expect(await orders(other)).toEqual([]);
    const { events } = (await me.get(`/jobs/${job}/export`)).body.job;
    expect(events.filter((e: { kind: string }) => e.kind === 'run-order')).toHaveLength(3);
    for (const what of [
      { kind: 'order', part: 'x', is: 'lost' },
      { kind: 'order', is: 'ordered' },
    ])
      expect((await say(path, event(what as unknown as Happened))).status).toBe(400);
  });

  test('nonsense is refused by field, nothing of it is kept; another shop finds nothing', async () => {
    const { job, path } = await begun();
    const broken = { ...CLEAN, steps: [{ ...CLEAN.steps[0]!, answers: [{ text: 'x', goTo: 'nowhere' }] }] };
    const refused = await me.post(`/jobs/${job}/runs`, { id: uuid(), procedure: broken });
    expect([refused.status, refused.body.errors[0].field]).toEqual([400, 'procedure.steps[0].answers[0].goTo']);
    for (const [what, field] of [
      [{ kind: 'done', step: 'cold' }, 'events[0].what.round'],
      [{ kind: 'took-off', taken: { count: 2 } }, 'events[0].what.taken.item'],
      [{ kind: 'exploded' }, 'events[0].what.kind'],
      [{ kind: 'source', source: 'gremlins', repaired: true }, 'events[0].what.source'],
      [{ kind: 'parked', reason: 'x', toOrder: [['x']] }, 'events[0].what.toOrder'],
    ] as const) {
      const r = await say(path, event(what as unknown as Happened));
      expect([r.status, r.body.errors[0].field]).toEqual([400, field]);
    }
    expect((await say(path, { id: 'x', atMs: 1, what: { kind: 'resumed' } })).status).toBe(400);
    const theirs = await signInToOtherShop(() => fixture.base);
    expect((await theirs.post(`${path}/events`, { events: [done('sits')] })).status).toBe(404);
    // An event of one run is none of another's.
    const mine = done('cold', { answer: 'cool' });
    await say(path, mine);
    const other = await begun();
    expect((await say(other.path, mine)).status).toBe(409);
    expect(await ServiceEvent.count({ where: { runId: other.id } })).toBe(0);
    // A row that cannot be read is left out and named.
    await ServiceRun.update({ data: { steps: 'none' } as never }, { where: { id: other.id } });
    expect((await me.get(`/jobs/${other.job}/runs`)).body).toEqual([]);
    expect((await me.get(`/jobs/${other.job}/damaged`)).body).toMatchObject([{ resource: 'run', id: other.id }]);
  });
});

describe('what is written beside it', () => {
  test('parts, decisions, figures, pins: each by its shape; undone and taken back in', async () => {
    const job = (await me.newJob()).id;
    const add = (kind: string, data: object) => me.post(`/jobs/${job}/entries`, { id: uuid(), kind, data });
    const part = (
      await add('part', { name: 'airflow sensor', number: 'JB-7', make: 'original', price: 140, oldKept: true })
    ).body;
    expect(part).toMatchObject({ kind: 'part', rev: 1, undone: false, data: { number: 'JB-7' } });
    expect(
      (await add('value', { quantity: 'idle airflow', value: 3.1, unit: 'g/s', source: 'service manual' })).status,
    ).toBe(201);
    expect((await add('part', { name: '', make: 'original', oldKept: true })).body.errors[0].field).toBe('data.name');
    expect(
      (await add('part', { name: 'x', make: 'original', oldKept: true, colour: 'red' })).body.errors[0].field,
    ).toBe('data.colour');
    expect((await add('decision', { part: 'airflow-sensor', chosen: 'clean', terms: [] })).status).toBe(400);
    const undo = (rev: number) => me.ask('PATCH', `/jobs/${job}/entries/${part.id}`, { rev, undone: true });
    expect((await undo(1)).body).toMatchObject({ undone: true, rev: 2 });
    expect((await undo(1)).status).toBe(409);
    expect((await me.get(`/jobs/${job}/entries`)).body).toHaveLength(2);
  });

  test('a figure entered once stands in the vehicle’s next job; of each quantity the newest, none that was undone', async () => {
    const vehicleId = uuid();
    const first = await me.newJob({ vehicleId });
    const add = async (quantity: string, value: number, unit: string) =>
      (
        await me.post(`/jobs/${first.id}/entries`, {
          id: uuid(),
          kind: 'value',
          data: { quantity, value, unit, source: 'service manual' },
        })
      ).body;
    await add('Torque: airflow sensor', 1.1, 'N·m');
    await add('Torque: airflow sensor', 1.3, 'N·m');
    const wrong = await add('Fuel pressure at idle', 900, 'kPa');
    await me.patch(`/jobs/${first.id}/entries/${wrong.id}`, { rev: 1, undone: true });
    const next = await me.newJob({ vehicleId });
    const values = (await me.get(`/jobs/${next.id}/entries`)).body;
    expect(values.map((e: { data: object }) => e.data)).toEqual([
      { quantity: 'Torque: airflow sensor', value: 1.3, unit: 'N·m', source: 'service manual' },
    ]);
    expect((await me.get(`/jobs/${(await me.newJob()).id}/entries`)).body).toEqual([]);
  });

  test('the shop’s outcomes are counted by part; undone ones are not', async () => {
    const job = (await me.newJob()).id;
    const out = async (held: boolean) =>
      (await me.post(`/jobs/${job}/entries`, { id: uuid(), kind: 'outcome', data: { part: 'throttle-body', held } }))
        .body;
    await out(true);
    await out(true);
    const wrong = await out(false);
    const count = async () =>
      (await me.get('/service/outcomes')).body.find((o: { part: string }) => o.part === 'throttle-body');
    expect(await count()).toEqual({ part: 'throttle-body', held: 2, failed: 1 });
    await me.ask('PATCH', `/jobs/${job}/entries/${wrong.id}`, { rev: 1, undone: true });
    expect(await count()).toEqual({ part: 'throttle-body', held: 2, failed: 0 });
  });
});

describe('pictures', () => {
  async function send(
    job: string,
    id: string,
    body: Buffer,
    type = 'image/jpeg',
    query = '?step=sits&label=how%20it%20sat',
  ) {
    const r = await fetch(`${fixture.base}/api/jobs/${job}/photos/${id}${query}`, {
      method: 'PUT',
      headers: { 'content-type': type, cookie: me.cookie },
      body: new Uint8Array(body),
    });
    return {
      status: r.status,
      body: (await r.json()) as { message: string; width: number; height: number; step: string },
    };
  }
  /** Lying on its side, with a place and a camera in it. */
  const taken = (width = 800, height = 600) =>
    sharp({ create: { width, height, channels: 3, background: '#456' } })
      .withExif({
        IFD0: { Make: 'Camera', Copyright: 'SECRET-OWNER' },
        IFD3: { GPSLatitudeRef: 'N', GPSLatitude: '51/1 30/1 0/1' },
      })
      .withMetadata({ orientation: 6 })
      .jpeg()
      .toBuffer();

  test('are turned upright and made anew: no place, no camera, no trailing bytes', async () => {
    const job = (await me.newJob()).id;
    const id = uuid();
    const sent = Buffer.concat([await taken(), Buffer.from('SECRET-TAIL')]);
    expect(await send(job, id, sent)).toMatchObject({ status: 200, body: { width: 600, height: 800, step: 'sits' } });
    const kept = (await Photo.findByPk(id))!;
    const meta = await sharp(kept.image).metadata();
    expect([meta.format, meta.width, meta.height, meta.exif, meta.orientation]).toEqual([
      'jpeg',
      600,
      800,
      undefined,
      undefined,
    ]);
    expect(kept.image.includes('SECRET')).toBe(false);
    expect((await sharp(kept.small).metadata()).height).toBe(320);
    // Again, as a tablet repeats it; and only for who may see the job.
    expect((await send(job, id, sent)).status).toBe(200);
    const url = `${fixture.base}/api/jobs/${job}/photos/${id}?small=1`;
    const got = await fetch(url, { headers: { cookie: me.cookie } });
    expect([got.status, got.headers.get('content-type')]).toEqual([200, 'image/jpeg']);
    // Kept by the browser, asked for each time: nobody else sees it from there.
    expect(got.headers.get('cache-control')).toBe('private, no-cache');
    const tag = { 'if-none-match': got.headers.get('etag')! };
    expect((await fetch(url, { headers: { cookie: me.cookie, ...tag } })).status).toBe(304);
    expect((await fetch(url, { headers: tag })).status).toBe(401);
    const theirs = await signInToOtherShop(() => fixture.base);
    expect((await fetch(url, { headers: { cookie: theirs.cookie } })).status).toBe(404);
  });

  test.each([
    ['text', Buffer.from('not a picture at all'), 'image/jpeg', 400],
    [
      'a drawing with a script',
      Buffer.from('<svg xmlns="http://www.w3.org/2000/svg"><script>1</script></svg>'),
      'image/svg+xml',
      400,
    ],
    ['nothing', Buffer.alloc(0), 'image/jpeg', 400],
    ['another type', Buffer.from('x'), 'application/pdf', 400],
    ['13 MB', Buffer.alloc(13 * 1024 * 1024, 1), 'image/jpeg', 413],
  ])('%s is refused by name', async (_, body, type, status) => {
    const job = (await me.newJob()).id;
    const r = await send(job, uuid(), body, type);
    expect(r.status).toBe(status);
    expect(r.body.message).toMatch(/picture/);
    expect((await me.get(`/jobs/${job}/photos`)).body).toEqual([]);
  });

  test('half a picture, and one that unpacks to too much, are refused', async () => {
    const job = (await me.newJob()).id;
    const whole = await taken();
    expect((await send(job, uuid(), whole.subarray(0, whole.length / 2))).body.message).toMatch(/no whole/);
    const bomb = await sharp({ create: { width: 9000, height: 9000, channels: 3, background: '#000' } })
      .png({ compressionLevel: 9 })
      .toBuffer();
    expect(bomb.length).toBeLessThan(1_000_000);
    expect((await send(job, uuid(), bomb, 'image/png')).body.message).toMatch(/50 million/);
    const line = await sharp({ create: { width: 1, height: 20_000, channels: 3, background: '#000' } })
      .png()
      .toBuffer();
    expect((await send(job, uuid(), line, 'image/png')).body.message).toMatch(/longer than 16,000 points/);
  });

  test('of a good part stay with the shop', async () => {
    const job = (await me.newJob()).id;
    const id = uuid();
    await send(job, id, await taken(64, 48));
    const r = await me.ask('PATCH', `/jobs/${job}/photos/${id}`, { rev: 1, good: true, label: 'element, flow side' });
    expect(r.body).toMatchObject({ good: true, rev: 2, label: 'element, flow side' });
    expect((await me.get('/photos/good')).body).toMatchObject([{ id, jobId: job }]);
  });
});

describe('procedures of the shop', () => {
  const own = { ...CLEAN, id: 'our-airflow-clean', title: 'Our way with the airflow sensor' };

  test('copied, changed, exported, brought in again; two people do not overwrite each other', async () => {
    const id = uuid();
    const put = (body: object) => me.ask('PUT', `/procedures/${id}`, body);
    expect((await put({ procedure: CLEAN })).body.errors[0].message).toMatch(/one of ours/);
    expect((await put({ procedure: own, copiedFrom: CLEAN.id })).body).toMatchObject({ rev: 1, copiedFrom: CLEAN.id });
    expect((await put({ procedure: { ...own, minutes: 30 }, rev: 1 })).body.rev).toBe(2);
    expect((await put({ procedure: { ...own, minutes: 31 }, rev: 1 })).status).toBe(409);
    expect((await me.ask('PUT', `/procedures/${uuid()}`, { procedure: own })).body.errors[0].message).toMatch(
      /already/,
    );
    const file = await fetch(`${fixture.base}/api/procedures/${id}/file`, { headers: { cookie: me.cookie } });
    const text = await file.text();
    expect([file.headers.get('content-disposition'), text]).toEqual([
      'attachment; filename="our-airflow-clean.yaml"',
      stringify({ ...inWords(own, 'own'), minutes: 30 }, { aliasDuplicateObjects: false }),
    ]);
    // The same id from somewhere else is a question, never a new version without a word.
    const longer = text.replace('minutes: 30', 'minutes: 40');
    const again = await me.post('/procedures/file', { id: uuid(), text: longer });
    expect([again.status, again.body.current]).toMatchObject([409, { id, rev: 2 }]);
    expect(again.body.message).toMatch(/has a procedure "our-airflow-clean" already, version 2 by/);
    const over = await me.post('/procedures/file', { id, rev: 2, text: longer });
    expect(over.body).toMatchObject({ id, rev: 3, procedure: { minutes: 40 } });
    // Two who change it: the second is told.
    const second = await me.post('/procedures/file', { id, rev: 2, text });
    expect([second.status, second.body.current.rev]).toEqual([409, 3]);
    const versions = () => me.get(`/procedures/${id}/versions`);
    expect((await versions()).body.map((v: { rev: number }) => v.rev)).toEqual([3, 2, 1]);
    const take = (body: object) => me.post(`/procedures/${id}/take-back`, body);
    expect((await take({ rev: 2, version: 1 })).status).toBe(409);
    expect((await take({ rev: 3, version: 9 })).status).toBe(404);
    expect((await take({ rev: 3, version: 2 })).body).toMatchObject({ rev: 4, procedure: { minutes: 30 } });
    expect((await versions()).body.map((v: { rev: number }) => v.rev)).toEqual([4, 3, 2, 1]);
    expect((await me.ask('PATCH', `/procedures/${id}`, { rev: 4, undone: true })).body.undone).toBe(true);
    const told = (await me.get('/shop/changes')).body.filter((c: { kind: string }) => c.kind === 'procedure');
    expect(told.map((c: { data: { what: string; version: number } }) => [c.data.what, c.data.version])).toEqual([
      ['removed', 5],
      ['took version 2 back', 4],
      ['changed', 3],
      ['changed', 2],
      ['copied', 1],
    ]);
    // Another shop has none of it.
    const stranger = await signInToOtherShop(() => fixture.base);
    expect((await stranger.get(`/procedures/${id}/versions`)).status).toBe(404);
    expect((await stranger.post(`/procedures/${id}/take-back`, { rev: 5, version: 1 })).status).toBe(404);
  });

  test('ours go out as files that the same reader takes', async () => {
    const file = await fetch(`${fixture.base}/api/procedures/ours/${CLEAN.id}`, { headers: { cookie: me.cookie } });
    const text = (await file.text()).replace(/^id: .*$/m, 'id: our-copy');
    const r = await me.post('/procedures/file', { id: uuid(), text, copiedFrom: CLEAN.id });
    expect(r.body).toMatchObject({ copiedFrom: CLEAN.id, procedure: { ...inWords(CLEAN, 'own'), id: 'our-copy' } });
    expect((await me.get('/procedures/ours/nothing')).status).toBe(404);
  });

  test('every fault of a file comes back with its line', async () => {
    const text = stringify({ ...own, id: 'broken-one' }).replace(/seconds: 1500/, 'seconds: soon');
    const line = text.split('\n').findIndex((l) => l.includes('seconds: soon')) + 1;
    const r = await me.post('/procedures/file', { id: uuid(), text });
    expect([r.status, r.body.errors[0].line]).toEqual([400, line]);
    expect(r.body.message).toMatch(new RegExp(`^line ${line}, steps\\[\\d+\\]\\.seconds: `));
  });
});
