import { deflateSync } from 'node:zlib';
import { afterAll, beforeAll, describe, expect, test } from '@jest/globals';
import { type CanFrame, formatCandumpLine, packFrames, type TimedFrame } from '@just-balance/core/can';
import { v4 as uuid } from 'uuid';
import { Capture, CaptureRow } from '../src/rows/captures.ts';
import { Client, type Fixture, signInToOtherShop, startFixture, until } from './harness.ts';

let fixture: Fixture;
let me: Client;
beforeAll(async () => {
  fixture = await startFixture({ sim: null });
  me = await new Client(() => fixture.base).signIn();
});
afterAll(() => fixture.close());

const START_MS = Date.UTC(2026, 4, 4, 9);
/** A second of a warm, steady idle; its numbers move as little as a good one's. */
const second = (n: number, rpm = 720) => ({
  atMs: START_MS + 1000 * n,
  data: {
    rpm: [0, 250, 500, 750].map((ms) => [ms, rpm + (ms % 500 === 0 ? 2 : -2)]),
    maf: [10, 260, 510, 760].map((ms) => [ms, 2.4 + (ms % 500 === 10 ? 0.02 : -0.02)]),
    stft1: [[20, 1.6]],
    ltft1: [[30, 6.3]],
    map: [[40, 31]],
    ect: [[50, 88]],
    iat: [[60, 24]],
    vss: [[70, 0]],
    fuelSys1: [[80, 'closed loop']],
    vbat: [[90, 14.1]],
  },
});
const seconds = (from: number, n: number) => Array.from({ length: n }, (_, i) => second(from + i));
async function recording(at = 'idle') {
  const job = await me.newJob();
  const id = uuid();
  const path = `/jobs/${job.id}/captures`;
  expect((await me.post(`${path}/spooled`, { id, at, phase: 'before' })).body).toEqual({ committed: 0 });
  const send = (from: number, list: object[]) => me.post(`${path}/${id}/seconds`, { from, seconds: list });
  const end = (n: number, more = {}) => me.post(`${path}/${id}/end`, { seconds: n, how: 'stop', events: [], ...more });
  return { job, id, path, send, end };
}

