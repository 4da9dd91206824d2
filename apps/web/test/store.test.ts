import 'fake-indexeddb/auto';
import { beforeEach, describe, expect, test } from '@jest/globals';
import { Outbox, type Waiting } from '../src/data/Outbox.ts';
import { outboxStore, store } from '../src/data/store.ts';

const entry = (label: string, body: string | ArrayBuffer = '{}'): Waiting => ({
  accountId: 'me',
  jobId: 'job',
  group: label,
  label,
  method: 'POST',
  path: '/x',
  body,
  idempotencyKey: label,
  refused: null,
});

beforeEach(async () => (await store()).clear('outbox'));

describe('what waits on this device, in IndexedDB', () => {
  test('entries keep the order they were made in, across reads', async () => {
    const seqs = await outboxStore.add([entry('a'), entry('b')]);
    await outboxStore.add([entry('c')]);
    expect(seqs[1]).toBeGreaterThan(seqs[0]!);
    expect((await outboxStore.all()).map((w) => w.label)).toEqual(['a', 'b', 'c']);
  });

  test('several are kept together or not at all', async () => {
    const broken = { ...entry('b'), body: (() => {}) as never };
    await expect(outboxStore.add([entry('a'), broken])).rejects.toThrow();
    expect(await outboxStore.all()).toEqual([]);
  });

  test('bytes come back as bytes; a changed entry stands in its place', async () => {
    const [seq] = await outboxStore.add([entry('file', new Uint8Array([1, 2, 255]).buffer)]);
    const [kept] = await outboxStore.all();
    expect([...new Uint8Array(kept!.body as ArrayBuffer)]).toEqual([1, 2, 255]);
    await outboxStore.put({ ...kept!, refused: 'too long' });
    expect((await outboxStore.all()).map((w) => [w.seq, w.refused])).toEqual([[seq, 'too long']]);
    await outboxStore.remove([seq!]);
    expect(await outboxStore.all()).toEqual([]);
  });

  test('written by one page, sent by the next that opens', async () => {
    const deps = (answers: boolean, sent: string[]) => ({
      store: outboxStore,
      send: async (w: Waiting) => {
        if (!answers) return { kind: 'later' as const };
        sent.push(w.label);
        return { kind: 'done' as const, answer: null };
      },
      newId: () => crypto.randomUUID(),
      later: () => () => 0,
      alone: (f: () => Promise<void>) => f(),
      sent: () => {},
    });
    const first = new Outbox(deps(false, []));
    await first.useAccount('me');
    await first.queue([{ jobId: 'job', label: 'reading', method: 'POST', path: '/x', body: '{}' }]);
    const sent: string[] = [];
    const second = new Outbox(deps(true, sent));
    await second.useAccount('me');
    expect(sent).toEqual(['reading']);
    expect(await outboxStore.all()).toEqual([]);
  });
});
