import { createServer, type Server } from 'node:net';
import { afterAll, beforeAll, describe, expect, jest, test } from '@jest/globals';
import type { LinkStatus, RecordingView } from '@just-balance/contract';
import { PLANS } from '@just-balance/core/link';
import { logDecoder } from '@just-balance/core/obd';
import { unzipSync } from 'fflate';
import { v4 as uuid } from 'uuid';
import { AdapterLink } from '../src/links/adapterLink.ts';
import { Capture, CaptureFrames, CaptureRow } from '../src/rows/captures.ts';
import { LinkLease } from '../src/rows/links.ts';
import { underNewIds } from './archiveFiles.ts';
import { bays, Client, type Fixture, serverDate, startFixture, until } from './harness.ts';

let fixture: Fixture;
let me: Client;
let deaf: Server;
let deafPort = 0;
beforeAll(async () => {
  // An adapter that takes the connection and never says a word.
  deaf = createServer((s) => s.on('error', () => {}));
  await new Promise<void>((r) => deaf.listen(0, '127.0.0.1', () => r()));
  deafPort = (deaf.address() as { port: number }).port;
  fixture = await startFixture({ linkAllow: ['127.0.0.1:9', `127.0.0.1:${deafPort}`] });
  me = await new Client(() => fixture.base).signIn();
});
afterAll(async () => {
  deaf.close();
  await fixture.close();
});

const { bay, carWith, capture, taken } = bays(() => me);