describe('a capture of a browser’s own link comes up', () => {
  test('in numbered chunks, each acknowledged, the same again harmless; then the shop comes to the reading itself', async () => {
    const { job, id, send, end } = await recording();
    expect((await send(0, seconds(0, 20))).body).toEqual({ committed: 20 });
    // The acknowledgement was lost: the same chunk again, and one that overlaps.
    expect((await send(0, seconds(0, 20))).body).toEqual({ committed: 20 });
    expect((await send(10, seconds(10, 20))).body).toEqual({ committed: 30 });
    expect((await me.get(`/jobs/${job.id}/captures`)).body).toEqual([]);
    const early = await end(60);
    expect([early.status, early.body.message]).toEqual([409, '30 of 60 seconds are up: send the rest first']);
    expect((await send(40, seconds(40, 20))).status).toBe(409);
    expect((await send(30, seconds(30, 30))).body).toEqual({ committed: 60 });
    expect((await end(60)).body).toEqual({ committed: 60 });
    const view = await me.job(job.id);
    expect(view.captures).toMatchObject([{ id, at: 'idle', source: 'link', state: 'done', seconds: 60 }]);
    expect(view.readings).toHaveLength(1);
    expect(view.readings[0]).toMatchObject({ source: 'capture', captureId: id, reading: { at: 'idle' } });
    expect(view.readings[0].reading.mafGps).toBeCloseTo(2.4, 1);
    expect(view.readings[0].reading.trims.bank1).toMatchObject({ stft: 1.6, ltft: 6.3 });
    // Once more, all of it: nothing is doubled.
    expect((await send(0, seconds(0, 20))).body).toEqual({ committed: 60 });
    expect((await end(60)).body).toEqual({ committed: 60 });
    expect((await me.job(job.id)).readings).toHaveLength(1);
    expect(await CaptureRow.count({ where: { captureId: id } })).toBe(0);
  });
  test('frames that did not count on the device stand with the recording, whatever it was; what is no count is refused', async () => {
    const setAside = { '7E9: another unit was asked': 11 };
    for (const at of ['idle', 'free']) {
      const { path, id, send, end } = await recording(at);
      await send(0, seconds(0, 40));
      for (const bad of [{ 'by hand': 1 }, { '7E9: late': -1 }, { '7E9: late': '1' }, []])
        expect([(await end(40, { setAside: bad })).status, bad]).toEqual([400, bad]);
      await end(40, { setAside });
      expect((await me.get(`${path}/${id}/recording`)).body).toMatchObject({ seconds: 40, setAside });
    }
  });
  test('what was on the device’s bus is the log of the recording; the same again doubles nothing; what is no frame of it is refused', async () => {
    const { path, id, send, end } = await recording('free');
    const frame = (canId: number, ...data: number[]): CanFrame => ({
      id: canId,
      extended: false,
      data: Uint8Array.from(data),
    });
    const bus = (n: number, frames: TimedFrame[], lost = 0) => ({
      ...second(n),
      bus: { frames: deflateSync(packFrames(frames, second(n).atMs * 1000)).toString('base64'), lost },
    });
    const at = (n: number, us: number) => second(n).atMs * 1000 + us;
    const asked = (n: number) => ({ atUs: at(n, -1500), frame: frame(0x7e0, 2, 1, 12, 0, 0, 0, 0, 0) });
    const answer = (n: number) => ({ atUs: at(n, 250_125), frame: frame(0x7e8, 4, 0x41, 12, 11, 0x40, 0, 0, 0) });
    const chunk = [bus(0, [asked(0), answer(0)]), second(1), bus(2, [asked(2), answer(2)], 7)];
    for (const [wrong, field] of [
      [{ frames: 'no base64!', lost: 0 }, /^seconds\[1\]\.bus\.frames$/],
      [{ frames: Buffer.from('no deflate').toString('base64'), lost: 0 }, /^seconds\[1\]\.bus\.frames$/],
      [{ frames: deflateSync(Buffer.from([2, 8, 1])).toString('base64'), lost: 0 }, /^seconds\[1\]\.bus\.frames$/],
      // A bomb, an identifier of no bus, a frame of another day.
      [{ frames: deflateSync(Buffer.alloc(5_000_000)).toString('base64'), lost: 0 }, /^seconds\[1\]\.bus\.frames$/],
      [bus(0, [{ atUs: at(0, 0), frame: frame(0x800) }]).bus, /^seconds\[1\]\.bus\.frames$/],
      [bus(0, [{ atUs: at(0, 86_400_000_000), frame: frame(0x7e8) }]).bus, /^seconds\[1\]\.bus\.frames$/],
      [{ ...chunk[0]!, lost: -1 }, /^seconds\[1\]\.bus/],
    ] as const) {
      const no = await send(0, [second(0), { ...second(1), bus: wrong }]);
      expect([no.status, no.body.errors[0].field]).toEqual([400, expect.stringMatching(field)]);
    }
    expect((await send(0, chunk)).body).toEqual({ committed: 3 });
    expect((await send(0, chunk)).body).toEqual({ committed: 3 });
    expect((await send(2, [chunk[2]!, bus(3, [answer(3)])])).body).toEqual({ committed: 4 });
    await end(4);
    const view = (await me.get(`${path}/${id}/recording`)).body;
    expect([view.seconds, view.onTheBus]).toEqual([4, { frames: 5, lost: 7 }]);
    const log = await fetch(`${fixture.base}/api${path}/${id}/export?as=candump`, { headers: { cookie: me.cookie } });
    const line = ({ atUs, frame: f }: TimedFrame) => formatCandumpLine(f, atUs);
    const lines = [asked(0), answer(0), asked(2), answer(2), answer(3)].map(line);
    const shown = (await log.text()).trim().split('\n');
    const [time, what] = [(l: string) => Number(/\((.*?)\)/.exec(l)![1]), (l: string) => l.replace(/\(.*?\)/, '')];
    expect(shown.map(what)).toEqual(lines.map(what));
    // A row begins at a whole millisecond.
    for (const [i, l] of shown.entries()) expect(Math.abs(time(l) - time(lines[i]!))).toBeLessThan(0.0006);
  });
  test('two chunks at once: every second once', async () => {
    const { id, send } = await recording('free');
    const answers = await Promise.all([send(0, seconds(0, 30)), send(0, seconds(0, 30)), send(0, seconds(0, 10))]);
    expect(answers.every((a) => a.status === 200)).toBe(true);
    const rows = await CaptureRow.findAll({ where: { captureId: id }, order: [['seq', 'ASC']] });
    expect(rows.map((r) => r.seq)).toEqual(rows.map((_, i) => i));
    expect((await send(0, seconds(0, 30))).body).toEqual({ committed: 30 });
  });
  test('stopped before the window was whole: the record is kept, no reading; kept as doubtful, it is one', async () => {
    const stopped = await recording();
    await stopped.send(0, seconds(0, 3));
    await stopped.end(3);
    expect((await me.job(stopped.job.id)).captures).toMatchObject([{ state: 'stopped', seconds: 3 }]);
    expect((await me.job(stopped.job.id)).readings).toEqual([]);
    const doubtful = await recording();
    await doubtful.send(0, seconds(0, 12));
    await doubtful.end(12, { how: 'keep-doubtful' });
    expect((await me.job(doubtful.job.id)).readings).toMatchObject([
      { doubtful: expect.stringContaining('kept before') },
    ]);
  });
  test('a pause on the way counts here as it did there: the window starts again after it', async () => {
    const { job, send, end } = await recording();
    await send(0, seconds(0, 10));
    await send(10, seconds(10, 8));
    await end(18, { events: [{ after: 9, kind: 'interrupted' }] });
    expect((await me.job(job.id)).readings).toEqual([]);
  });
  test('what cannot be is refused with its field; another job’s and another shop’s is not there', async () => {
    const { job, id, path, send } = await recording('free');
    const bad = await send(0, [{ atMs: START_MS, data: { rpm: [[0, Number.NaN]] } }]);
    expect(bad.status).toBe(400);
    expect(bad.body.errors[0].field).toBe('seconds[0].data.rpm');
    expect((await send(0, [{ atMs: 5, data: {} }])).body.errors[0].field).toBe('seconds[0].atMs');
    expect((await me.post(`${path}/spooled`, { id: uuid(), at: 'nowhere', phase: 'before' })).status).toBe(400);
    const other = await me.newJob();
    expect(
      (await me.post(`/jobs/${other.id}/captures/${id}/seconds`, { from: 0, seconds: seconds(0, 1) })).status,
    ).toBe(404);
    expect((await me.post(`/jobs/${other.id}/captures/spooled`, { id, at: 'free', phase: 'before' })).status).toBe(409);
    const stranger = await signInToOtherShop(() => fixture.base);
    expect(
      (await stranger.post(`/jobs/${job.id}/captures/${id}/seconds`, { from: 0, seconds: seconds(0, 1) })).status,
    ).toBe(404);
  });
  test('one that never ended stays as far as it came: acknowledged seconds are not lost', async () => {
    const { job, id, send } = await recording('free');
    await send(0, seconds(0, 5));
    await Capture.update({ createdAt: new Date(Date.now() - 8 * 86_400_000) }, { where: { id }, silent: true });
    await fixture.restart();
    const captures = await until(async () => {
      const all = (await me.job(job.id)).captures;
      return all[0]?.state === 'stopped' && all[0].seconds === 5 && all;
    });
    expect(captures).toMatchObject([{ id, state: 'stopped' }]);
  });
});

