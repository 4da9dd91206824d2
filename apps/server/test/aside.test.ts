import { afterEach, describe, expect, test } from '@jest/globals';
import { Aside } from '../src/common/aside.ts';

/** A thread that does what it is told: says it again, runs for ever, fills the memory, dies, or throws. */
const THREAD = new URL(
  `data:text/javascript,${encodeURIComponent(`
    import { parentPort, threadId } from 'node:worker_threads';
    parentPort.on('message', (m) => {
      if (m === 'for ever') for (;;) ;
      if (m === 'fill') { const all = []; for (;;) all.push({ a: [Math.random()] }); }
      if (m === 'die') process.exit(3);
      parentPort.postMessage(m === 'throw' ? { error: 'as told' } : { value: m + ' by ' + threadId });
    });`)}`,
);

let aside: Aside<string, string>;
const made = (ms: number, waiting = 10) => {
  aside = new Aside(THREAD, { ms, megabytes: 16, waiting });
  return aside;
};
afterEach(() => aside.close());

describe('work done aside', () => {
  test('is answered by one thread, and what it throws comes back', async () => {
    const a = made(20_000);
    const [one, two] = [await a.run('x', 'one'), await a.run('x', 'two')];
    expect([one.replace(/\d+/, ''), two.replace(/\d+/, '')]).toEqual(['one by ', 'two by ']);
    expect(one.split(' by ')[1]).toBe(two.split(' by ')[1]);
    await expect(a.run('x', 'throw')).rejects.toThrow('as told');
  });

  test.each([
    ['for ever', 'time', 3000],
    ['fill', 'memory', 60_000],
    ['die', 'died', 60_000],
  ] as const)('%s: ended, and the next is answered by a new thread', async (what, why, ms) => {
    const a = made(ms);
    const bad = a.run('x', what).catch((e: unknown) => e);
    const good = a.run('x', 'good').catch((e: unknown) => e);
    expect(await bad).toMatchObject({ why });
    expect(await good).toMatch(/^good by /);
  });

  test('the server stops: nothing is said against what was being read, nor against what comes after', async () => {
    const a = made(20_000);
    const asked = a.run('x', 'for ever').catch((e: unknown) => e);
    await new Promise((r) => setTimeout(r, 50));
    await a.close();
    expect(await asked).toMatchObject({ status: 503 });
    expect(await a.run('x', 'good').catch((e: unknown) => e)).toMatchObject({ status: 503 });
  });

  test('askers take turns: one with many does not hold up another; too many are turned away', async () => {
    const a = made(20_000, 5);
    const order: string[] = [];
    const ask = (of: string, what: string) =>
      a.run(of, what).then(
        () => order.push(what),
        (e: { status?: number }) => order.push(`${what} ${e.status}`),
      );
    await Promise.all([
      ...['a1', 'a2', 'a3', 'a4'].map((w) => ask('a', w)),
      ask('b', 'b1'),
      ask('c', 'c1'),
      ask('b', 'b2'),
    ]);
    expect(order).toEqual(['b2 503', 'a1', 'a2', 'b1', 'c1', 'a3', 'a4']);
  });

  test('the server goes on while a thread is busy', async () => {
    const a = made(400);
    let ticks = 0;
    const timer = setInterval(() => ticks++, 5);
    await a.run('x', 'for ever').catch(() => {});
    clearInterval(timer);
    expect(ticks).toBeGreaterThan(5);
  });
});