describe('a job on a simulated vehicle, over slcan', () => {
  test('the record: codes, monitors, VIN, counters, before anything is touched', async () => {
    const job = await carWith(1, null);
    const r = await me.post(`/jobs/${job.id}/records`, { id: uuid(), phase: 'before' });
    expect(r.status).toBe(201);
    const record = r.body;
    expect(record).toMatchObject({ source: 'link', codes: [], lampOn: false, vin: 'ZZZK18AB9E0004217' });
    expect(record.monitors.monitors.find((m: { id: string }) => m.id === 'evap').state).toBe('incomplete');
    expect(record.warmupsSinceClear).toBeGreaterThan(5);
    expect(record.sensors).toEqual([
      { bank: 1, sensor: 1, wide: true },
      { bank: 1, sensor: 2, wide: false },
    ]);
  });

  test('asked what it is, before there is a job: VIN, fuel, sensors, banks; the adapter is let go at once', async () => {
    await carWith(1, null);
    const said = await me.post('/adapters/identify', { adapter: 'sim:1' });
    expect(said.status).toBe(200);
    expect(said.body).toMatchObject({
      vin: 'ZZZK18AB9E0004217',
      fuel: 'petrol',
      banks: 1,
      sensors: [
        { bank: 1, sensor: 1, wide: true },
        { bank: 1, sensor: 2, wide: false },
      ],
    });
    expect(['maf', 'both', 'speed-density']).toContain(said.body.metering);
    const again = await me.post('/adapters/identify', { adapter: 'sim:1' });
    expect(again.body.vin).toBe(said.body.vin);
    const nobody = await me.post('/adapters/identify', { adapter: '127.0.0.1:9' });
    expect([nobody.status, nobody.body.message]).toEqual([503, expect.stringContaining('does not answer')]);
    expect((await me.post('/adapters/identify', { adapter: '10.0.0.9:1' })).status).toBe(400);
  });

  test('guided capture of idle and hold: committed seconds, a reading, the leak recovered', async () => {
    const job = await carWith(1, 'vac-leak', 0.4);
    expect((await capture(job.id, 'idle')).body.state).toBe('waiting');
    const idle = await taken(job.id, 'idle');
    expect(idle.reading.trims.bank1.n).toBeGreaterThan(50);
    await bay(1, 'hold', { rpm: 2500 });
    await new Promise((r) => setTimeout(r, 2000));
    await capture(job.id, 'hold-2500');
    const hold = await taken(job.id, 'hold-2500');
    const total = (x: typeof idle) => x.reading.trims.bank1.stft + x.reading.trims.bank1.ltft;
    // Unmetered air: the trim is its share of the metered air, so the products agree (derived; tool's step 0.78 %).
    const leakIdle = (total(idle) / 100) * idle.reading.mafGps;
    const leakHold = (total(hold) / 100) * hold.reading.mafGps;
    expect(Math.abs(leakIdle / 0.4 - 1)).toBeLessThan(0.2);
    expect(Math.abs(leakHold / leakIdle - 1)).toBeLessThan(0.35);
    const d = (await me.post(`/jobs/${job.id}/diagnosis`, {})).body.output;
    expect(d.causes[0].fault).toBe('vac-leak');
    expect(Math.abs(d.causes[0].severity.value / 0.4 - 1)).toBeLessThan(0.25);
    // Ended: the rows have become columns, and the export holds the same samples.
    await until(async () => (await CaptureRow.count({ where: { captureId: idle.captureId } })) === 0);
    const recording = (await me.get(`/jobs/${job.id}/captures/${idle.captureId}/recording`)).body;
    expect(recording.seconds).toBeGreaterThanOrEqual(10);
    expect(recording.gapSpans).toEqual([]);
    // Of two units each answers only what it is asked: on a loaded machine one may be late, never another’s.
    expect(Object.keys(recording.setAside).filter((why) => /another unit/.test(why))).toEqual([]);
    expect(recording.marks).toEqual([{ at: 'idle', from: expect.any(Number), to: expect.any(Number) }]);
    const [mark] = recording.marks;
    expect(mark.to - mark.from).toBeGreaterThanOrEqual(10);
    expect(mark.to).toBeLessThanOrEqual(recording.durationS + 0.1);
    const stft = recording.channels.find((c: { id: string }) => c.id === 'stft1');
    expect(stft).toMatchObject({ unit: '%', quantum: 0.78125, kind: 'number', parts: 1 });
    expect(recording.channels.find((c: { id: string }) => c.id === 'fuelSys1').kind).toBe('text');
    const exported = (await me.get(`/jobs/${job.id}/export`)).body.recordings[idle.captureId];
    const samples = exported.channels.find((c: { id: string }) => c.id === 'stft1');
    expect(samples.time).toHaveLength(stft.n);
    // The window's mean in the recording is the reading's.
    const inside = samples.value.filter(
      (_: number, i: number) => samples.time[i] >= mark.from && samples.time[i] <= mark.to,
    );
    const mean = inside.reduce((a: number, b: number) => a + b, 0) / inside.length;
    expect(Math.abs(mean - idle.reading.trims.bank1.stft)).toBeLessThan(0.4);
    await me.remove(`/jobs/${job.id}/link`);
  });

  test('a restart in the middle: the same capture goes on, every second once, the gap marked', async () => {
    const job = await carWith(2, null);
    await bay(2, 'cold');
    const started = (await capture(job.id, 'idle')).body;
    const rows = () => CaptureRow.count({ where: { captureId: started.captureId } });
    await until(async () => (await rows()) >= 3);
    await fixture.restart();
    const kept = await rows();
    await until(async () => (await rows()) > kept + 2);
    const all = await CaptureRow.findAll({ where: { captureId: started.captureId } });
    expect(new Set(all.map((r) => `${r.epoch}.${r.seq}`)).size).toBe(all.length);
    expect(new Set(all.map((r) => r.epoch)).size).toBe(2);
    const row = (await Capture.findByPk(started.captureId))!;
    expect([row.state, row.gaps]).toEqual(['running', 1]);
    const kinds = (await me.get(`/jobs/${job.id}/export`)).body.job.events.map((e: { kind: string }) => e.kind);
    expect(kinds).toContain('capture-resumed');
    expect((await capture(job.id, 'idle')).status).toBe(409);
    await bay(2, 'warm');
    await taken(job.id, 'idle');
    await me.remove(`/jobs/${job.id}/link`);
  });

  test('the database goes away while capturing: seconds wait, then all are there, none twice', async () => {
    const job = await carWith(2, null);
    await bay(2, 'cold');
    const started = (await capture(job.id, 'idle')).body;
    const rows = () => CaptureRow.count({ where: { captureId: started.captureId } }).catch(() => 0);
    await until(async () => (await rows()) >= 2);
    await fixture.stopDatabase();
    await new Promise((r) => setTimeout(r, 4000));
    await fixture.startDatabase();
    await until(async () => (await rows()) >= 8);
    const all = await CaptureRow.findAll({ where: { captureId: started.captureId }, order: [['seq', 'ASC']] });
    expect(all.map((r) => r.seq)).toEqual(all.map((_, i) => i));
    await me.post(`/jobs/${job.id}/captures/${started.captureId}/command`, { command: 'stop' });
    expect((await Capture.findByPk(started.captureId))!.state).toBe('stopped');
    await me.remove(`/jobs/${job.id}/link`);
  });

  test('key off in the middle: the capture says so, and takes up again by itself', async () => {
    const job = await carWith(1, null);
    await capture(job.id, 'idle');
    await bay(1, 'key', { on: false });
    const lost = await until(async () => {
      const s = (await me.get(`/jobs/${job.id}/captures/running`)).body.status;
      return s?.state === 'lost' && s;
    });
    expect(lost.reason).toMatch(/does not answer: key on\?/);
    await bay(1, 'idle');
    await bay(1, 'warm');
    await taken(job.id, 'idle');
  });

  test('a free recording: everything until stopped, or one channel alone; no reading comes of it', async () => {
    const job = await carWith(1, null);
    const start = (more = {}) =>
      me.post(`/jobs/${job.id}/captures`, { id: uuid(), phase: 'before', at: 'free', ...more });
    expect((await start({ only: 'warp' })).body.message).toMatch(/only: no parameter carries warp/);
    const { captureId } = (await start({ only: 'maf' })).body;
    const running = async () => (await me.get(`/jobs/${job.id}/captures/running`)).body.status;
    await until(async () => (await running()).keptSeconds >= 3);
    const command = (c: string) => me.post(`/jobs/${job.id}/captures/${captureId}/command`, { command: c });
    expect((await command('keep-doubtful')).status).toBe(400);
    expect((await command('pause')).body.state).toBe('paused');
    const { keptSeconds } = await running();
    await new Promise((r) => setTimeout(r, 3200));
    expect((await running()).keptSeconds).toBe(keptSeconds);
    await command('resume');
    await until(async () => (await running()).keptSeconds >= keptSeconds + 2);
    await command('stop');
    await until(async () => (await CaptureRow.count({ where: { captureId } })) === 0);
    const r = (await me.get(`/jobs/${job.id}/captures/${captureId}/recording`)).body;
    expect(r.channels.map((c: { id: string }) => c.id)).toEqual(['maf']);
    // Alone it comes faster than among a dozen, and the pause is a marked gap.
    expect(r.channels[0].n / r.seconds).toBeGreaterThan(20);
    expect(r.gapSpans).toHaveLength(1);
    const { readings, captures } = await me.job(job.id);
    expect([readings, captures[0].state]).toEqual([[], 'done']);
    await me.remove(`/jobs/${job.id}/link`);
  });

  test('what was on the bus is kept beside the values, is the log of the recording, travels, and goes with the customer', async () => {
    const job = await carWith(1, null);
    const started = await me.post(`/jobs/${job.id}/captures`, { id: uuid(), phase: 'before', at: 'free' });
    const { captureId } = started.body;
    const at = `/jobs/${job.id}/captures/${captureId}`;
    await until(async () => (await me.get(`/jobs/${job.id}/captures/running`)).body.status.keptSeconds >= 7);
    await me.post(`${at}/command`, { command: 'stop' });
    await until(async () => (await CaptureRow.count({ where: { captureId } })) === 0);
    const { onTheBus } = await until(async () => {
      const view = (await me.get(`${at}/recording`)).body as RecordingView;
      return view.onTheBus && view;
    });
    const whole = await fetch(`${fixture.base}/api${at}/export?as=candump`, { headers: { cookie: me.cookie } });
    const log = await whole.text();
    const lines = log.trim().split('\n');
    expect([lines.length, onTheBus!.lost]).toEqual([onTheBus!.frames, 0]);
    // Questions to the engine and its answers, in the order of their times.
    expect(lines.filter((l) => / 7E0#/.test(l)).length).toBeGreaterThan(20);
    const times = lines.map((l) => Number(/\((\d+\.\d+)\)/.exec(l)![1]));
    expect(times).toEqual([...times].sort((a, b) => a - b));
    // Every kept value of engine speed was on the bus, in this order.
    const decoder = logDecoder();
    const said = lines.flatMap((l) => decoder.line(l)).flatMap((v) => (v.name === 'rpm' ? [v.value] : []));
    const json = await fetch(`${fixture.base}/api${at}/export?as=json`, { headers: { cookie: me.cookie } });
    const capture = (await json.json()) as { channels: { id: string; value: number[] }[] };
    const kept = capture.channels.find((c) => c.id === 'rpm')!.value;
    let next = 0;
    for (const v of kept) next = said.indexOf(v, next) + 1 || Number.NaN;
    expect([kept.length > 10, Number.isNaN(next)]).toEqual([true, false]);
    await me.remove(`/jobs/${job.id}/link`);
    // Into another job by its archive, under ids of its own, and out again.
    const zip = await fetch(`${fixture.base}/api/jobs/${job.id}/archive`, { headers: { cookie: me.cookie } });
    const { body, idOf } = underNewIds(unzipSync(new Uint8Array(await zip.arrayBuffer())));
    const taken = await fetch(`${fixture.base}/api/archives`, {
      method: 'POST',
      headers: { cookie: me.cookie, 'content-type': 'application/zip' },
      body,
    });
    expect([taken.status, await taken.text()]).toEqual([200, expect.stringContaining(idOf(job.id))]);
    const copy = `/jobs/${idOf(job.id)}/captures/${idOf(captureId)}`;
    const again = await fetch(`${fixture.base}/api${copy}/export?as=candump`, { headers: { cookie: me.cookie } });
    expect(await again.text()).toBe(log);
    // The VIN may have been asked for: with the customer it goes.
    const rows = (id: string) => CaptureFrames.count({ where: { captureId: id } });
    expect([(await rows(captureId)) > 0, (await rows(idOf(captureId))) > 0]).toEqual([true, true]);
    const erase = await me.post(`/vehicles/${job.vehicle.id}/erase`, { reason: 'asked to be forgotten' });
    expect([erase.status, await rows(captureId)]).toEqual([200, 0]);
    const left = (await me.get(`${at}/recording`)).body as RecordingView;
    expect([left.onTheBus, left.channels.length > 3]).toEqual([null, true]);
  });

  test('the host’s clock is set by an hour while it records: the seconds go on as they came, no gap', async () => {
    const job = await carWith(1, null);
    const start = { id: uuid(), phase: 'before', at: 'free' };
    const { captureId } = (await me.post(`/jobs/${job.id}/captures`, start)).body;
    const kept = async () => (await me.get(`/jobs/${job.id}/captures/running`)).body.status.keptSeconds;
    await until(async () => (await kept()) >= 2);
    const before = await kept();
    const real = serverDate.now.bind(serverDate);
    const clock = jest.spyOn(serverDate, 'now').mockImplementation(() => real() + 3_600_000);
    await until(async () => (await CaptureRow.count({ where: { captureId } })) >= before + 2).finally(() =>
      clock.mockRestore(),
    );
    await until(async () => (await kept()) >= before + 4);
    await me.post(`/jobs/${job.id}/captures/${captureId}/command`, { command: 'stop' });
    await until(async () => (await CaptureRow.count({ where: { captureId } })) === 0);
    const r = (await me.get(`/jobs/${job.id}/captures/${captureId}/recording`)).body;
    expect(r.gapSpans).toEqual([]);
    expect(r.durationS).toBeLessThan(r.seconds + 3);
    await me.remove(`/jobs/${job.id}/link`);
  });

  test('paused or stopped while a second is being written: it stays paused, it stays stopped', async () => {
    const job = await carWith(1, null);
    const { captureId } = (await capture(job.id, 'idle')).body;
    const running = async () => (await me.get(`/jobs/${job.id}/captures/running`)).body.status;
    const command = (c: string) => me.post(`/jobs/${job.id}/captures/${captureId}/command`, { command: c });
    await until(async () => (await running()).keptSeconds >= 1);
    /** The next second's row waits at the database until it is let go. */
    const hold = async () => {
      let release = () => {};
      const released = new Promise<void>((r) => {
        release = r;
      });
      const create = CaptureRow.create.bind(CaptureRow);
      let written: Promise<unknown> | null = null;
      const spy = jest.spyOn(CaptureRow, 'create').mockImplementationOnce((async (...a: Parameters<typeof create>) => {
        await released;
        written = create(...a);
        return written;
      }) as never);
      await until(async () => spy.mock.calls.length > 0);
      return async () => {
        release();
        await until(async () => written !== null);
        await written;
        spy.mockRestore();
        await new Promise((r) => setTimeout(r, 300));
      };
    };
    let letGo = await hold();
    const paused = (await command('pause')).body;
    expect(paused.state).toBe('paused');
    await letGo();
    // The second that was on its way is kept and counted; the capture is as paused as it was.
    expect(await running()).toMatchObject({ state: 'paused', keptSeconds: paused.keptSeconds + 1 });
    await command('resume');
    letGo = await hold();
    await command('stop');
    await letGo();
    expect(await running()).toBeNull();
    expect((await Capture.findByPk(captureId))!.state).toBe('stopped');
    await me.remove(`/jobs/${job.id}/link`);
  });

  test('clearing: not before everything is on record, not while the engine runs; what is left is read again and kept', async () => {
    const job = await carWith(1, 'ethanol-high', 45);
    const clear = (body: object = { id: uuid(), understood: true }) => me.post(`/jobs/${job.id}/records/clear`, body);
    expect((await clear({ id: uuid() })).status).toBe(400);
    const early = await clear();
    expect([early.status, early.body.message]).toEqual([
      409,
      expect.stringMatching(/codes, freeze frame and monitors and readings/),
    ]);
    await me.post(`/jobs/${job.id}/records`, { id: uuid(), phase: 'before' });
    expect((await clear()).body.message).toMatch(/readings with the trims/);
    const reading = { at: 'idle', trims: { bank1: { stft: 1, ltft: 12 } } };
    await me.post(`/jobs/${job.id}/readings`, { id: uuid(), phase: 'before', reading });
    const running = await clear();
    expect([running.status, running.body.message]).toEqual([409, expect.stringMatching(/the engine runs/)]);
    await bay(1, 'koeo');
    const rpm = async () => (await me.get('/bays')).body.find((b: { bay: number }) => b.bay === 1).rpm;
    await until(async () => (await rpm()) === 0);
    const id = uuid();
    const done = await clear({ id, understood: true });
    expect(done.body).toMatchObject({
      id,
      kind: 'reset',
      data: { refused: null, codesAfter: 0, adaptationKept: false },
    });
    expect(done.body.data.before[0].longPct).toBeGreaterThan(3);
    expect(done.body.data.after).toEqual([{ bank: 1, longPct: 0 }]);
    expect(done.body.data.openedMonitors.length).toBeGreaterThan(2);
    // The same again, as a tablet repeats it, clears nothing more.
    expect((await clear({ id, understood: true })).body).toEqual(done.body);
    const { records, entries } = await me.job(job.id);
    expect(records.map((r: { phase: string }) => r.phase)).toEqual(['before', 'before', 'after']);
    expect(entries).toHaveLength(1);
    const { events } = (await me.get(`/jobs/${job.id}/export`)).body.job;
    expect(events.map((e: { kind: string }) => e.kind)).toContain('cleared');
    // A client cannot write down a clearing that never was.
    const forged = { id: uuid(), kind: 'reset', data: done.body.data };
    expect((await me.post(`/jobs/${job.id}/entries`, forged)).status).toBe(400);
    await me.remove(`/jobs/${job.id}/link`);
    await bay(1, 'repair');
    await bay(1, 'idle');
  });

  test('another unit than the one found is the engine’s: asked from then on, kept over a new link; found again on request', async () => {
    const job = await carWith(2, null);
    await bay(2, 'idle');
    const link = `/jobs/${job.id}/link`;
    expect((await me.post(`${link}/engine`, { unit: '7E9' })).status).toBe(409);
    const engine = async () =>
      ((await me.get(link)).body as LinkStatus).units?.map((u) => `${u.ecu}${u.engine ? ' engine' : ''}`);
    await me.post(link, {});
    await until(async () => (await engine())?.length === 2);
    expect(await engine()).toEqual(['7E8 engine', '7E9']);
    expect((await me.post(`${link}/engine`, { unit: '7DF' })).status).toBe(400);
    expect((await me.post(`${link}/engine`, { unit: '7E9' })).status).toBe(200);
    expect(await engine()).toEqual(['7E8', '7E9 engine']);
    await me.remove(link);
    await me.post(link, {});
    await until(async () => (await engine())?.length === 2);
    expect(await engine()).toEqual(['7E8', '7E9 engine']);
    expect((await me.post(`${link}/engine`, {})).status).toBe(200);
    expect(await engine()).toEqual(['7E8 engine', '7E9']);
    await me.remove(link);
  });

  test('one adapter, one capture: another job is told', async () => {
    const a = await carWith(2, null);
    const b = await me.newJob({ adapter: 'sim:2' });
    await bay(2, 'cold');
    await capture(a.id, 'idle');
    const r = await capture(b.id, 'idle');
    expect([r.status, r.body.message]).toEqual([409, 'adapter: sim:2 is capturing for another job']);
    // Held by a lease in the database: a second server would be refused too.
    expect(await LinkLease.count({ where: { address: 'sim:2' } })).toBe(1);
    await me.remove(`/jobs/${a.id}/link`);
  });
});

describe('adapters that are not there', () => {
  test('the reason stays said while the next connection is tried', async () => {
    const said: [string, string][] = [];
    const state = (s: string, detail: string) => void said.push([s, detail]);
    const link = new AdapterLink('127.0.0.1', 9, PLANS.mixture, { samples() {}, state }, async () => {});
    link.open();
    await until(async () => said.filter(([s]) => s === 'lost').length > 1);
    link.close();
    expect(said[0]).toEqual(['connecting', '127.0.0.1:9']);
    for (const [, detail] of said.slice(1)) expect(detail).toMatch(/no adapter at 127\.0\.0\.1:9/);
  });
  test('an absent one, a deaf one, one that is not allowed: said, nothing stored, by hand still possible', async () => {
    const record = async (adapter: string) => {
      const job = await me.newJob({ adapter });
      const r = await me.post(`/jobs/${job.id}/records`, { id: uuid(), phase: 'before' });
      expect((await me.get(`/jobs/${job.id}/records`)).body).toEqual([]);
      return [r.status, r.body.message];
    };
    expect(await record('127.0.0.1:9')).toEqual([
      503,
      expect.stringMatching(/no adapter at 127\.0\.0\.1:9.*Nothing was recorded/),
    ]);
    expect(await record(`127.0.0.1:${deafPort}`)).toEqual([
      503,
      expect.stringMatching(/does not answer.*Nothing was recorded/),
    ]);
    expect(await record('192.168.1.5:23')).toEqual([400, expect.stringMatching(/not allowed.*JB_LINK_ALLOW/)]);
    expect(await record('sim:99')).toEqual([503, expect.any(String)]);
  });
  test('the list of adapters is the simulated bays and what the lead allowed', async () => {
    const list = (await me.get('/adapters')).body;
    expect(list.map((a: { address: string }) => a.address)).toEqual(
      expect.arrayContaining(['sim:1', 'sim:2', '127.0.0.1:9']),
    );
  });
});
