import { connect, createServer, type Server, type Socket } from 'node:net';
import { setFlagsFromString } from 'node:v8';
import { runInNewContext } from 'node:vm';
import { afterAll, afterEach, beforeAll, describe, expect, test } from '@jest/globals';
import { v4 as uuid } from 'uuid';
import { LinksService } from '../src/links/links.service.ts';
import { Capture } from '../src/rows/captures.ts';
import { JobEvent } from '../src/rows/jobs.ts';
import { LinkLease } from '../src/rows/links.ts';
import { Client, type Fixture, signInToOtherShop, startFixture, until } from './harness.ts';

setFlagsFromString('--expose-gc');
const collect = runInNewContext('gc') as () => void;
/** What is still held once rubbish is gone, bytes: how far the process has grown says more about the machine's load. */
const held = () => {
  collect();
  const { heapUsed, external } = process.memoryUsage();
  return heapUsed + external;
};

let fixture: Fixture;
let me: Client;
let adapter: Server;
let at = '';
/** What the next adapter does to who connects. */
const quiet = (s: Socket) => s.resume();
let behave: (s: Socket) => void = quiet;
const sockets = new Set<Socket>();
let connections = 0;
beforeAll(async () => {
  adapter = createServer((s) => {
    connections++;
    sockets.add(s);
    s.on('error', () => {});
    s.on('close', () => sockets.delete(s));
    behave(s);
  });
  await new Promise<void>((r) => adapter.listen(0, '127.0.0.1', () => r()));
  at = `127.0.0.1:${(adapter.address() as { port: number }).port}`;
  fixture = await startFixture({ linkAllow: [at] });
  me = await new Client(() => fixture.base).signIn();
});
afterEach(() => {
  behave = quiet;
});
afterAll(async () => {
  await fixture.close();
  for (const s of sockets) s.destroy();
  adapter.close();
});

const start = (jobId: string, id = uuid()) => me.post(`/jobs/${jobId}/captures`, { id, phase: 'before', at: 'free' });

describe('captures', () => {
  test('six starts at once: one runs, the others are told, and the one can be stopped', async () => {
    for (let seed = 0; seed < 8; seed++) {
      const job = await me.newJob({ adapter: at });
      const replies = await Promise.all(Array.from({ length: 6 }, () => start(job.id)));
      expect([seed, replies.map((r) => r.status).sort()]).toEqual([seed, [201, 409, 409, 409, 409, 409]]);
      expect(replies.find((r) => r.status === 409)!.body.message).toMatch(/running already: stop it first/);
      const running = await Capture.findAll({ where: { jobId: job.id, state: 'running' } });
      expect(running).toHaveLength(1);
      const stopped = await me.post(`/jobs/${job.id}/captures/${running[0]!.id}/command`, { command: 'stop' });
      expect(stopped.status).toBe(200);
      expect(await Capture.count({ where: { jobId: job.id, state: 'running' } })).toBe(0);
      await me.remove(`/jobs/${job.id}/link`);
    }
  });

  test('the same start from two tablets at once is one capture', async () => {
    const job = await me.newJob({ adapter: at });
    const id = uuid();
    const replies = await Promise.all([start(job.id, id), start(job.id, id), start(job.id, id)]);
    expect(replies.some((r) => r.status === 201)).toBe(true);
    expect(await Capture.count({ where: { jobId: job.id } })).toBe(1);
    const both = await Promise.all([
      me.post(`/jobs/${job.id}/captures/${id}/command`, { command: 'stop' }),
      me.post(`/jobs/${job.id}/captures/${id}/command`, { command: 'stop' }),
    ]);
    expect(both.map((r) => r.status).sort()[0]).toBe(200);
    expect(await JobEvent.count({ where: { jobId: job.id, kind: 'capture-stopped' } })).toBe(1);
    await me.remove(`/jobs/${job.id}/link`);
  });

  test('disconnecting the adapter ends the capture that ran through it', async () => {
    const job = await me.newJob({ adapter: at });
    const { captureId } = (await start(job.id)).body;
    expect((await me.remove(`/jobs/${job.id}/link`)).status).toBe(204);
    expect((await Capture.findByPk(captureId))!.state).toBe('done');
    expect((await start(job.id)).status).toBe(201);
    await me.remove(`/jobs/${job.id}/link`);
  });

  test('an adapter that says nothing: the capture says so, instead of waiting for ever', async () => {
    const job = await me.newJob({ adapter: at });
    await start(job.id);
    const lost = await until(async () => {
      const { status } = (await me.get(`/jobs/${job.id}/captures/running`)).body;
      return status?.state === 'lost' && status;
    });
    expect(lost.reason).toMatch(/no value has come for 3 s|does not answer/);
    expect(lost.keptSeconds).toBe(0);
    await me.remove(`/jobs/${job.id}/link`);
  });
});

