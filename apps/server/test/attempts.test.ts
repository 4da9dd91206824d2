import { describe, expect, test } from '@jest/globals';
import { Attempts } from '../src/accounts/attempts.ts';

describe('attempts', () => {
  test('five are free, then the wait doubles up to five minutes; an hour later, or once right, all is forgotten', () => {
    const a = new Attempts();
    const waits = Array.from({ length: 16 }, () => {
      a.failed('k', 1000);
      return a.wait('k', 1000);
    });
    expect(waits.slice(0, 4)).toEqual([0, 0, 0, 0]);
    expect(waits.slice(4, 9)).toEqual([1000, 2000, 4000, 8000, 16_000]);
    expect(waits.at(-1)).toBe(300_000);
    expect(a.wait('k', 1000 + 299_000)).toBe(1000);
    expect(a.wait('other', 1000)).toBe(0);
    a.failed('k', 1000 + 3_700_000);
    expect([a.count('k'), a.wait('k', 1000 + 3_700_000)]).toEqual([1, 0]);
    a.succeeded('k');
    expect(a.count('k')).toBe(0);
  });

  test('keys are bounded, the oldest failures go first', () => {
    const a = new Attempts();
    for (let i = 0; i < 25_000; i++) a.failed(`k${i}`, i);
    expect([a.count('k0'), a.count('k24999')]).toEqual([0, 1]);
  });

  test('checks run one at a time, those of known browsers first; too many at once are turned away', async () => {
    const a = new Attempts();
    let running = 0;
    let most = 0;
    const order: string[] = [];
    const check = (name: string) => async () => {
      most = Math.max(most, ++running);
      await new Promise((r) => setTimeout(r, 1));
      running--;
      order.push(name);
      return true;
    };
    const strangers = Array.from({ length: 90 }, (_, i) => a.inTurn(false, check(`stranger ${i}`)));
    const known = a.inTurn(true, check('known'));
    const results = await Promise.all(strangers);
    expect(await known).toBe(true);
    expect(most).toBe(1);
    expect(results.filter((r) => r === true)).toHaveLength(41);
    expect(results.filter((r) => r === null)).toHaveLength(49);
    // Only the one that was at work already came before it.
    expect(order.indexOf('known')).toBe(1);
    expect(await a.inTurn(false, check('later'))).toBe(true);
  });
});
