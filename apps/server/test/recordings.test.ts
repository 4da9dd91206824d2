import { inspect } from 'node:util';
import { deflateSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, jest, test } from '@jest/globals';
import { decodeColumn, encodeColumn } from '@just-balance/core/series';
import { v4 as uuid } from 'uuid';
import { RecordingsService } from '../src/recordings/recordings.service.ts';
import { Capture, CaptureColumn, CaptureRow } from '../src/rows/captures.ts';
import { Job } from '../src/rows/jobs.ts';
import { Client, type Fixture, signInToOtherShop, startFixture, until } from './harness.ts';

let fixture: Fixture;
let me: Client;
beforeAll(async () => {
  fixture = await startFixture({ sim: null });
  me = await new Client(() => fixture.base).signIn();
});
afterAll(() => fixture.close());

const TIME = Float64Array.from({ length: 300 }, (_, i) => i / 10);
const RPM = TIME.map((t) => 700 + (Math.round(t) % 3));
const column = (value: Float64Array | string[], time = TIME) => deflateSync(encodeColumn({ time, value }));

async function put(jobId: string, id: string, channel: string, body: Buffer, query = 'part=0&unit=rpm', who = me) {
  const r = await fetch(`${fixture.base}/api/jobs/${jobId}/imports/${id}/columns/${channel}?${query}`, {
    method: 'PUT',
    headers: { 'content-type': 'application/octet-stream', cookie: who.cookie },
    body: new Uint8Array(body),
  });
  return { status: r.status, body: r.status === 204 ? null : ((await r.json()) as { message: string }) };
}
const summary = { rows: 300, problemCount: 1, problems: ['line 7: rpm: "x" is not a number'], leftOut: ['Gear'] };
const begin = (jobId: string, id: string, more = {}) =>
  me.post(`/jobs/${jobId}/imports`, { id, phase: 'before', name: 'road test.csv', summary, ...more });
const finish = (jobId: string, id: string, more = {}) =>
  me.post(`/jobs/${jobId}/imports/${id}/finish`, {
    parts: { rpm: 1, fuelSys1: 1 },
    marks: [{ at: 'idle', from: 2, to: 12 }],
    readings: [{ id: uuid(), reading: { at: 'idle', rpm: 701, trims: { bank1: { stft: 2, ltft: 9 } } } }],
    ...more,
  });

