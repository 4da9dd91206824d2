import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { v4 as uuid } from 'uuid';
import { Job } from '../src/rows/jobs.ts';
import { Client, type Fixture, startFixture } from './harness.ts';

let fixture: Fixture;
let me: Client;
let queries = 0;
beforeAll(async () => {
  fixture = await startFixture({ sim: null });
  (fixture.running.sequelize as unknown as { options: { logging: unknown } }).options.logging = () => {
    queries++;
  };
  me = await new Client(() => fixture.base).signIn();
  for (let i = 0; i < 12; i++) await me.newJob({ complaint: { symptoms: ['stall'], story: `job ${i}` } });
});
afterAll(() => fixture.close());

const next = (headers: Headers) => /<\/api([^>]+)>; rel="next"/.exec(headers.get('link') ?? '')?.[1] ?? null;

describe('the board', () => {
  test('pages meet: every job once, newest first, whatever is added meanwhile', async () => {
    const all = (
      await Job.findAll({
        order: [
          ['createdAt', 'DESC'],
          ['id', 'DESC'],
        ],
      })
    ).map((j) => j.id);
    const seen: string[] = [];
    for (let at: string | null = '/jobs?limit=5'; at; ) {
      const r = await me.get(at);
      seen.push(...r.body.map((j: { id: string }) => j.id));
      at = next(r.headers);
      await me.newJob();
    }
    expect(seen).toEqual(all);
  });

  test('a page is a fixed number of small queries, however many jobs and entries there are', async () => {
    const once = async (limit: number) => {
      queries = 0;
      const r = await me.get(`/jobs?limit=${limit}`);
      expect(r.body).toHaveLength(limit);
      return queries;
    };
    // The server looks after captures meanwhile: now and then a query of its own falls in between.
    const count = async (limit: number) => Math.min(await once(limit), await once(limit), await once(limit));
    expect([await count(2), await count(15)]).toEqual([2, 2]);
  });

  test('is the same as the job itself, after every kind of write', async () => {
    const job = await me.newJob();
    const reading = { at: 'idle', rpm: 700, mafGps: 2, trims: { bank1: { stft: 2, ltft: 16 } } };
    await me.post(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'before', reading });
    await me.post(`/jobs/${job.id}/tests`, { id: uuid(), test: { id: 'fuse-check', outcome: 'ok' } });
    const t = (await me.post(`/jobs/${job.id}/tests`, { id: uuid(), test: { id: 'pinch-pcv', outcome: 'changes' } }))
      .body;
    await me.patch(`/jobs/${job.id}/tests/${t.id}`, { rev: 1, undone: true });
    await me.post(`/jobs/${job.id}/repairs`, { id: uuid(), text: 'hose', adaptation: 'relearn' });
    const row = (await me.get('/jobs?limit=1')).body[0];
    const whole = await me.job(job.id);
    expect(row).toMatchObject({ worst: whole.worst, counts: whole.counts, leading: whole.leading, rev: whole.rev });
    expect(row.counts).toMatchObject({ before: 1, tests: 1, repairs: 1 });
    expect(row.worst).toEqual({ totalPct: 18, at: 'idle' });
    // One of a version that kept none is summed up when it is first asked for.
    await Job.update({ summary: null }, { where: { id: job.id } });
    expect((await me.get('/jobs?limit=1')).body[0]).toEqual(row);
    expect((await Job.findByPk(job.id))!.summary).toMatchObject({ counts: row.counts });
  });

  test('a plate stands on the row, as the card has it now; a row of before it was kept gets it', async () => {
    const card = {
      label: 'Marl 2.4',
      fuel: 'petrol',
      metering: 'maf',
      displacementL: 2.4,
      cylinders: 4,
      plate: 'KL 1',
    };
    const job = await me.newJob({ vehicle: card });
    const row = async () => (await me.get('/jobs?limit=1')).body[0];
    expect(await row()).toMatchObject({ id: job.id, plate: 'KL 1' });
    const changed = await me.put(`/jobs/${job.id}/vehicle`, { rev: 1, vehicle: { ...card, plate: 'KL 22' } });
    expect(changed.status).toBe(200);
    expect((await row()).plate).toBe('KL 22');
    const { plate: _, ...before } = (await Job.findByPk(job.id))!.summary!;
    await Job.update({ summary: before }, { where: { id: job.id } });
    expect((await row()).plate).toBe('KL 22');
    await me.newJob();
    expect((await row()).plate).toBeNull();
  });

  test('open, handed over, mine; counted; unchanged pages are not sent again', async () => {
    const other = await new Client(() => fixture.base).signIn('duarte@linden.example', 'bench-demo-2');
    const job = await other.newJob();
    await other.patch(`/jobs/${job.id}`, { rev: 1, status: 'closed' });
    const ids = async (c: Client, q: string) =>
      (await c.get(`/jobs?limit=200&${q}`)).body.map((j: { id: string }) => j.id) as string[];
    expect(await ids(me, 'status=closed')).toContain(job.id);
    expect(await ids(me, 'status=open')).not.toContain(job.id);
    expect(await ids(other, 'whose=mine')).toContain(job.id);
    expect(await ids(me, 'whose=mine')).not.toContain(job.id);
    const counts = (await me.get('/jobs/counts')).body;
    expect(counts).toEqual({
      open: (await ids(me, 'status=open')).length,
      mine: (await ids(me, 'status=open&whose=mine')).length,
      all: (await ids(me, 'status=all')).length,
    });
    const first = await me.get('/jobs');
    const again = await fetch(`${fixture.base}/api/jobs`, {
      // Node's fetch would ask past the check without a word of our own on caching.
      headers: { cookie: me.cookie, 'if-none-match': first.headers.get('etag')!, 'cache-control': 'max-age=0' },
    });
    expect([again.status, await again.text()]).toEqual([304, '']);
  });
});

describe('the kept judgement', () => {
  test('holds every result, however many are sent together', async () => {
    const job = await me.newJob();
    const reading = { at: 'idle', rpm: 700, mafGps: 2, trims: { bank1: { stft: 2, ltft: 16 } } };
    await me.post(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'before', reading });
    const tests = ['fuse-check', 'pinch-pcv', 'pinch-booster', 'pinch-purge', 'rock-engine', 'vacuum-gauge'];
    const outcome = (id: string) => ({ 'fuse-check': 'ok', 'vacuum-gauge': 'normal' })[id] ?? 'no-change';
    const sent = await Promise.all(
      tests.map((id) => me.post(`/jobs/${job.id}/tests`, { id: uuid(), test: { id, outcome: outcome(id) } })),
    );
    expect(sent.map((r) => r.status)).toEqual(tests.map(() => 201));
    const { input } = (await me.get(`/jobs/${job.id}/diagnosis`)).body.at(-1);
    expect(input.tests.map((t: { id: string }) => t.id).sort()).toEqual([...tests].sort());
  });
});

test('the vehicle page says where a visit stands as the board does', async () => {
  const job = await me.newJob();
  const onBoard = (await me.get('/jobs?limit=200')).body.find((j: { id: string }) => j.id === job.id);
  const { visits } = (await me.get(`/vehicles/${job.vehicle.id}/history`)).body;
  expect(visits.map((v: { station: string }) => v.station)).toEqual([onBoard.standing.station]);
});
