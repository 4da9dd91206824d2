import { describe, expect, test } from '@jest/globals';
import { type NewWrite, Outbox, type OutboxStore, type Waiting } from '../src/data/Outbox.ts';
import { answers, type SendResult } from '../src/data/Sender.ts';

/** A store in memory that answers a little later, as a database does. */
function memory(): OutboxStore & { rows: Map<number, Waiting> } {
  const rows = new Map<number, Waiting>();
  let next = 1;
  const soon = () => new Promise((r) => setTimeout(r, 0));
  return {
    rows,
    async all() {
      await soon();
      return [...rows.values()];
    },
    async add(entries) {
      await soon();
      return entries.map((e) => {
        rows.set(next, { ...e, seq: next });
        return next++;
      });
    },
    async put(e) {
      await soon();
      rows.set(e.seq!, e);
    },
    async remove(seqs) {
      await soon();
      for (const s of seqs) rows.delete(s);
    },
  };
}

function make(answer: (w: Waiting) => SendResult | Promise<SendResult>) {
  const store = memory();
  const sent: string[] = [];
  const told: string[] = [];
  const timers: { f: () => void; ms: number }[] = [];
  let id = 0;
  const outbox = new Outbox({
    store,
    send: async (w) => {
      const r = await answer(w);
      if (r.kind === 'done') sent.push(w.label);
      return r;
    },
    newId: () => `id${++id}`,
    later: (f, ms) => {
      const timer = { f, ms };
      timers.push(timer);
      return () => timers.splice(timers.indexOf(timer), 1);
    },
    alone: (f) => f(),
    sent: (w, answer) => told.push(`${w.label}: ${answer}`),
  });
  return { outbox, store, sent, told, timers };
}

const write = (label: string, jobId = 'job'): NewWrite => ({ jobId, label, method: 'POST', path: '/x', body: '{}' });
const done: SendResult = { kind: 'done', answer: 'row' };

