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

  test('checks run two at a time; too many at once are turned away', async () => {
    const a = new Attempts();
    let running = 0;
    let most = 0;
    const check = async () => {
      most = Math.max(most, ++running);
      await new Promise((r) => setTimeout(r, 2));
      running--;
      return true;
    };
    const results = await Promise.all(Array.from({ length: 80 }, () => a.inTurn(check)));
    expect(most).toBe(2);
    expect(results.filter((r) => r === true)).toHaveLength(62);
    expect(results.filter((r) => r === null)).toHaveLength(18);
    expect(await a.inTurn(check)).toBe(true);
  });
});
