import 'fake-indexeddb/auto';
import { deflateSync, inflateSync } from 'node:zlib';
import { afterEach, beforeEach, describe, expect, jest, test } from '@jest/globals';
import { type CanFrame, MOST_IN_BATCH, unpackFrames } from '@just-balance/core/can';
import { beginRun } from '@just-balance/core/capture';
import { PLANS, type Sample, type ShellHandlers, unpackSecond } from '@just-balance/core/link';
import { SlcanPort } from '@just-balance/vehicle';
import { offlineStore } from '../src/data/offlineRecordings.ts';
import type { OfflineRecording } from '../src/data/offlineTypes.ts';
import { type OfflineStore, Uploader } from '../src/data/Uploader.ts';
import { DeviceLink, secondOf } from '../src/link/DeviceLink.ts';
import { SerialLink } from '../src/link/SerialLink.ts';
import type { SerialPort } from '../src/link/serial.ts';

/** A store in memory that is as strict as the real one: what comes out is a copy. */
function memory(): OfflineStore & { all: Map<string, OfflineRecording> } {
  const all = new Map<string, OfflineRecording>();
  const kept = new Map<string, { atMs: number; data: Record<string, [number, number | string][]> }[]>();
  return {
    all,
    recordings: async () => structuredClone([...all.values()]),
    add: async (s) => void all.set(s.id, structuredClone(s)),
    async update(id, change) {
      const now = all.get(id);
      if (now) all.set(id, { ...now, ...change(now) });
    },
    async keep(id, second) {
      const now = all.get(id)!;
      kept.set(id, [...(kept.get(id) ?? []), structuredClone(second)]);
      all.set(id, { ...now, seconds: now.seconds + 1 });
    },
    seconds: async (id, from, most) =>
      (kept.get(id) ?? [])
        .slice(from, most === undefined ? undefined : from + most)
        .map((s, i) => ({ spool: id, seq: from + i, ...s })),
    async remove(id) {
      all.delete(id);
      kept.delete(id);
    },
  };
}

const OFFLINE: OfflineRecording = {
  id: 's1',
  accountId: 'a1',
  jobId: 'j1',
  at: 'free',
  phase: 'before',
  coach: null,
  startedAtMs: 1,
  seconds: 0,
  sent: 0,
  begun: false,
  events: [],
  ended: null,
  refused: null,
};
const second = (n: number) => ({
  atMs: 1_700_000_000_000 + 1000 * n,
  data: { rpm: [[0, 700 + n]] as [number, number][] },
});