describe('links', () => {
  test('many requests for one adapter share one socket; closing leaves none', async () => {
    for (let trial = 0; trial < 12; trial++) {
      const job = await me.newJob({ adapter: at });
      const before = connections;
      const link = () => me.post(`/jobs/${job.id}/link`, {});
      const replies = await Promise.all([link(), link(), link(), start(job.id), link()]);
      expect([trial, replies.map((r) => r.status)]).toEqual([trial, [200, 200, 200, 201, 200]]);
      await until(() => connections > before);
      await new Promise((r) => setTimeout(r, 30));
      expect(connections - before).toBe(1);
      await Promise.all([me.remove(`/jobs/${job.id}/link`), me.remove(`/jobs/${job.id}/link`)]);
      await until(() => sockets.size === 0);
    }
    expect(fixture.running.app.get(LinksService).count).toBe(0);
  });

  test('two jobs at once on one adapter: one link stands, no socket is left over', async () => {
    const [a, b] = [await me.newJob({ adapter: at }), await me.newJob({ adapter: at })];
    const replies = await Promise.all([a, b, a, b].map((j) => me.post(`/jobs/${j.id}/link`, {})));
    expect(replies.every((r) => r.status === 200)).toBe(true);
    await until(() => sockets.size === 1);
    expect(fixture.running.app.get(LinksService).count).toBe(1);
    await Promise.all([a, b].map((j) => me.remove(`/jobs/${j.id}/link`)));
    await until(() => sockets.size === 0);
  });

  test('an adapter that floods first frames and reads nothing: bounded, dropped with its reason, the server goes on', async () => {
    behave = (s) => {
      s.pause();
      const flood = 't7E8810FF4904AAAAAAAA\r'.repeat(3000);
      const more = () => {
        while (!s.destroyed && s.write(flood));
      };
      s.on('drain', more);
      more();
    };
    const before = held();
    const job = await me.newJob({ adapter: at });
    await me.post(`/jobs/${job.id}/link`, {});
    await new Promise((r) => setTimeout(r, 3000));
    expect((await me.get('/health')).status).toBe(200);
    expect(held() - before).toBeLessThan(100e6);
    expect((await me.get(`/jobs/${job.id}/link`)).body.state).not.toBe('ready');
    await me.remove(`/jobs/${job.id}/link`);
  });

  test('junk of every kind from an adapter costs its own link only', async () => {
    behave = (s) => s.resume().write(Buffer.from(Array.from({ length: 50_000 }, (_, i) => (i * 7919) % 256)));
    const job = await me.newJob({ adapter: at });
    await me.post(`/jobs/${job.id}/link`, {});
    await new Promise((r) => setTimeout(r, 500));
    expect((await me.get('/health')).status).toBe(200);
    await me.remove(`/jobs/${job.id}/link`);
  });

  test('no line of the control channel and no byte of the bus ends the simulated vehicle', async () => {
    const { simPort, controlPort } = { simPort: fixture.sim.port, controlPort: fixture.sim.controlPort };
    const throwIn = (port: number, what: string | Buffer) =>
      new Promise<void>((resolve) => {
        const s = connect(port, '127.0.0.1', () => s.write(what));
        s.on('error', () => {});
        s.on('close', () => resolve());
        setTimeout(() => s.destroy(), 150);
      });
    const hello = JSON.stringify({ do: 'hello', token: fixture.sim.token });
    for (const line of [
      'null',
      '[]',
      '{"do":"hello","token":5}',
      '{"do":null}',
      '{',
      `${'['.repeat(4000)}`,
      'x'.repeat(200_000),
      `${hello}\n{"do":"fault","bay":1,"fault":{},"severity":[]}\n{"do":"plug","clientPort":{}}\n{"do":"degrade","bay":1,"degradation":7}\n{"do":"script","bay":1,"script":{}}`,
      `${hello}\n{"do":"ambient","bay":3,"baroKPa":"x"}\n{"do":"vehicle","bay":3,"vehicle":[]}\n{"do":"test","bay":3,"test":{}}\n{"do":"key","bay":"__proto__"}`,
    ])
      await throwIn(controlPort, `${line}\n`);
    for (const bytes of [
      't7DF8\r',
      'T'.repeat(9999),
      'C\rS6\rO\rt7DF8FFFFFFFFFFFFFFFF\rt7E08300000FFFFFFFFFF\rt7E081FFF02FFFFFFFFFF\r',
    ])
      await throwIn(simPort, bytes);
    await throwIn(simPort, Buffer.from(Array.from({ length: 20_000 }, (_, i) => (i * 31) % 256)));
    expect((await me.get('/bays')).body).toHaveLength(3);
  });

  test('a bay is one shop’s at a time: neither its panel nor its link is another’s', async () => {
    const theirs = await signInToOtherShop(() => fixture.base);
    expect((await me.post('/bays/2', { command: 'idle' })).status).toBe(200);
    const panel = await theirs.post('/bays/2', { command: 'key', on: false });
    expect([panel.status, panel.body.message]).toEqual([409, 'bay 2 is in use by another shop']);
    const job = await theirs.newJob({ adapter: 'sim:2' });
    expect((await theirs.post(`/jobs/${job.id}/link`, {})).status).toBe(409);
    // After a while without a command it is free.
    await LinkLease.update({ expiresAt: new Date(0) }, { where: { address: 'bay:2' } });
    expect((await theirs.post(`/jobs/${job.id}/link`, {})).status).toBe(200);
    expect((await me.post('/bays/2', { command: 'idle' })).status).toBe(409);
    await theirs.remove(`/jobs/${job.id}/link`);
  });
});
