import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { beforeEach, describe, expect, jest, test } from '@jest/globals';
import { JOB_RESOURCES } from '@just-balance/contract';
import { mutate } from 'swr';
import { jobKey, jobKeys, showAnswer, withRow } from '../src/data/job.ts';
import { mustFetch, olderThan, read } from '../src/data/reads.ts';

/** What stands in the cache under a key. */
async function kept(key: string): Promise<unknown> {
  let seen: unknown;
  await mutate(
    key,
    (now: unknown) => {
      seen = now;
      return now;
    },
    { revalidate: false },
  );
  return seen;
}

const put = (key: string, value: unknown) => mutate(key, value, { revalidate: false });

test('what clearing answers is no record: records and entries are looked at again', async () => {
  const asked: string[] = [];
  globalThis.fetch = (async (url: string) => {
    asked.push(url);
    return { ok: true, status: 200, headers: new Map(), json: async () => [] };
  }) as never;
  await mutate(jobKey('j9', 'records'), [{ id: 'r1' }], { revalidate: false });
  await showAnswer('j9', '/records/clear', { id: 'e1', kind: 'reset', data: {} });
  expect(await kept(jobKey('j9', 'records'))).not.toContainEqual(expect.objectContaining({ id: 'e1' }));
});

test('every resource of a job is kept for the time without the server', () => {
  const worker = readFileSync(join(__dirname, '../public/sw.js'), 'utf8');
  const kept = [...worker.matchAll(/^ {2}\/(\^.+\$)\/,$/gm)].map((m) => new RegExp(m[1]!));
  expect(kept.length).toBeGreaterThan(5);
  for (const key of jobKeys('j')) {
    const path = `/api${key.split('?')[0]}`;
    expect([path, kept.some((k) => k.test(path))]).toEqual([path, true]);
  }
});

describe('a job in the cache', () => {
  beforeEach(async () => {
    for (const key of jobKeys('j')) await put(key, key === '/jobs/j' ? { id: 'j', rev: 1 } : []);
  });

  test('its head and every resource have a place of their own; of judgements the two newest', () => {
    expect(jobKeys('j')).toHaveLength(1 + JOB_RESOURCES.length);
    expect(jobKey('j')).toBe('/jobs/j');
    expect(jobKey('j', 'readings')).toBe('/jobs/j/readings');
    expect(jobKey('j', 'diagnosis')).toBe('/jobs/j/diagnosis?newest=2');
  });

  test.each([
    ['/readings', 'readings'],
    ['/tests', 'tests'],
    ['/repairs', 'repairs'],
    ['/records/by-hand', 'records'],
  ] as const)('what %s answers stands among the %s at once', async (path, resource) => {
    await put(jobKey('j', resource), [{ id: 'a' }]);
    await showAnswer('j', path, { id: 'b', rev: 1 });
    expect(await kept(jobKey('j', resource))).toEqual([{ id: 'a' }, { id: 'b', rev: 1 }]);
  });

  test('a row changed stays in its place; sent twice it stands once', async () => {
    await put(jobKey('j', 'tests'), [{ id: 'a', undone: false }, { id: 'b' }]);
    await showAnswer('j', '/tests/a', { id: 'a', undone: true });
    await showAnswer('j', '/tests', { id: 'b' });
    expect(await kept(jobKey('j', 'tests'))).toEqual([{ id: 'a', undone: true }, { id: 'b' }]);
  });

  test('a change of the job itself is its new head; a caution joins those acknowledged', async () => {
    await showAnswer('j', '', { id: 'j', rev: 2 });
    expect(await kept(jobKey('j'))).toEqual({ id: 'j', rev: 2 });
    await showAnswer('j', '/cautions', { caution: 'hot', step: 'read:idle' });
    expect(await kept(jobKey('j', 'cautions'))).toEqual([{ caution: 'hot', step: 'read:idle' }]);
  });

  test('an answer that is no row changes nothing by itself', async () => {
    for (const [path, answer] of [
      ['/tests', null],
      ['/tests', { message: 'twin' }],
      ['/imports/x/columns/rpm?part=0', undefined],
      ['/captures/x/command', { state: 'paused' }],
    ] as const)
      await showAnswer('j', path, answer);
    for (const resource of JOB_RESOURCES) expect(await kept(jobKey('j', resource))).toEqual([]);
  });

  test('a resource that is not on screen yet stays to be fetched', async () => {
    await showAnswer('other', '/readings', { id: 'a' });
    expect(await kept(jobKey('other', 'readings'))).toBeUndefined();
  });

  test('put beside a read under way, or where nothing stands, it is fetched all the same', async () => {
    expect(mustFetch(undefined, '/jobs/j/tests')).toBe(true);
    expect(mustFetch([], '/jobs/j/tests')).toBe(false);
    let answer = (_: Response) => {};
    const asked = jest.spyOn(globalThis, 'fetch').mockImplementation(() => new Promise<Response>((r) => (answer = r)));
    const under = [read('/jobs/j/tests'), read('/jobs/j/tests')];
    expect(mustFetch([], '/jobs/j/tests')).toBe(true);
    expect(mustFetch([], '/jobs/j/readings')).toBe(false);
    const first = answer;
    asked.mockImplementation(() => Promise.reject(new Error('down')));
    await expect(read('/jobs/j/tests')).rejects.toThrow('does not answer');
    expect(mustFetch([], '/jobs/j/tests')).toBe(true);
    first(new Response('[]'));
    await expect(under[1]).resolves.toEqual([]);
    // The first of the two is still on its way.
    expect(mustFetch([], '/jobs/j/tests')).toBe(true);
    asked.mockRestore();
  });

  test('what was read before the job had seen so many writes is older than a subscription that has', async () => {
    const changes = (n: string) => new Response('[]', { headers: n ? { 'x-changes': n } : {} });
    const asked = jest.spyOn(globalThis, 'fetch').mockImplementation(async () => changes('7'));
    expect(olderThan('/jobs/k/tests', 0)).toBe(true);
    await read('/jobs/k/tests');
    expect([6, 7, 8].map((n) => olderThan('/jobs/k/tests', n))).toEqual([false, false, true]);
    // An answer that does not say how new it is changes nothing; one that fails neither.
    asked.mockImplementation(async () => changes(''));
    await read('/jobs/k/tests');
    asked.mockImplementation(() => Promise.reject(new Error('down')));
    await read('/jobs/k/tests').catch(() => {});
    expect(olderThan('/jobs/k/tests', 7)).toBe(false);
    asked.mockRestore();
  });

  test('withRow leaves the list it was given alone', () => {
    const rows = [{ id: 'a' }];
    expect(withRow(rows, { id: 'b' })).toEqual([{ id: 'a' }, { id: 'b' }]);
    expect(rows).toEqual([{ id: 'a' }]);
  });
});
