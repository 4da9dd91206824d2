import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { deflateSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { JOB_RESOURCES } from '@just-balance/contract';
import { SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { encodeColumn } from '@just-balance/core/series';
import { unzipSync, zipSync } from 'fflate';
import sharp from 'sharp';
import { v7 as uuid } from 'uuid';
import { Client, type Fixture, readingAt, signInToOtherShop, startFixture } from './harness.ts';

/** What says that it was brought in, and how often this server has written to it. */
const BROUGHT = ['imported', 'importedBy', 'importedAt', 'changes', 'shop', 'product', 'exportedAt'];

const KNOWN = uuid();

let fixture: Fixture;
let me: Client;
let jobId: string;
let work: string;

const bytes = async (who: Client, path: string, init: RequestInit = {}, base = fixture.base) =>
  fetch(`${base}/api${path}`, { ...init, headers: { cookie: who.cookie, ...init.headers } });
const archive = async (who = me, id = jobId, base = fixture.base) =>
  Buffer.from(await (await bytes(who, `/jobs/${id}/archive`, {}, base)).arrayBuffer());
const read = async (who: Client, body: Uint8Array, base = fixture.base) => {
  const r = await bytes(
    who,
    '/archives',
    {
      method: 'POST',
      body: new Uint8Array(body),
      headers: { 'content-type': 'application/zip' },
    },
    base,
  );
  return { status: r.status, body: (await r.json()) as Record<string, unknown> & { message: string } };
};
const picture = (seed: number) =>
  sharp({ create: { width: 800, height: 600, channels: 3, background: { r: seed, g: 120, b: 90 } } })
    .jpeg()
    .toBuffer();

/** A job with something in every table that travels. */
async function fullJob(): Promise<string> {
  const id = (
    await me.newJob({ complaint: { symptoms: ['rough-idle'], story: 'Shakes when warm; “worse” with the fan on' } })
  ).id;
  const reading = (phase: string, at: string, l: number, mafGps: number) =>
    me.into(`/jobs/${id}/readings`, { id: uuid(), phase, reading: readingAt(at, l, mafGps) });
  await me.into(`/jobs/${id}/records/by-hand`, {
    id: uuid(),
    phase: 'before',
    stored: ['P0171'],
    pending: [],
    lampOn: true,
    monitors: { evap: 'incomplete' },
  });
  await reading('before', 'idle', 13.2, 2.3);
  await reading('before', 'hold-2500', 4.1, 9.2);
  await me.into(`/jobs/${id}/tests`, { id: uuid(), test: { id: 'smoke-intake', outcome: 'gasket-bank1' } });
  await me.into(`/jobs/${id}/tests`, {
    id: uuid(),
    test: { id: 'fuel-pressure', values: { idleKPa: 381, loadKPa: 376, specKPa: 380 } },
  });
  await me.into(`/jobs/${id}/known`, {
    id: KNOWN,
    layer: 'entered',
    at: 'idle',
    quantity: 'airflow',
    low: 2.4,
    high: 3.2,
    source: 'service sheet',
  });
  const run = uuid();
  await me.into(`/jobs/${id}/runs`, {
    id: run,
    procedure: SHIPPED_PROCEDURES.find((p) => p.id === 'airflow-sensor-clean')!,
  });
  await me.into(`/jobs/${id}/runs/${run}/events`, {
    events: [{ id: uuid(), atMs: Date.now(), what: { kind: 'done', step: 'cold', round: 0, answer: 'cool' } }],
  });
  await me.into(`/jobs/${id}/entries`, {
    id: uuid(),
    kind: 'part',
    data: { name: 'Intake gasket', number: 'LY-77', make: 'original', oldKept: true },
  });
  await me.into(`/jobs/${id}/repairs`, {
    id: uuid(),
    text: 'Intake gasket renewed',
    fault: 'vac-leak',
    part: 'intake gasket',
    adaptation: 'relearn',
  });
  await reading('after', 'idle', 0.4, 2.7);
  await reading('after', 'hold-2500', 0.9, 9.5);
  for (const n of [40, 80]) {
    const r = await bytes(me, `/jobs/${id}/photos/${uuid()}?label=gasket%20${n}`, {
      method: 'PUT',
      body: new Uint8Array(await picture(n)),
      headers: { 'content-type': 'image/jpeg' },
    });
    expect(r.status).toBe(200);
  }
  const captureId = uuid();
  await me.into(`/jobs/${id}/imports`, {
    id: captureId,
    phase: 'before',
    name: 'drive.csv',
    startedAt: '2026-03-02T10:00:00.000Z',
    summary: { rows: 40, problemCount: 0, problems: [], leftOut: [] },
  });
  const time = Float64Array.from({ length: 40 }, (_, i) => i / 10);
  const value = Float64Array.from(time, (t) => 700 + 3 * Math.sin(t));
  const put = await bytes(me, `/jobs/${id}/imports/${captureId}/columns/rpm?part=0&unit=rpm`, {
    method: 'PUT',
    body: new Uint8Array(deflateSync(encodeColumn({ time, value }))),
    headers: { 'content-type': 'application/octet-stream' },
  });
  expect(put.status).toBe(204);
  await me.into(`/jobs/${id}/imports/${captureId}/finish`, {
    parts: { rpm: 1 },
    marks: [{ at: 'idle', from: 0.5, to: 3 }],
    readings: [],
  });
  return id;
}

beforeAll(async () => {
  fixture = await startFixture({ sim: null });
  me = await new Client(() => fixture.base).signIn();
  work = mkdtempSync(join(tmpdir(), 'jb-hand-over-'));
  jobId = await fullJob();
});
afterAll(async () => {
  rmSync(work, { recursive: true, force: true });
  await fixture.close();
});

/** Debian's poppler-utils read what our server wrote. */
function outside(program: string, args: string[]): string {
  const r = spawnSync(program, args, { encoding: 'utf8' });
  if (r.error) throw r.error;
  expect(`${program}: ${r.stderr}`).toBe(`${program}: `);
  return r.stdout;
}

describe('the hand-over as PDF', () => {
  const pdf = async (document: string, units = 'metric', more = '') => {
    const r = await bytes(me, `/jobs/${jobId}/hand-over/${document}?units=${units}${more}`);
    expect([r.status, r.headers.get('content-type')]).toEqual([200, 'application/pdf']);
    const file = join(work, `${document}-${units}.pdf`);
    writeFileSync(file, Buffer.from(await r.arrayBuffer()));
    return file;
  };

  test('for the customer: tagged, paged, plain words; what was found, done, measured and stays open', async () => {
    const file = await pdf('customer');
    const info = outside('pdfinfo', [file]);
    expect(info).toMatch(/Tagged:\s+yes/);
    expect(info).toMatch(/Title:\s+What we found and did, Tarn 2.0/);
    const text = outside('pdftotext', ['-layout', file, '-']).replace(/\s+/g, ' ');
    for (const said of [
      'Shakes when warm; “worse” with the fan on',
      'Air was getting into the engine past the sensor that measures it.',
      'Idle: yours had to add 14 % of fuel before the repair; now it adds 1 % of fuel.',
      'Intake gasket renewed',
      'New part: Intake gasket, number LY-77, original',
      'they are back where they should be',
      'The car has not finished checking itself: EVAP.',
      'Page 1 of',
      'licensed practice come before anything',
    ])
      expect(text).toContain(said);
    // The structure that a reader without eyes follows.
    const tree = outside('pdfinfo', ['-struct-text', file]);
    expect(tree.match(/^\s+H2 \(block\)/gm)).toHaveLength(7);
    expect(tree).toMatch(/Figure/);
    expect(tree).toMatch(/LBody/);
    // Its fonts are in it.
    for (const line of outside('pdffonts', [file]).trim().split('\n').slice(2))
      expect(line).toMatch(/\syes\s+yes\s+yes\s/);
  });

  test('for the technician: every figure; in US units every figure of them', async () => {
    const text = outside('pdftotext', ['-layout', await pdf('technician'), '-']);
    for (const said of [
      'P0171 stored',
      '+13.2',
      '2.30',
      'Smoke',
      'at idle 381 kPa',
      'LY-77',
      'gasket 40',
      'Clean the airflow sensor',
    ])
      expect(text).toContain(said);
    const us = outside('pdftotext', ['-layout', await pdf('technician', 'us'), '-']);
    expect(us).toContain('at idle 55.3 psi');
    expect(us).toContain('Airflow lb/min');
    expect(us).not.toMatch(/\d (kPa|°C|g\/s)/);
  });

  test('arrows are arrows; on the clock of who reads; on the paper there is', async () => {
    const story = 'From 3 → 5 ≥ 4 ≤ 6 ≈ 5';
    const { id } = await me.newJob({ complaint: { symptoms: ['none'], story } });
    const r = await bytes(me, `/jobs/${id}/hand-over/technician?zone=Pacific/Kiritimati&paper=LETTER`);
    const file = join(work, 'letter.pdf');
    writeFileSync(file, Buffer.from(await r.arrayBuffer()));
    const text = outside('pdftotext', ['-layout', file, '-']);
    expect(text).toContain(story);
    // Kiritimati is fourteen hours ahead of UTC all year (IANA time zone database).
    const there = new Date(Date.now() + 14 * 3_600_000);
    const day = there.toLocaleDateString('en-GB', { day: 'numeric', month: 'long', year: 'numeric', timeZone: 'UTC' });
    expect(text).toMatch(new RegExp(`Opened ${day}, \\d\\d:\\d\\d \\(Pacific/Kiritimati\\)`));
    expect(text).toMatch(new RegExp(`printed ${day}, \\d\\d:\\d\\d \\(Pacific/Kiritimati\\)`));
    // ANSI/ASME Y14.1: letter is 8.5 by 11 in, 612 by 792 points.
    expect(outside('pdfinfo', [file])).toMatch(/Page size:\s+792 x 612 pts \(letter\)/);
    expect(outside('pdfinfo', [await pdf('customer')])).toMatch(/Page size:\s+595\.28 x 841\.89 pts \(A4\)/);
    for (const bad of ['zone=Mars/Olympus', 'paper=A0'])
      expect((await bytes(me, `/jobs/${id}/hand-over/customer?${bad}`)).status).toBe(400);
  });

  test('the customer’s is one page', async () => {
    expect(outside('pdfinfo', [await pdf('customer')])).toMatch(/Pages:\s+1\n/);
    expect(outside('pdfinfo', [await pdf('customer', 'us', '&paper=LETTER')])).toMatch(/Pages:\s+1\n/);
  });

  test('in own words where there are any; marked when the facts have changed since; nothing for another shop', async () => {
    const data = {
      document: 'customer',
      section: 'open',
      text: 'Nothing that keeps you from driving.\n• Come by in May',
      was: 'x',
    };
    await me.into(`/jobs/${jobId}/entries`, { id: uuid(), kind: 'wording', data });
    const text = outside('pdftotext', ['-layout', await pdf('customer'), '-']);
    expect(text).toContain('Nothing that keeps you from driving.');
    expect(text).not.toContain('finished checking itself');
    const other = await signInToOtherShop(() => fixture.base);
    expect((await bytes(other, `/jobs/${jobId}/hand-over/customer`)).status).toBe(404);
    expect((await bytes(me, `/jobs/${jobId}/hand-over/insurer`)).status).toBe(400);
    expect((await bytes(new Client(() => fixture.base), `/jobs/${jobId}/hand-over/customer`)).status).toBe(401);
  });

  test('words of any script and length do not break it; what no font has is marked', async () => {
    const { id } = await me.newJob({
      complaint: {
        symptoms: ['none'],
        story: `Škoda Привет Ωμέγα 汽车 ${'x'.repeat(500)} \u0000 <b>`.replace('\u0000', ''),
      },
      vehicle: { label: '<Tarn> & "2.0"', fuel: 'diesel', metering: 'maf', displacementL: 2, cylinders: 4 },
    });
    const r = await bytes(me, `/jobs/${id}/hand-over/technician`);
    const file = join(work, 'odd.pdf');
    writeFileSync(file, Buffer.from(await r.arrayBuffer()));
    const text = outside('pdftotext', [file, '-']);
    expect(text).toContain('Škoda Привет Ωμέγα ??');
    expect(text).toContain('<Tarn> & "2.0"');
  });
});

describe('the archive', () => {
  test('is a zip that others read: every file under the SHA-256 that its manifest says', async () => {
    const file = join(work, 'job.jb.zip');
    writeFileSync(file, await archive());
    const list = outside('unzip', ['-l', file]);
    expect(list).toMatch(/job\.json/);
    outside('unzip', ['-q', '-o', file, '-d', join(work, 'out')]);
    const manifest = JSON.parse(readFileSync(join(work, 'out/manifest.json'), 'utf8'));
    expect(manifest).toMatchObject({ format: 'just-balance/archive', version: 1, job: jobId });
    const names = Object.keys(manifest.files);
    expect(names.filter((n) => n.startsWith('photos/'))).toHaveLength(2);
    expect(names.filter((n) => /^captures\/.*\.(json|csv|log)$/.test(n))).toHaveLength(3);
    expect(names.filter((n) => n.startsWith('reports/'))).toHaveLength(2);
    for (const [name, said] of Object.entries<{ sha256: string }>(manifest.files))
      expect([
        name,
        createHash('sha256')
          .update(readFileSync(join(work, 'out', name)))
          .digest('hex'),
      ]).toEqual([name, said.sha256]);
    const csv = readFileSync(join(work, 'out', names.find((n) => n.endsWith('.csv'))!), 'utf8').split('\n');
    expect(csv[0]).toMatch(/time.*rpm/);
    expect(csv).toHaveLength(42);
    // A line a frame as SocketCAN's candump -L writes it; the engine answers from 7E8 (ISO 15765-4).
    const log = readFileSync(join(work, 'out', names.find((n) => n.endsWith('.log'))!), 'utf8')
      .trim()
      .split('\n');
    expect(log.filter((l) => !/^\(\d+\.\d{6}\) can0 7E8#[0-9A-F]{2,16}$/.test(l))).toEqual([]);
    // 40 samples of one channel.
    expect(log).toHaveLength(40);
  });

  test('of the whole shop: every job under its id, the same that each gives alone', async () => {
    const took = await bytes(me, '/archives');
    expect(took.headers.get('content-type')).toBe('application/zip');
    const file = join(work, 'shop.jb.zip');
    writeFileSync(file, Buffer.from(await took.arrayBuffer()));
    outside('unzip', ['-tq', file]);
    const all = unzipSync(readFileSync(file));
    const manifest = JSON.parse(Buffer.from(all['manifest.json']!).toString());
    expect(manifest).toMatchObject({ format: 'just-balance/shop-archive', version: 1, leftOut: [] });
    const names = Object.keys(all).filter((n) => n.startsWith('jobs/'));
    expect(names).toContain(`jobs/${jobId}.jb.zip`);
    expect(names).toHaveLength(manifest.jobs);
    const inside = unzipSync(all[`jobs/${jobId}.jb.zip`]!);
    const alone = unzipSync(await archive());
    for (const [name, data] of Object.entries(inside).filter(([n]) => n !== 'manifest.json'))
      expect([name, Buffer.compare(data, alone[name]!)]).toEqual([name, 0]);
    expect(await read(me, all[`jobs/${jobId}.jb.zip`]!)).toMatchObject({
      status: 200,
      body: { taken: false, differs: [] },
    });
    // Handed in whole, the answer says what it is and where it goes.
    expect((await read(me, readFileSync(file))).body.message).toMatch(
      /archive of a whole shop: read it in on the Logbook/,
    );
    // Of days on which nothing was opened: none.
    const none = unzipSync(new Uint8Array(await (await bytes(me, '/archives?to=2001-01-01')).arrayBuffer()));
    expect(Object.keys(none).sort()).toEqual(['layouts.json', 'manifest.json', 'settings.json']);
  });

  test('of the whole shop: its own texts and how it reads tables go along, and come into another shop', async () => {
    const ours = (await bytes(me, '/procedures/ours/airflow-sensor-clean?kind=service')).text();
    const text = (await ours).replace(/^id: .*$/m, 'id: our-way');
    const mine = { id: uuid(), kind: 'service', text };
    expect((await me.post('/procedures/file', mine)).status).toBe(201);
    const layout = { layout: 'wide', roles: [{ column: 0, kind: 'time' }] };
    expect((await me.put('/layouts', { headers: 'Zeit\u001fDrehzahl', ...layout })).status).toBe(204);
    const all = unzipSync(new Uint8Array(await (await bytes(me, '/archives?to=2001-01-01')).arrayBuffer()));
    const inside = (name: string) => Buffer.from(all[name]!).toString();
    expect(inside('own/service/our-way.yaml')).toBe(await (await bytes(me, `/procedures/${mine.id}/file`)).text());
    const [kept] = JSON.parse(inside('layouts.json'));
    expect(kept).toMatchObject({ ...layout, hash: expect.stringMatching(/^[0-9a-f]{64}$/) });
    // Removed texts stay here.
    await me.patch(`/procedures/${mine.id}`, { rev: 1, undone: true });
    const after = unzipSync(new Uint8Array(await (await bytes(me, '/archives?to=2001-01-01')).arrayBuffer()));
    expect(Object.keys(after)).not.toContain('own/service/our-way.yaml');
    const there = await signInToOtherShop(() => fixture.base);
    const { hash, ...rest } = kept;
    expect((await there.put('/layouts', { hash, ...rest })).status).toBe(204);
    expect((await there.post('/layouts/find', { headers: 'Zeit\u001fDrehzahl' })).body.found).toMatchObject(layout);
    expect((await there.get('/layouts')).body).toMatchObject([{ hash, ...layout }]);
    expect((await there.put('/layouts', layout)).body.errors[0].field).toBe('headers');
    expect((await there.put('/layouts', { hash: 'x', ...layout })).status).toBe(400);
    const id = uuid();
    const came = await there.post('/procedures/file', {
      id,
      kind: 'service',
      text: inside('own/service/our-way.yaml'),
    });
    expect(came.status).toBe(201);
    expect(await (await bytes(there, `/procedures/${id}/file`)).text()).toBe(inside('own/service/our-way.yaml'));
  });

  test('every fault is named with its file, and nothing of it is kept', async () => {
    const good = unzipSync(await archive());
    const text = (name: string) => Buffer.from(good[name]!).toString();
    const fresh = uuid();
    /** As good, with one file changed and the manifest made to fit it. */
    const made = (change: (files: Record<string, Uint8Array>) => void, manifest: object = {}) => {
      const files = { ...good };
      files['job.json'] = Buffer.from(text('job.json').replaceAll(jobId, fresh));
      change(files);
      const listed = Object.fromEntries(
        Object.entries(files)
          .filter(([n]) => n !== 'manifest.json')
          .map(([n, d]) => [n, { sha256: createHash('sha256').update(d).digest('hex'), bytes: d.length }]),
      );
      const head = { ...JSON.parse(text('manifest.json')), files: listed, ...manifest };
      return zipSync({ ...files, 'manifest.json': Buffer.from(JSON.stringify(head)) }, { level: 0 });
    };
    const rows = (change: (r: Record<string, Record<string, unknown>[]>) => void) =>
      made((f) => {
        const job = JSON.parse(Buffer.from(f['job.json']!).toString());
        change(job.rows);
        f['job.json'] = Buffer.from(JSON.stringify(job));
      });
    const capture = Object.keys(good).find((n) => /^captures.*json$/.test(n))!;
    const photo = Object.keys(good).find((n) => n.startsWith('photos/'))!;
    const cases: [string, Uint8Array, RegExp][] = [
      ['no zip', Buffer.from('PK\u0003\u0004 no'), /not a whole zip/],
      ['cut off', zipSync({ 'manifest.json': Buffer.from('{}') }).subarray(0, 40), /not a whole zip/],
      ['newer', made(() => {}, { version: 2 }), /version 2 is not one this program reads \(1\): update it/],
      ['another format', made(() => {}, { format: 'x' }), /format must be/],
      ['a path out of it', zipSync({ '../../etc/passwd': Buffer.from('x') }), /no file of an archive of ours/],
      [
        'a changed file',
        zipSync({ ...good, 'job.json': Buffer.from('{}') }),
        /job\.json: is not what manifest\.json says/,
      ],
      ['a file more', zipSync({ ...good, [`photos/${uuid()}.jpg`]: Buffer.from('x') }), /not in manifest\.json/],
      ['a file less', zipSync(Object.fromEntries(Object.entries(good).filter(([n]) => n !== photo))), /is missing/],
      [
        'a row without a moment',
        rows((r) => {
          r.readings![0]!.createdAt = 'yesterday';
        }),
        /rows\.readings\[0\]\.createdAt: a moment/,
      ],
      [
        'an id twice',
        rows((r) => {
          r.tests![1]!.id = r.tests![0]!.id;
        }),
        /stands twice/,
      ],
      [
        'an event of no run',
        rows((r) => {
          r.runEvents![0]!.runId = uuid();
        }),
        /runEvents\[0\]\.runId: no such run/,
      ],
      [
        'a judgement that cannot be shown',
        rows((r) => {
          (r.diagnoses![0]!.output as { causes: unknown }).causes = [{ fault: 1 }];
        }),
        /causes\[0\]/,
      ],
      [
        'no picture',
        made((f) => {
          f[photo] = Buffer.from('<svg/>');
        }),
        /no JPEG/,
      ],
      [
        'a capture that runs backwards',
        made((f) => {
          f[capture] = Buffer.from(
            JSON.stringify({
              ...JSON.parse(text(capture)),
              channels: [{ id: 'rpm', unit: 'rpm', time: [1, 0], value: [1, 1] }],
            }),
          );
        }),
        /goes back in time/,
      ],
    ];
    for (const [what, zip, says] of cases) {
      const r = await read(me, zip);
      expect([what, r.status, r.body.message]).toEqual([what, 400, expect.stringMatching(says)]);
    }
    expect((await me.get(`/jobs/${fresh}`)).status).toBe(404);
    const learner = new Client(() => fixture.base);
    expect((await read(learner, await archive())).status).toBe(401);
  });

  test('a picture that carries more than itself is made again', async () => {
    const files = unzipSync(await archive());
    const photo = Object.keys(files).find((n) => n.startsWith('photos/'))!;
    const tagged = await sharp(Buffer.from(files[photo]!))
      .withExif({ IFD0: { Copyright: 'somebody' } })
      .jpeg()
      .toBuffer();
    const job = Buffer.from(files['job.json']!).toString();
    const ids = new Map<string, string>();
    const renamed = (t: string) =>
      t.replace(
        /[0-9a-f]{8}-[0-9a-f]{4}-7[0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}/g,
        (x) => ids.get(x) ?? ids.set(x, uuid()).get(x)!,
      );
    const all: Record<string, Uint8Array> = { 'job.json': Buffer.from(renamed(job.replace(jobId, jobId))) };
    // The job's own id may be of another version.
    const own = uuid();
    all['job.json'] = Buffer.from(
      Buffer.from(all['job.json']!).toString().replaceAll(jobId, own).replaceAll(renamed(jobId), own),
    );
    for (const [n, d] of Object.entries(files))
      if (/^(captures|photos)\//.test(n)) all[renamed(n)] = n === photo ? tagged : d;
    const listed = Object.fromEntries(
      Object.entries(all).map(([n, d]) => [
        n,
        { sha256: createHash('sha256').update(d).digest('hex'), bytes: d.length },
      ]),
    );
    const rows = JSON.parse(Buffer.from(all['job.json']!).toString()).rows;
    const zip = zipSync({
      ...all,
      'manifest.json': Buffer.from(JSON.stringify({ format: 'just-balance/archive', version: 1, files: listed })),
    });
    const r = await read(me, zip);
    expect([r.status, r.body.message]).toEqual([200, undefined]);
    const kept = Buffer.from(
      await (await bytes(me, `/jobs/${rows.job[0].id}/photos/${renamed(photo).slice(7, 43)}`)).arrayBuffer(),
    );
    expect((await sharp(kept).metadata()).exif).toBeUndefined();
  });

  test('read in again it changes nothing; read into another shop it is the same job, lossless', async () => {
    const first = await archive();
    expect(await read(me, first)).toEqual({ status: 200, body: { job: jobId, taken: false, differs: [] } });
    const neighbour = await signInToOtherShop(() => fixture.base);
    expect((await read(neighbour, first)).status).toBe(409);
    const here = await everyRead(me);
    // Last of all: the models belong to the application that was started last.
    const second = await startFixture({ sim: null });
    try {
      const other = await new Client(() => second.base).signIn();
      await sameThere(other, second.base, first);
      // What a page, an export or a paper says of it there is what it says here, but that it was brought in.
      const there = await everyRead(other, second.base);
      expect(Object.keys(there)).toEqual(Object.keys(here));
      for (const [path, said] of Object.entries(here)) expect([path, there[path]]).toEqual([path, said]);
    } finally {
      await second.close();
    }
  });

  /** All that can be read of the job, by its address; without what says where it was read. */
  async function everyRead(who: Client, base = fixture.base): Promise<Record<string, unknown>> {
    const { captures, vehicle, runs } = await who.job(jobId);
    const json = [
      `/jobs/${jobId}`,
      ...JOB_RESOURCES.map((r) => `/jobs/${jobId}/${r}`),
      `/jobs/${jobId}/export`,
      ...captures.map((c: { id: string }) => `/jobs/${jobId}/captures/${c.id}/recording`),
      `/vehicles/${vehicle.id}/history`,
      `/vehicles/${vehicle.id}/drives`,
      '/logbook?q=gasket',
    ];
    expect([captures.length, runs.length]).toEqual([1, 1]);
    const out: Record<string, unknown> = {};
    for (const path of json) {
      const r = await who.get(path);
      expect([path, r.status]).toEqual([path, 200]);
      out[path] = JSON.parse(
        JSON.stringify(r.body, (k, v) => {
          if (BROUGHT.includes(k)) return undefined;
          if (!Array.isArray(v)) return v;
          // Other jobs of a shop have the same car and know figures of its family: those are the shop's.
          if (k === 'known' || (k === '' && path.endsWith('/known'))) return v.filter((x) => x.id === KNOWN);
          const rows = k === '' && path.startsWith('/logbook');
          return v.filter((x) => (rows ? x.id === jobId : x?.job === undefined || x.job === jobId));
        }),
      );
    }
    for (const c of captures as { id: string }[])
      for (const [format, path] of [
        ['columns', `/jobs/${jobId}/captures/${c.id}/columns/rpm?part=0`],
        ...['csv', 'json', 'candump'].map((f) => [f, `/jobs/${jobId}/captures/${c.id}/export?as=${f}`]),
      ] as const) {
        const r = await bytes(who, path, {}, base);
        expect([format, r.status]).toEqual([format, 200]);
        out[format] = createHash('sha256')
          .update(Buffer.from(await r.arrayBuffer()))
          .digest('hex');
      }
    for (const paper of ['customer', 'technician']) {
      const r = await bytes(who, `/jobs/${jobId}/hand-over/${paper}`, {}, base);
      const file = join(work, `${paper}.pdf`);
      writeFileSync(file, Buffer.from(await r.arrayBuffer()));
      out[paper] = outside('pdftotext', ['-layout', file, '-'])
        .split('\n')
        .map((l) => l.replace(/\s+/g, ' ').trim())
        .filter((l) => l !== '' && !/printed|From an archive|archive’s/.test(l));
    }
    return out;
  }

  async function sameThere(other: Client, base: string, first: Buffer) {
    expect(await read(other, first, base)).toEqual({ status: 200, body: { job: jobId, taken: true, differs: [] } });
    const again = unzipSync(await archive(other, jobId, base));
    const before = unzipSync(first);
    for (const name of Object.keys(before).filter((n) => /^(captures|photos)\//.test(n)))
      expect([name, Buffer.compare(Buffer.from(again[name]!), Buffer.from(before[name]!))]).toEqual([name, 0]);
    const rows = (z: Record<string, Uint8Array>) => JSON.parse(Buffer.from(z['job.json']!).toString()).rows;
    expect(rows(again)).toEqual(rows(before));
    expect(await read(other, first, base)).toMatchObject({ status: 200, body: { taken: false, differs: [] } });
    // It stands on the board with its summary, and its pages read.
    const job = await other.job(jobId);
    expect(job).toMatchObject({ counts: { before: 2, after: 2, tests: 2, repairs: 1 }, openedBy: 'R. Okafor' });
    expect((await other.get('/jobs')).body.some((j: { id: string }) => j.id === jobId)).toBe(true);
  }
});