describe('an import', () => {
  test('nothing of it is seen before it is whole; then recording, reading and event are there together', async () => {
    const job = await me.newJob();
    const id = uuid();
    expect((await begin(job.id, id)).body).toEqual({ id, received: {} });
    expect((await put(job.id, id, 'rpm', column(RPM))).status).toBe(204);
    expect((await me.get(`/jobs/${job.id}/captures`)).body).toEqual([]);
    expect((await me.get(`/jobs/${job.id}/captures/${id}/recording`)).status).toBe(404);
    const early = await finish(job.id, id);
    expect([early.status, early.body.errors]).toEqual([
      400,
      [{ field: 'parts.fuelSys1', message: '0 of 1 parts are here' }],
    ]);
    expect((await me.get(`/jobs/${job.id}/readings`)).body).toEqual([]);
    await put(job.id, id, 'fuelSys1', column(TIME.length ? Array.from(TIME, () => 'closed loop') : []), 'part=0&unit=');
    // The tablet lost the answer and begins again: it learns what is here already.
    expect((await begin(job.id, id)).body.received).toEqual({ rpm: 1, fuelSys1: 1 });
    const done = await finish(job.id, id);
    expect(done.status).toBe(201);
    const view = await me.job(job.id);
    expect(done.body).toMatchObject({ id, state: 'done' });
    expect(view.readings).toMatchObject([{ source: 'import', captureId: id, reading: { at: 'idle', rpm: 701 } }]);
    expect(view.captures).toMatchObject([{ id, source: 'import', name: 'road test.csv', state: 'done' }]);
    expect(
      (await me.get(`/jobs/${job.id}/export`)).body.job.events.find((e: { kind: string }) => e.kind === 'import'),
    ).toMatchObject({
      kind: 'import',
      data: { leftOut: 1, problems: 1 },
    });
    // Again: the same, once.
    await finish(job.id, id);
    expect((await me.get(`/jobs/${job.id}/readings`)).body).toHaveLength(1);
    const r = (await me.get(`/jobs/${job.id}/captures/${id}/recording`)).body;
    expect(r).toMatchObject({ durationS: 29.9, marks: [{ at: 'idle', from: 2, to: 12 }], summary });
    expect(r.channels.map((c: { id: string; n: number }) => [c.id, c.n])).toEqual([
      ['fuelSys1', 300],
      ['rpm', 300],
    ]);
  });

  test('its bytes come back as they were sent', async () => {
    const job = await me.newJob();
    const id = uuid();
    await begin(job.id, id);
    await put(job.id, id, 'rpm', column(RPM.subarray(0, 100), TIME.subarray(0, 100)));
    await put(job.id, id, 'rpm', column(RPM.subarray(100), TIME.subarray(100)), 'part=1&unit=rpm');
    await finish(job.id, id, { parts: { rpm: 2 }, readings: [] });
    const raw = await fetch(`${fixture.base}/api/jobs/${job.id}/captures/${id}/columns/rpm?part=1`, {
      headers: { cookie: me.cookie },
    });
    expect(raw.headers.get('content-encoding')).toBe('deflate');
    const back = decodeColumn(new Uint8Array(await raw.arrayBuffer()));
    expect(Array.from(back.value as Float64Array)).toEqual(Array.from(RPM.subarray(100)));
    const csv = await fetch(`${fixture.base}/api/jobs/${job.id}/captures/${id}/export?as=csv`, {
      headers: { cookie: me.cookie },
    });
    const lines = (await csv.text()).trim().split('\n');
    expect(lines[0]).toBe('time,rpm (rpm)');
    expect(lines).toHaveLength(301);
    const dump = await fetch(`${fixture.base}/api/jobs/${job.id}/captures/${id}/export?as=candump`, {
      headers: { cookie: me.cookie },
    });
    expect((await dump.text()).split('\n')[0]).toMatch(/^\(0\.000000\) \S+ 7E8#04410C0AF0/);
    expect((await me.get(`/jobs/${job.id}/captures/${id}/export?as=xls`)).status).toBe(400);
  });

  test('broken, bloated and misplaced columns are refused by name; nothing is stored of them', async () => {
    const job = await me.newJob();
    const id = uuid();
    await begin(job.id, id);
    const good = encodeColumn({ time: TIME, value: RPM });
    for (const [body, why] of [
      [Buffer.from('no column'), /does not inflate/],
      [deflateSync(good.subarray(0, 40)), /byte \d+/],
      [deflateSync(Buffer.alloc(60_000_000)), /too much/],
    ] as const) {
      const r = await put(job.id, id, 'rpm', body);
      expect([r.status, r.body?.message]).toEqual([400, expect.stringMatching(why)]);
      expect(r.body?.message).toMatch(/channel rpm, part 0/);
    }
    expect((await put(job.id, id, encodeURIComponent('a<b>'), column(RPM))).status).toBe(400);
    expect((await put(job.id, id, 'rpm', column(RPM), 'part=-1&unit=rpm')).status).toBe(400);
    expect((await put(job.id, uuid(), 'rpm', column(RPM))).status).toBe(404);
    expect(await CaptureColumn.count({ where: { captureId: id } })).toBe(0);
    const none = await finish(job.id, id, { parts: {}, readings: [] });
    expect(none.status).toBe(400);
    const two = await finish(job.id, id, {
      parts: {},
      readings: [{ id: uuid(), reading: { at: 'idle', trims: { bank2: { stft: 1, ltft: 1 } } } }],
    });
    expect(two.status).toBe(400);
  });

  test('a vehicle of one bank takes no trims of a second; of one with two it takes them', async () => {
    for (const [banks, status] of [
      [1, 400],
      [2, 201],
    ] as const) {
      const job = await me.newJob({
        vehicle: { ...(await me.newJob()).vehicle, id: undefined, rev: undefined, banks },
      });
      const id = uuid();
      await begin(job.id, id);
      await put(job.id, id, 'rpm', column(RPM));
      const trims = { bank1: { stft: 1, ltft: 1 }, bank2: { stft: 1, ltft: 1 } };
      const r = await finish(job.id, id, {
        parts: { rpm: 1 },
        readings: [{ id: uuid(), reading: { at: 'idle', trims } }],
      });
      expect([banks, r.status, status === 400 ? r.body.message : '']).toEqual([
        banks,
        status,
        status === 400 ? expect.stringMatching(/one bank/) : '',
      ]);
    }
  });

  test('another shop sees none of it and adds nothing to it', async () => {
    const job = await me.newJob();
    const id = uuid();
    await begin(job.id, id);
    await put(job.id, id, 'rpm', column(RPM));
    await finish(job.id, id, { parts: { rpm: 1 }, readings: [] });
    const other = await signInToOtherShop(() => fixture.base);
    const mine = (await other.newJob()).id;
    for (const jobId of [job.id, mine]) {
      expect((await put(jobId, id, 'rpm', column(RPM), 'part=0&unit=rpm', other)).status).toBe(404);
      for (const path of ['recording', 'columns/rpm', 'export?as=csv'])
        expect((await other.get(`/jobs/${jobId}/captures/${id}/${path}`)).status).toBe(404);
      expect((await other.post(`/jobs/${jobId}/captures/${id}/marks`, { at: 'x', from: 1, to: 2 })).status).toBe(404);
    }
    // The id itself tells nothing and takes nothing over.
    expect((await other.post(`/jobs/${mine}/imports`, { id, phase: 'before', name: 'x', summary })).status).toBe(409);
  });
});

describe('a recording', () => {
  test('rows left by a crash become columns at the next start, gaps marked, words kept', async () => {
    const job = await me.newJob();
    const id = uuid();
    await Capture.create({
      id,
      shopId: (await Job.findByPk(job.id))!.shopId,
      jobId: job.id,
      at: 'idle',
      phase: 'before',
      state: 'stopped',
      source: 'link',
      name: null,
      gaps: 1,
      endedAt: new Date(),
      meta: null,
    });
    const shopId = (await Capture.findByPk(id))!.shopId;
    // Three seconds, then a restart: the next epoch begins eight seconds later.
    for (const [epoch, seq, atMs] of [
      [1, 0, 1_000_000],
      [1, 1, 1_001_000],
      [1, 2, 1_002_000],
      [2, 0, 1_010_000],
    ] as const)
      await CaptureRow.create({
        captureId: id,
        epoch,
        seq,
        shopId,
        atMs,
        data: {
          rpm: [
            [0, 700 + seq],
            [500, 701],
          ],
          fuelSys1: [[10, 'closed loop']],
        },
      });
    const before = (await me.get(`/jobs/${job.id}/captures/${id}/recording`)).body;
    await fixture.restart();
    await until(async () => (await CaptureRow.count({ where: { captureId: id } })) === 0);
    const after = (await me.get(`/jobs/${job.id}/captures/${id}/recording`)).body;
    expect(after).toEqual(before);
    expect(after).toMatchObject({ seconds: 4, durationS: 10.5, gapSpans: [{ from: 2.5, to: 10 }] });
    const exported = (await me.get(`/jobs/${job.id}/export`)).body.recordings[id];
    expect(exported.channels[0]).toMatchObject({
      id: 'rpm',
      time: [0, 0.5, 1, 1.5, 2, 2.5, 10, 10.5],
      value: [700, 701, 701, 701, 702, 701, 700, 701],
    });
    expect(exported.texts[0].value).toEqual(Array(4).fill('closed loop'));
    // Marks stay with it.
    const marked = await me.post(`/jobs/${job.id}/captures/${id}/marks`, { at: 'stumbled here', from: 1, to: 2 });
    expect(marked.body.marks).toEqual([{ at: 'stumbled here', from: 1, to: 2 }]);
    expect((await me.post(`/jobs/${job.id}/captures/${id}/marks`, { at: 'x', from: 2, to: 1 })).status).toBe(400);
  });
});

describe('a recording whose capture has just ended', () => {
  /** A stopped capture of two seconds, still rows; as its reader fetches `model`, the rows become columns. */
  async function compactedWhileRead(model: typeof Capture | typeof CaptureRow | typeof CaptureColumn, path: string) {
    const job = await me.newJob();
    const { shopId } = (await Job.findByPk(job.id))!;
    const id = uuid();
    const ended = { state: 'stopped', source: 'link', name: null, gaps: 0, endedAt: new Date(), meta: null } as const;
    await Capture.create({ id, shopId, jobId: job.id, at: 'idle', phase: 'before', ...ended });
    for (const seq of [0, 1])
      await CaptureRow.create({
        captureId: id,
        epoch: 1,
        seq,
        shopId,
        atMs: 1_000_000 + 1000 * seq,
        data: { rpm: [[0, 700 + seq]] },
      });
    const findAll = model.findAll.bind(model) as (...a: unknown[]) => Promise<unknown>;
    let met = false;
    const spy = jest.spyOn(model as typeof Capture, 'findAll').mockImplementation((async (...a: unknown[]) => {
      // Of the request alone: the server looks through its captures by itself now and then.
      const asked = inspect(a[0], { depth: 8 });
      if (met || !(asked.includes(id) || asked.includes(job.id))) return findAll(...a);
      met = true;
      if (model === Capture) {
        const found = await findAll(...a);
        await fixture.running.app.get(RecordingsService).compact(shopId, id);
        return found;
      }
      await fixture.running.app.get(RecordingsService).compact(shopId, id);
      return findAll(...a);
    }) as never);
    const r = await me.get(path.replace('JOB', job.id).replace('CAPTURE', id));
    spy.mockRestore();
    // The server may be at it by itself at the same moment: then it is its turn that is waited for.
    await until(async () => (await CaptureRow.count({ where: { captureId: id } })) === 0);
    return r;
  }

  test('is read as rows or as columns, never as neither', async () => {
    const { status, body } = await compactedWhileRead(CaptureRow, '/jobs/JOB/captures/CAPTURE/recording');
    expect([status, body.seconds, body.channels.map((c: { n: number }) => c.n)]).toEqual([200, 2, [2]]);
  });

  test('has its seconds in the list of captures and in the export', async () => {
    const list = await compactedWhileRead(Capture, '/jobs/JOB/captures');
    expect(list.body).toMatchObject([{ seconds: 2 }]);
    const whole = await compactedWhileRead(Capture, '/jobs/JOB/export');
    expect(whole.body.job.captures).toMatchObject([{ seconds: 2 }]);
  });
});

describe('a large import', () => {
  const FLAT = Float64Array.from({ length: 500_000 }, (_, i) => i / 100);
  const flat = column(new Float64Array(500_000).fill(3), FLAT);

  test('is bounded as a whole: equal samples pack to nothing and still count', async () => {
    const job = await me.newJob();
    const id = uuid();
    await begin(job.id, id);
    expect(flat.length).toBeLessThan(4000);
    const codes: number[] = [];
    for (let i = 0; i < 50; i++) codes.push((await put(job.id, id, `c${i}`, flat)).status);
    // 48 × 500,000 samples are the 24 million that one import may hold.
    expect(codes.filter((c) => c === 204)).toHaveLength(48);
    expect(codes.slice(48)).toEqual([413, 413]);
    // The same part again replaces itself and counts once.
    expect((await put(job.id, id, 'c0', flat)).status).toBe(204);
    const r = await put(job.id, id, 'one more', column(RPM));
    expect([r.status, r.body!.message]).toEqual([
      413,
      expect.stringMatching(/at most 24 million samples.*leave channels out/),
    ]);
    expect(Number((await Capture.findByPk(id))!.receivedSamples)).toBe(24_000_000);
  });

  test('goes out again column by column: the memory stays flat, the samples are all there', async () => {
    const job = await me.newJob();
    const id = uuid();
    await begin(job.id, id);
    const names = Array.from({ length: 6 }, (_, i) => `c${i}`);
    for (const n of names) await put(job.id, id, n, flat);
    const parts = Object.fromEntries(names.map((n) => [n, 1]));
    expect((await finish(job.id, id, { parts, marks: [], readings: [] })).status).toBe(201);
    const size = async (as: string) => {
      global.gc?.();
      const before = process.memoryUsage();
      let most = 0;
      let bytes = 0;
      const r = await fetch(`${fixture.base}/api/jobs/${job.id}/captures/${id}/export?as=${as}`, {
        headers: { cookie: me.cookie },
      });
      for await (const piece of r.body as unknown as AsyncIterable<Uint8Array>) {
        bytes += piece.length;
        const now = process.memoryUsage();
        most = Math.max(most, now.heapUsed - before.heapUsed, now.arrayBuffers - before.arrayBuffers);
      }
      return { bytes, most };
    };
    const json = await size('json');
    // As arrays and one text it would be 3 million pairs of numbers and 40 MB of text at once, twice over.
    expect(json.bytes).toBeGreaterThan(25e6);
    expect(json.most).toBeLessThan(120e6);
    const csv = await size('csv');
    expect(csv.bytes).toBeGreaterThan(8e6);
    expect(csv.most).toBeLessThan(120e6);
  });
});

describe('how a tool’s tables are read is the shop’s to remember', () => {
  const headers = ['Zeit', 'Drehzahl', 'Luft'].join('\u001f');
  const roles = [
    { column: 0, kind: 'time' },
    { column: 1, kind: 'channel', id: 'rpm', unit: 'rpm', from: 'rpm' },
  ];
  test('kept by one, found by another of the shop, not by another shop', async () => {
    expect((await me.post('/layouts/find', { headers })).body).toEqual({ found: null });
    expect((await me.put('/layouts', { headers, layout: 'wide', roles })).status).toBe(204);
    const again = roles.slice(0, 1);
    expect((await me.put('/layouts', { headers, layout: 'wide', roles: again })).status).toBe(204);
    const other = await new Client(() => fixture.base).signIn('duarte@linden.example', 'bench-demo-2');
    expect((await other.post('/layouts/find', { headers })).body.found).toMatchObject({ layout: 'wide', roles: again });
    const theirs = await signInToOtherShop(() => fixture.base);
    expect((await theirs.post('/layouts/find', { headers })).body).toEqual({ found: null });
  });
  test('what is no layout is refused with its field', async () => {
    const r = await me.put('/layouts', { headers, layout: 'wide', roles: [{ column: 0, kind: 'magic' }] });
    expect([r.status, r.body.errors[0].field]).toEqual([400, 'roles[0].kind']);
    expect((await me.post('/layouts/find', { headers: '' })).status).toBe(400);
  });
});