describe('what is on this device goes up', () => {
  /** A shop that commits what comes in order; answers are spoilt as `spoil` says. */
  function shop(
    store: OfflineStore,
    spoil: (n: number, path: string) => 'lost' | 'later' | 'broken' | null = () => null,
  ) {
    const rows: object[] = [];
    const asked: string[] = [];
    const arrived: string[] = [];
    let calls = 0;
    const timers: (() => void)[] = [];
    const uploader = new Uploader({
      store,
      async post(_, { path }, body) {
        asked.push(path);
        const wrong = spoil(calls++, path);
        if (wrong === 'later') return { kind: 'later' };
        if (wrong === 'broken') return { kind: 'refused', reason: 'the shop says no' };
        if (path.endsWith('/seconds')) {
          const { from, seconds } = body as { from: number; seconds: object[] };
          if (from > rows.length) return { kind: 'refused', reason: 'a gap' };
          rows.push(...seconds.slice(rows.length - from));
        }
        // Committed, and the answer lost on the way.
        if (wrong === 'lost') return { kind: 'later' };
        return { kind: 'done', answer: { committed: rows.length } };
      },
      later: (f) => {
        timers.push(f);
        return () => void timers.splice(timers.indexOf(f), 1);
      },
      alone: (f) => f(),
      arrived: (s) => void arrived.push(s.id),
    });
    const untilQuiet = async () => {
      for (let f = timers.shift(); f; f = timers.shift()) {
        f();
        await uploader.flush();
      }
    };
    return { uploader, rows, asked, arrived, untilQuiet };
  }
  async function filled(n: number, more: Partial<OfflineRecording> = {}) {
    const store = memory();
    await store.add({ ...OFFLINE, ...more });
    for (let i = 0; i < n; i++) await store.keep('s1', second(i));
    return store;
  }

  test('begun, in chunks, ended; only then is it gone from here', async () => {
    const store = await filled(70, { ended: 'stop' });
    const { uploader, rows, asked, arrived } = shop(store);
    await uploader.useAccount('a1');
    expect(asked.map((p) => p.split('/').at(-1))).toEqual(['spooled', 'seconds', 'seconds', 'seconds', 'end']);
    expect(rows).toHaveLength(70);
    expect([arrived, store.all.size, uploader.waiting()]).toEqual([['s1'], 0, []]);
  });
  test('what was on the bus goes with its second, as text', async () => {
    const store = await filled(1, { ended: 'stop' });
    const frames = Uint8Array.from({ length: 20_000 }, (_, i) => i % 251);
    await store.keep('s1', { ...second(1), bus: { frames, lost: 3 } });
    const { uploader, rows } = shop(store);
    await uploader.useAccount('a1');
    expect(rows).toEqual([
      second(0),
      { ...second(1), bus: { frames: Buffer.from(frames).toString('base64'), lost: 3 } },
    ]);
  });
  test('answers lost, servers away: every second once and in order, whatever is lost', async () => {
    for (let lost = 0; lost < 6; lost++) {
      const store = await filled(65, { ended: 'stop' });
      const { uploader, rows, arrived, untilQuiet } = shop(store, (n) =>
        n === lost ? 'lost' : n === lost + 2 ? 'later' : null,
      );
      await uploader.useAccount('a1');
      await untilQuiet();
      expect(rows).toEqual(Array.from({ length: 65 }, (_, i) => second(i)));
      expect(arrived).toEqual(['s1']);
    }
  });
  test('a shop that takes seconds and has no more than before is asked again later, not for ever in one breath', async () => {
    const store = await filled(5, { ended: 'stop' });
    let asked = 0;
    const timers: (() => void)[] = [];
    const uploader = new Uploader({
      store,
      post: async () => {
        asked++;
        return { kind: 'done', answer: { committed: 0 } };
      },
      later: (f) => {
        timers.push(f);
        return () => {};
      },
      alone: (f) => f(),
      arrived: () => {},
    });
    await uploader.useAccount('a1');
    expect([asked < 5, timers.length, store.all.size]).toEqual([true, 1, 1]);
  });
  test('while it goes on nothing ends; another account’s stays; a refusal is said and waits for a person', async () => {
    const going = await filled(5);
    const { uploader, rows, asked } = shop(going);
    await uploader.useAccount('a2');
    expect([asked, uploader.waiting()]).toEqual([[], []]);
    await uploader.useAccount('a1');
    expect([rows.length, going.all.get('s1')!.sent]).toEqual([5, 5]);
    const refused = await filled(5, { ended: 'stop' });
    let no = true;
    const s = shop(refused, () => (no ? 'broken' : null));
    await s.uploader.useAccount('a1');
    expect(s.uploader.waiting()[0]!.refused).toBe('the shop says no');
    expect(refused.all.get('s1')!.seconds).toBe(5);
    no = false;
    await s.uploader.tryAgain(s.uploader.waiting()[0]!);
    expect([s.rows.length, s.arrived]).toEqual([5, ['s1']]);
  });
});

describe('the store of this browser', () => {
  test('seconds count up with their number; an update and a second at once both hold; gone is gone', async () => {
    await offlineStore.add(OFFLINE);
    await Promise.all([
      offlineStore.keep('s1', second(0)),
      offlineStore.update('s1', () => ({ begun: true })),
      offlineStore.keep('s1', second(1)),
      offlineStore.update('s1', (s) => ({ sent: s.seconds })),
    ]);
    const [now] = await offlineStore.recordings();
    expect([now!.seconds, now!.begun]).toEqual([2, true]);
    expect((await offlineStore.seconds('s1', 0)).map((s) => s.seq)).toEqual([0, 1]);
    expect(await offlineStore.seconds('s1', 1, 1)).toHaveLength(1);
    await offlineStore.remove('s1');
    expect([await offlineStore.recordings(), await offlineStore.seconds('s1', 0)]).toEqual([[], []]);
  });
});