describe('a record that a browser’s own link heard', () => {
  const HEARD = [
    { asked: '0101', ecu: '7E8', payload: '410181076504' },
    { asked: '03', ecu: '7E8', payload: '43010171' },
    { asked: '0130', ecu: '7E8', payload: '413003' },
    { asked: '0600', ecu: '7E8', payload: '46000000000180' },
    { asked: '0141', ecu: '7E8', payload: '414100076541' },
  ];
  test('is read here as if it had been asked from here; without the monitors it is none', async () => {
    const job = await me.newJob();
    const id = uuid();
    const kept = await me.post(`/jobs/${job.id}/records/heard`, { id, phase: 'before', heard: HEARD });
    expect(kept.status).toBe(201);
    expect(kept.body).toMatchObject({
      id,
      source: 'link',
      lampOn: true,
      warmupsSinceClear: 3,
      freezeFrame: [],
      tests: [],
    });
    expect(kept.body.codes.map((c: { code: string; state: string }) => [c.code, c.state])).toEqual([
      ['P0171', 'stored'],
    ]);
    expect(kept.body.monitors.monitors.find((m: { id: string }) => m.id === 'evap').state).toBe('incomplete');
    expect(kept.body.cycle.monitors.find((m: { id: string }) => m.id === 'catalyst').state).toBe('incomplete');
    // The same again is the same.
    expect((await me.post(`/jobs/${job.id}/records/heard`, { id, phase: 'before', heard: HEARD })).body.id).toBe(id);
    expect((await me.job(job.id)).records).toHaveLength(1);
    const none = await me.post(`/jobs/${job.id}/records/heard`, { id: uuid(), phase: 'before', heard: HEARD.slice(1) });
    expect([none.status, none.body.errors[0].field]).toEqual([400, 'heard']);
    const odd = await me.post(`/jobs/${job.id}/records/heard`, {
      id: uuid(),
      phase: 'before',
      heard: [{ asked: 'zz', ecu: '7E8', payload: '41' }],
    });
    expect(odd.body.errors[0].field).toBe('heard[0].asked');
  });
});