describe('the outbox', () => {
  test('sends in order, once each, and tells what each was answered', async () => {
    const { outbox, sent, told, store } = make(() => done);
    await outbox.useAccount('me');
    await Promise.all([outbox.queue([write('a'), write('b')]), outbox.queue([write('c', 'other')])]);
    expect(sent).toEqual(['a', 'b', 'c']);
    expect(told).toEqual(['a: row', 'b: row', 'c: row']);
    expect(store.rows.size).toBe(0);
  });

  test('a full device: straight to the server behind what waits; without it nothing is kept, and it is said what to do', async () => {
    let result: SendResult = done;
    const { outbox, sent, told, store, timers } = make(() => result);
    await outbox.useAccount('me');
    const full = () => Promise.reject(Object.assign(new Error('x'), { name: 'QuotaExceededError' }));
    const { add } = store;
    store.add = full;
    expect(await outbox.queue([write('a'), write('b')])).toEqual({ sent: true, refused: null });
    expect([sent, told]).toEqual([
      ['a', 'b'],
      ['a: row', 'b: row'],
    ]);
    result = { kind: 'refused', reason: 'no such job' };
    expect(await outbox.queue([write('c')])).toEqual({ sent: false, refused: 'no such job' });
    result = { kind: 'later' };
    await expect(outbox.queue([write('d')])).rejects.toThrow(
      'Nothing of this was kept: this device has no room left. Delete pictures or downloads on it that nobody needs, or go where the server answers; then press it once more.',
    );
    // What waits goes up first: its order is not lost.
    store.add = add;
    const waiting = outbox.queue([write('e')]);
    for (let i = 0; i < 1000 && timers.length === 0; i++) await new Promise((r) => setTimeout(r, 1));
    for (const t of [...timers]) t.f();
    await waiting;
    store.add = full;
    await expect(outbox.queue([write('f')])).rejects.toThrow(
      /^Nothing of this was kept, and what waits here goes up first/,
    );
    expect(outbox.waiting().map((w) => w.label)).toEqual(['e']);
    result = done;
    expect((await outbox.queue([write('f')])).sent).toBe(true);
    expect(sent).toEqual(['a', 'b', 'e', 'f']);
    // What no device would keep is not the device's fault.
    store.add = () => Promise.reject(Object.assign(new Error('no clone'), { name: 'DataCloneError' }));
    await expect(outbox.queue([write('g')])).rejects.toThrow('no clone');
  });

  test('what belongs together and is in the shop in part is sent again until it is whole', async () => {
    const answers: SendResult[] = [done, { kind: 'later' }, { kind: 'later' }, done];
    const { outbox, sent, store, timers } = make(() => answers.shift()!);
    await outbox.useAccount('me');
    store.add = () => Promise.reject(Object.assign(new Error('x'), { name: 'QuotaExceededError' }));
    const pressed = outbox.queue([write('a'), write('b')]);
    for (let i = 0; i < 2000 && sent.length < 2; i++) {
      for (const t of timers.splice(0)) t.f();
      await new Promise((r) => setTimeout(r, 1));
    }
    expect(await pressed).toEqual({ sent: true, refused: null });
    expect(sent).toEqual(['a', 'b']);
    // Where the rest is refused it says that the first stands.
    answers.push(done, { kind: 'refused', reason: 'no such step' });
    expect(await outbox.queue([write('c'), write('d')])).toEqual({
      sent: false,
      refused: 'Only the first of it is in the shop (1 of 2), the rest was refused: no such step',
    });
  });

  test('a network that is frozen locks nobody: kept at once, sent when it answers, refused later where it has to be', async () => {
    let answer = (_: SendResult) => {};
    const answered = new Promise<SendResult>((resolve) => {
      answer = resolve;
    });
    const { outbox, timers, sent } = make(() => answered);
    await outbox.useAccount('me');
    const pressed = outbox.queue([write('a')]);
    for (let i = 0; i < 1000 && timers.length === 0; i++) await new Promise((r) => setTimeout(r, 1));
    expect(timers.map((t) => t.ms)).toEqual([1500]);
    timers[0]!.f();
    expect(await pressed).toEqual({ sent: false, refused: null });
    expect(outbox.waiting().map((w) => w.label)).toEqual(['a']);
    answer(done);
    for (let i = 0; i < 1000 && outbox.waiting().length > 0; i++) await new Promise((r) => setTimeout(r, 1));
    expect([sent, outbox.waiting()]).toEqual([['a'], []]);
  });

  test('one entry that the server breaks on is set aside with its reason; those behind it go on', async () => {
    const { outbox, sent } = make((w) =>
      w.label === 'poison' ? { kind: 'refused', reason: 'something broke' } : done,
    );
    await outbox.useAccount('me');
    const r = await outbox.queue([write('poison')]);
    expect(r).toEqual({ sent: false, refused: 'something broke' });
    await outbox.queue([write('next')]);
    expect(sent).toEqual(['next']);
    expect(outbox.waiting().map((w) => [w.label, w.refused])).toEqual([['poison', 'something broke']]);
  });

  test('a refusal holds back the rest of its group and nobody else; dropping it drops the group', async () => {
    const { outbox, sent } = make((w) => (w.label === 'begin' ? { kind: 'refused', reason: 'no' } : done));
    await outbox.useAccount('me');
    await outbox.queue([write('begin'), write('column'), write('finish')]);
    await outbox.queue([write('other')]);
    expect(sent).toEqual(['other']);
    expect(outbox.waiting()).toHaveLength(3);
    await outbox.drop(outbox.waiting()[0]!);
    expect(outbox.waiting()).toEqual([]);
  });

  test('corrected it is another write under another key; tried again as it is it keeps its key', async () => {
    const keys: string[] = [];
    let open = false;
    const { outbox } = make((w) => {
      keys.push(`${w.idempotencyKey} ${w.body as string}`);
      return open ? done : { kind: 'refused', reason: 'no' };
    });
    await outbox.useAccount('me');
    await outbox.queue([write('a')]);
    await outbox.tryAgain(outbox.waiting()[0]!);
    open = true;
    await outbox.tryAgain(outbox.waiting()[0]!, '{"x":1}');
    expect(keys[0]).toBe(keys[1]);
    expect(keys[2]!.split(' ')[0]).not.toBe(keys[0]!.split(' ')[0]);
    expect(keys[2]).toMatch(/\{"x":1\}/);
    expect(outbox.waiting()).toEqual([]);
  });

  test('nobody there: it waits, tries later, ever less often, and goes when somebody is', async () => {
    let there = false;
    const { outbox, timers, sent } = make(() => (there ? done : { kind: 'later' }));
    await outbox.useAccount('me');
    expect(await outbox.queue([write('a')])).toEqual({ sent: false, refused: null });
    const waits: number[] = [];
    for (let i = 0; i < 5; i++) {
      waits.push(timers[0]!.ms);
      await outbox.flush();
    }
    expect(waits).toEqual([1000, 3000, 3000, 10_000, 10_000]);
    expect(timers).toHaveLength(1);
    there = true;
    timers[0]!.f();
    await new Promise((r) => setTimeout(r, 30));
    expect(sent).toEqual(['a']);
  });

  test('a write queued while the last one is being wiped out of the store goes at once', async () => {
    // Seeds are moments: the second write comes after so many turns of the loop.
    for (let turns = 0; turns < 25; turns++) {
      const { outbox, sent, store } = make(() => done);
      await outbox.useAccount('me');
      const first = outbox.queue([write('a')]);
      for (let i = 0; i < turns; i++) await new Promise((r) => setTimeout(r, 0));
      const second = await outbox.queue([write('b')]);
      await first;
      expect([turns, sent, second.sent, store.rows.size]).toEqual([turns, ['a', 'b'], true, 0]);
    }
  });

  test('a person sees and sends only their own', async () => {
    let there = false;
    const { outbox, sent } = make(() => (there ? done : { kind: 'later' }));
    await outbox.useAccount('me');
    await outbox.queue([write('mine')]);
    await outbox.useAccount('you');
    expect(outbox.waiting()).toEqual([]);
    there = true;
    await outbox.queue([write('yours')]);
    expect(sent).toEqual(['yours']);
    await outbox.useAccount(null);
    await expect(outbox.queue([write('nobody')])).rejects.toThrow('Sign in first.');
    await outbox.useAccount('me');
    expect(sent).toEqual(['yours', 'mine']);
  });
});