describe('the link of this device', () => {
  let handlers: ShellHandlers;
  let tick: () => void;
  let us = 1_700_000_000_000_000;
  let aside: Record<string, number> = {};
  let behindMs = 0;
  let breaks = false;
  const plans: string[] = [];
  const chosen: (string | null)[] = [];
  function link(store = memory()) {
    let id = 0;
    const own = new DeviceLink('j1', {
      store,
      shell: (h) => {
        handlers = h;
        return {
          open: async () => {},
          poll: (p) => void plans.push(p.id),
          ask: async () => [],
          choose: (ecu) => void chosen.push(ecu),
          close: () => {},
          get setAside() {
            return aside;
          },
        };
      },
      newId: () => `c${++id}`,
      nowUs: () => us,
      offsetMs: () => behindMs,
      every: (f) => {
        tick = f;
        return () => {};
      },
      deflate: async (bytes) => {
        if (breaks) throw new Error('no stream');
        return deflateSync(bytes);
      },
      flush: () => {},
    });
    handlers.state('ready', '30 parameters', []);
    return { own, store };
  }
  /** A second of a good idle. */
  const idle = async (n = 1) => {
    for (let i = 0; i < n; i++) {
      const samples: Sample[] = [];
      for (const ms of [0, 250, 500, 750])
        samples.push(
          { channel: 'rpm', atUs: us + ms * 1000, value: 720 + (ms % 500 ? 2 : -2) },
          { channel: 'maf', atUs: us + ms * 1000, value: 2.4 },
        );
      for (const [channel, value] of [
        ['ect', 88],
        ['vss', 0],
        ['stft1', 2],
        ['ltft1', 6],
        ['map', 31],
        ['fuelSys1', 'closed loop'],
      ] as const)
        samples.push({ channel, atUs: us + 800_000, value });
      handlers.samples(samples);
      us += 1_000_000;
      tick();
      await new Promise((r) => setTimeout(r, 0));
    }
  };
  const car = { vehicle: { metering: 'maf', fuel: 'petrol' } as const, ambient: {} };
  const free = { at: 'free' as const, run: beginRun('free', car) };
  const begin = {
    accountId: 'a1',
    jobId: 'j1',
    at: 'idle' as const,
    phase: 'before' as const,
    coach: null,
    run: beginRun('idle', car),
    plan: PLANS.mixture,
  };

  test('a guided capture ends by itself; every second is on disk before it counts', async () => {
    const { own, store } = link();
    await own.start(begin);
    await idle(3);
    expect(own.state.capture).toMatchObject({ at: 'idle', keptSeconds: 3 });
    expect(store.all.get('c1')!.seconds).toBe(3);
    await idle(60);
    expect([own.state.recording, own.state.capture!.state]).toEqual([null, 'done']);
    expect(store.all.get('c1')!.ended).toBe('stop');
    await expect(own.start({ ...begin, ...free })).resolves.toBeUndefined();
    await expect(own.start(begin)).rejects.toThrow(/running already/);
  });
  test('frames that do not count are counted for the recording alone, over a reload too', async () => {
    const [late, other] = ['7E8: late: it answers a question that was given up', '7E9: another unit was asked'];
    aside = { [late]: 4 };
    const { own, store } = link();
    await own.start({ ...begin, ...free });
    aside = { [late]: 5, [other]: 2 };
    await idle(5);
    expect(store.all.get('c1')!.setAside).toEqual({ [late]: 1, [other]: 2 });
    // The page is loaded again: its link counts from nothing.
    aside = {};
    const again = link(store);
    await again.own.resume({ ...store.all.get('c1')! }, free.run, PLANS.mixture);
    aside = { [other]: 3 };
    await again.own.command('stop');
    expect(store.all.get('c1')).toMatchObject({ ended: 'stop', setAside: { [late]: 1, [other]: 5 } });
    aside = {};
  });
  test('a tablet whose clock is behind keeps the shop’s time, by one offset for a whole recording', async () => {
    behindMs = 600_000;
    const { own, store } = link();
    const begunUs = us;
    await own.start({ ...begin, ...free });
    await idle(2);
    // Another offset is measured meanwhile.
    behindMs = 300_000;
    await idle(2);
    const kept = await store.seconds('c1', 0);
    expect(kept.map((s) => s.atMs - begunUs / 1000)).toEqual([600_000, 601_000, 602_000, 603_000]);
    expect(store.all.get('c1')!.startedAtMs).toBe(begunUs / 1000 + 600_000);
    behindMs = 0;
  });
  test('a lost adapter is a gap on both sides; a reload takes it up where it was', async () => {
    const { own, store } = link();
    await own.start({ ...begin, ...free, coach: 'general' });
    await idle(4);
    handlers.state('lost', 'unplugged', []);
    handlers.state('ready', 'again', []);
    await idle(2);
    expect(store.all.get('c1')!.events).toEqual([{ after: 4, kind: 'interrupted' }]);
    // The page is gone with its open second.
    const [recording] = await store.recordings();
    const again = link(store).own;
    expect(await again.resume(recording!, free.run, PLANS.road)).toHaveLength(6);
    expect(again.state.capture).toMatchObject({ state: 'capturing', at: 'free' });
    expect(plans.at(-1)).toBe('road');
    await idle(2);
    await again.command('stop');
    expect(store.all.get('c1')).toMatchObject({ seconds: 8, ended: 'stop' });
  });
  test('paused: nothing is kept meanwhile; kept as doubtful says so', async () => {
    const { own, store } = link();
    await own.start(begin);
    await idle(2);
    await own.command('pause');
    expect(own.state.capture).toMatchObject({ state: 'paused' });
    await idle(3);
    expect(store.all.get('c1')!.seconds).toBe(2);
    await own.command('resume');
    await idle(2);
    await own.command('keep-doubtful');
    expect(store.all.get('c1')).toMatchObject({ seconds: 4, ended: 'keep-doubtful' });
    expect(own.state.capture!.state).toBe('done');
  });
  test('a device that cannot keep a second says so, and keeps it with the next', async () => {
    const { own, store } = link();
    await own.start({ ...begin, ...free });
    const keep = store.keep;
    store.keep = async () => Promise.reject(new Error('full'));
    await idle(1);
    expect(own.state.status.detail).toMatch(
      /^what comes in is not kept: this device .*; it is tried again every second$/,
    );
    store.keep = keep;
    await idle(1);
    // Both seconds, in one.
    expect(store.all.get('c1')!.seconds).toBe(1);
    expect((await store.seconds('c1', 0))[0]!.data.rpm).toHaveLength(8);
    // Away for a minute and more: in pieces that the shop takes.
    store.keep = async () => Promise.reject(new Error('full'));
    await idle(70);
    store.keep = keep;
    await idle(1);
    const later = (await store.seconds('c1', 0)).slice(1);
    expect(later.map((s) => s.data.rpm!.length)).toEqual([30, 30, 11].map((s) => 4 * s));
    for (const s of later)
      expect(Math.max(...Object.values(s.data).flatMap((l) => l.map(([ms]) => ms)))).toBeLessThan(30_001);
  });
  test('what was on the bus lies beside the seconds: packed, bounded, given up before a value is', async () => {
    behindMs = 600_000;
    const { own, store } = link();
    const frame = (id: number, ...data: number[]): CanFrame => ({ id, extended: false, data: Uint8Array.from(data) });
    const [asked, answer] = [frame(0x7df, 2, 1, 12), frame(0x7e8, 4, 0x41, 12, 11, 64)];
    // Before the recording, and while it is paused: of no recording.
    handlers.frames!([asked], us);
    await own.start({ ...begin, ...free });
    const begun = us;
    for (let i = 0; i < 2; i++) {
      handlers.frames!([asked], us - 2000);
      handlers.frames!([answer], us);
      await idle(1);
    }
    const busOf = async (i: number) => (await store.seconds('c1', i, 1))[0]!.bus!;
    const read = async (i: number) => {
      const { atMs } = (await store.seconds('c1', i, 1))[0]!;
      return [...unpackFrames(inflateSync((await busOf(i)).frames), atMs * 1000)];
    };
    const shopUs = (at: number) => at + 600_000_000;
    expect(await read(1)).toEqual([
      { atUs: shopUs(begun + 1_000_000 - 2000), frame: asked },
      { atUs: shopUs(begun + 1_000_000), frame: answer },
    ]);
    await own.command('pause');
    handlers.frames!([asked], us);
    await own.command('resume');
    // More than is kept, and what lies too far back: counted.
    handlers.frames!([asked], us - 60_000_000);
    handlers.frames!(
      Array.from({ length: MOST_IN_BATCH + 6 }, () => answer),
      us,
    );
    await idle(1);
    expect([(await read(2)).length, (await busOf(2)).lost]).toEqual([MOST_IN_BATCH - 1, 8]);
    // A device that cannot pack keeps the values all the same, and says with the next how many frames there were.
    breaks = true;
    handlers.frames!([asked, answer], us);
    await idle(1);
    breaks = false;
    const [plain] = await store.seconds('c1', 3, 1);
    expect([plain!.bus, plain!.data.rpm!.length]).toEqual([undefined, 4]);
    handlers.frames!([asked], us);
    await idle(1);
    expect([(await read(4)).length, (await busOf(4)).lost]).toEqual([1, 2]);
    // One that would not keep the second keeps its frames with the next.
    const keep = store.keep;
    store.keep = async () => Promise.reject(new Error('full'));
    handlers.frames!([asked], us);
    await idle(1);
    store.keep = keep;
    handlers.frames!([answer], us);
    await idle(1);
    expect((await read(5)).map((f) => f.frame.id)).toEqual([0x7df, 0x7e8]);
    behindMs = 0;
  });
  test('a second as it is kept and as it is read again: in time order, whole ms', () => {
    const batch: Sample[] = [
      { channel: 'rpm', atUs: 1_700_000_000_000_400, value: 700 },
      { channel: 'maf', atUs: 1_700_000_000_100_000, value: 2.5 },
      { channel: 'rpm', atUs: 1_700_000_000_250_000, value: 702 },
    ];
    const kept = secondOf(batch);
    expect(kept.data).toEqual({
      rpm: [
        [0, 700],
        [250, 702],
      ],
      maf: [[100, 2.5]],
    });
    expect(unpackSecond(kept).map((s) => s.channel)).toEqual(['rpm', 'maf', 'rpm']);
    expect(secondOf(unpackSecond(kept))).toEqual(kept);
  });
});