describe('drive procedures and inspection rules of a shop', () => {
  const RULE = `format: just-balance/inspection-rule
version: 1
id: our-county
title: Our county
place: Lindenshire
asOf: "2026-01"
source: letter of the county office
bands:
  - { fuel: petrol, fromYear: 2000, allowed: 0 }
`;
  const file = (kind: string | undefined, text: string) =>
    me.post('/procedures/file', { id: uuid(), ...(kind ? { kind } : {}), text });
  test('each kind by itself; the same id in two kinds; faults with line and field', async () => {
    const kept = await file('rule', RULE);
    expect(kept.status).toBe(201);
    const rules = await me.get('/procedures?kind=rule');
    expect(rules.body.map((r: { procedure: { title: string } }) => r.procedure.title)).toEqual(['Our county']);
    expect((await me.get('/procedures?kind=drive')).body).toEqual([]);
    const bad = await file('rule', RULE.replace('allowed: 0', 'allowed: none'));
    expect(bad.body.message).toMatch(/^line 9, bands\[0\]\.allowed: /);
    expect((await file('rule', RULE.replace('our-county', 'us-federal'))).status).toBe(400);
    expect((await file(undefined, RULE)).status).toBe(400);
    expect((await me.get('/procedures?kind=other')).status).toBe(400);
    const ours = await fetch(`${fixture.base}/api/procedures/ours/steady-cruise?kind=drive`, {
      headers: { cookie: me.cookie },
    });
    const text = await ours.text();
    expect(text).toMatch(/^format: just-balance\/drive-procedure/);
    const drive = await file('drive', text.replace('id: steady-cruise', 'id: our-county'));
    expect(drive.status).toBe(201);
    // An engine-off step that does not stand is refused with its place.
    const rolling = text.replace('id: steady-cruise', 'id: rolling').replace('standing: true', 'engineOff: true');
    expect((await file('drive', rolling)).body.message).toMatch(/^line \d+, steps\[0\]/);
  });
});

describe('drives count for the vehicle', () => {
  test('over its jobs, oldest first; another shop’s vehicle has none', async () => {
    const job = await me.newJob();
    const vehicle = (await me.job(job.id)).vehicle;
    const data = {
      procedure: 'general',
      result: 'incomplete',
      done: ['idle'],
      broke: [],
      distanceKm: 14.2,
      minutes: 21,
      road: 'ring road',
      stillOpen: null,
    };
    const put = (body: object) => me.post(`/jobs/${job.id}/entries`, { id: uuid(), kind: 'drive', data: body });
    expect((await put(data)).status).toBe(201);
    expect((await put({ ...data, distanceKm: 'far' })).status).toBe(400);
    const drives = await me.get(`/vehicles/${vehicle.id}/drives`);
    expect(drives.body).toMatchObject([{ jobId: job.id, attempt: data }]);
    const stranger = await signInToOtherShop(() => fixture.base);
    expect((await stranger.get(`/vehicles/${vehicle.id}/drives`)).body).toEqual([]);
  });
});