describe('what an answer means', () => {
  const w = { idempotencyKey: 'k' } as Waiting;
  const after = async (statuses: number[]) => {
    let i = 0;
    const send = answers(
      () => Promise.reject(new Error('x')),
      () => ({ status: statuses[Math.min(i++, statuses.length - 1)]!, reason: `said ${statuses[0]}` }),
    );
    const kinds: string[] = [];
    for (const _ of statuses) kinds.push((await send(w)).kind);
    return kinds;
  };
  test.each([
    [[0], ['later']],
    [[401], ['later']],
    [[429], ['later']],
    [[503], ['later']],
    // Somebody else is signed in by now: it waits for its owner.
    [[412], ['later']],
    [[400], ['refused']],
    [[409], ['refused']],
    [[422], ['refused']],
    // Once may be a server in the middle of something; the third time it is this entry.
    [
      [500, 500, 500],
      ['later', 'later', 'refused'],
    ],
  ])('%j', async (statuses, kinds) => {
    expect(await after(statuses)).toEqual(kinds);
  });
  test('what goes to one address under ever new keys, as a chunk of a recording does, is set aside as well', async () => {
    let keys = 0;
    const send = answers(
      () => Promise.reject(new Error('x')),
      () => ({ status: 500, reason: 'it broke' }),
    );
    const again = () => send({ ...w, path: '/jobs/j/captures/c/seconds', idempotencyKey: String(keys++) });
    expect([(await again()).kind, (await again()).kind]).toEqual(['later', 'later']);
    expect(await again()).toEqual({ kind: 'refused', reason: 'it broke' });
    expect((await again()).kind).toBe('later');
  });
  test('done', async () => {
    const send = answers(
      async () => {},
      () => ({ status: 0, reason: '' }),
    );
    expect(await send(w)).toMatchObject({ kind: 'done' });
  });
});

test('what somebody else wrote is counted for whoever is here, and neither shown nor sent', async () => {
  const { outbox, sent } = make(() => ({ kind: 'later' }));
  await outbox.useAccount('a1');
  await outbox.queue([write('first'), write('second')]);
  expect([outbox.waiting().length, outbox.ofOthers()]).toEqual([2, 0]);
  await outbox.useAccount('a2');
  expect([outbox.waiting(), outbox.ofOthers(), sent]).toEqual([[], 2, []]);
  await outbox.useAccount('a1');
  expect([outbox.waiting().length, outbox.ofOthers()]).toEqual([2, 0]);
});