describe('a serial port', () => {
  beforeEach(() => void jest.useFakeTimers());
  afterEach(() => void jest.useRealTimers());
  /** A port of the standard's interface whose other end is an adapter on no bus. */
  function port() {
    let toPage: ReadableStreamDefaultController<Uint8Array>;
    const log: string[] = [];
    const adapter = new SlcanPort(
      (text: string) => toPage.enqueue(new TextEncoder().encode(text)),
      () => {},
    );
    const p = {
      readable: null as ReadableStream<Uint8Array> | null,
      writable: null as WritableStream<Uint8Array> | null,
      opened: 0,
      async open() {
        p.opened++;
        p.readable = new ReadableStream<Uint8Array>({
          start(c) {
            toPage = c;
          },
        });
        p.writable = new WritableStream<Uint8Array>({
          write(b) {
            log.push(new TextDecoder().decode(b));
            adapter.feed(new TextDecoder().decode(b));
          },
        });
      },
      async close() {
        p.readable = null;
        p.writable = null;
      },
      unplug: () => toPage.error(new Error('The device has been lost.')),
    };
    return { p, log };
  }
  test('opened, asked, unplugged, opened again; closed for good says goodbye', async () => {
    const { p, log } = port();
    const states: string[] = [];
    const link = new SerialLink(p as SerialPort & typeof p, PLANS.mixture, {
      samples: () => {},
      state: (s) => void states.push(s),
    });
    await link.open();
    await jest.advanceTimersByTimeAsync(600);
    expect(log.join('')).toMatch(/^C\rS6\rO\r/);
    // Discovery goes out to all units: 7DF, service 01, parameter 00.
    expect(log.join('')).toContain('t7DF80201');
    expect(states.slice(0, 2)).toEqual(['connecting', 'discovering']);
    p.unplug();
    await jest.advanceTimersByTimeAsync(100);
    expect(states.at(-1)).toBe('lost');
    await jest.advanceTimersByTimeAsync(3000);
    expect(p.opened).toBe(2);
    link.close();
    await jest.advanceTimersByTimeAsync(5000);
    expect([p.opened, log.at(-1)]).toEqual([2, 'C\r']);
  });
});
