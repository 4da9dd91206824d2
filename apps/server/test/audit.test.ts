import { afterAll, beforeAll, expect, test } from '@jest/globals';
import { v7 as uuid } from 'uuid';
import WebSocket from 'ws';
import { JobEvent, Photo, ShopWord } from '../src/database/models.ts';
import { Client, signInToOtherShop, startWorld, until, type World } from './harness.ts';

let world: World;
let me: Client;
let other: Client;
beforeAll(async () => {
  world = await startWorld({ sim: null });
  me = await new Client(() => world.base).signIn();
  other = await new Client(() => world.base).signIn('duarte@linden.example', 'bench-demo-2');
}, 60_000);
afterAll(() => world.close());

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
  const stranger = await signInToOtherShop(() => world.base);
  expect((await stranger.get(`/audit?job=${id}`)).body).toEqual([]);
  expect((await me.get('/audit?kind=gossip')).status).toBe(400);
});

test('a customer is forgotten; the figures, the causes and the lesson stay', async () => {
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
  expect((await me.post(`/vehicles/${v.id}/erase`, { reason: 'asked by letter' })).body).toEqual({ jobs: 1 });
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

test('two screens on one job know of each other, and when one has gone', async () => {
  const { id } = await me.newJob();
  const watch = (c: Client) => {
    const seen: string[][] = [];
    const ws = new WebSocket(`${world.base.replace('http', 'ws')}/ws`, {
      headers: { cookie: c.cookie, origin: world.base },
    });
    ws.on('open', () => ws.send(JSON.stringify({ type: 'subscribe', jobId: id })));
    ws.on('message', (m) => {
      const x = JSON.parse(String(m));
      if (x.type === 'present') seen.push([...x.people].sort());
    });
    return { seen, ws };
  };
  const a = watch(me);
  await until(() => a.seen.length > 0);
  const b = watch(other);
  await until(() => a.seen.at(-1)?.length === 2);
  expect(a.seen.at(-1)).toEqual(['M. Duarte', 'R. Okafor']);
  b.ws.close();
  await until(() => a.seen.at(-1)?.length === 1);
  a.ws.close();
});
