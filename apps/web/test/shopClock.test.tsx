import { afterEach, describe, expect, test } from '@jest/globals';
import { CLOCK_HEADER } from '@just-balance/contract';
import { act, cleanup, screen } from '@testing-library/react';
import fc from 'fast-check';
import { api } from '../src/data/api.ts';
import { ShopClock, shopClock, shopNow } from '../src/data/shopClock.ts';
import { ClockOff } from '../src/frame/ClockOff.tsx';
import { open } from './page.tsx';

afterEach(cleanup);

/** A device whose clock is `behindMs` behind, asking over a network of so many ms there and back. */
function device(behindMs: number) {
  let trueMs = 1_700_000_000_000;
  let behind = behindMs;
  const kept = new Map<string, string>();
  const store = { getItem: (k: string) => kept.get(k) ?? null, setItem: (k: string, v: string) => void kept.set(k, v) };
  const own = () => trueMs - behind;
  const clock = new ShopClock(own, store);
  return {
    clock,
    again: () => new ShopClock(own, store),
    ask(there: number, back: number) {
      const sent = own();
      trueMs += there;
      const server = trueMs;
      trueMs += back;
      clock.heard(sent, server);
    },
    pass: (ms: number) => {
      trueMs += ms;
    },
    set: (ms: number) => {
      behind = ms;
    },
    errorMs: () => Math.abs(clock.nowMs() - trueMs),
  };
}

describe('the shop’s time on a device', () => {
  test('ten minutes behind: right within half of the quickest answer', () => {
    const d = device(600_000);
    expect(d.errorMs()).toBe(600_000);
    d.ask(900, 40);
    expect(d.errorMs()).toBeLessThan(471);
    d.ask(6, 5);
    expect(d.errorMs()).toBeLessThanOrEqual(7);
    // A slow answer says less than the quick one did.
    d.ask(4000, 10);
    expect(d.errorMs()).toBeLessThanOrEqual(7);
  });
  test('whatever the network does, the error stays within half of the quickest way there and back', () => {
    fc.assert(
      fc.property(
        fc.integer({ min: -86_400_000, max: 86_400_000 }),
        fc.array(fc.tuple(fc.nat(3000), fc.nat(3000)), { minLength: 1, maxLength: 12 }),
        (behind, ways) => {
          const d = device(behind);
          for (const [there, back] of ways) d.ask(there, back);
          expect(d.errorMs()).toBeLessThanOrEqual(Math.min(...ways.map(([a, b]) => (a + b) / 2)) + 5);
        },
      ),
    );
  });
  test('a clock that is set meanwhile is noticed with the next answer; a reload without a server keeps what was measured', () => {
    const d = device(600_000);
    d.ask(5, 5);
    d.set(-3_600_000);
    d.ask(400, 300);
    expect(d.errorMs()).toBeLessThan(400);
    expect(d.again().offsetMs).toBe(d.clock.offsetMs);
    expect(new ShopClock(() => 0, { getItem: () => '{"offsetMs":"x"}', setItem: () => {} }).offsetMs).toBe(0);
  });
  test('the best measured one grows old: after hours a middling one is better', () => {
    const d = device(0);
    d.ask(3, 3);
    d.pass(8 * 3_600_000);
    d.set(2500);
    d.ask(40, 40);
    expect(d.errorMs()).toBeLessThanOrEqual(41);
  });
  test('an answer without the clock, or before its question, says nothing', () => {
    const clock = new ShopClock(() => 1000, null);
    clock.heard(900, Number.NaN);
    clock.heard(2000, 5000);
    expect(clock.offsetMs).toBe(0);
  });
});

test('every answer of the server is heard; a clock that is far off is said, a little is not', async () => {
  open(<ClockOff />);
  const answer = (ms: number) => {
    globalThis.fetch = (async () => ({
      ok: true,
      status: 200,
      headers: new Map([[CLOCK_HEADER, String(Date.now() + ms)]]),
      json: async () => ({}),
    })) as never;
  };
  answer(20_000);
  await act(() => api.get({ path: '/jobs' } as never).catch(() => {}));
  expect(screen.queryByRole('status')).toBeNull();
  answer(600_000);
  await act(() => api.get({ path: '/jobs' } as never).catch(() => {}));
  expect(screen.getByRole('status').textContent).toMatch(/clock is 10 minutes behind the shop’s/);
  expect(Math.abs(shopNow() - Date.now() - 600_000)).toBeLessThan(2000);
  answer(-86_400_000 * 2);
  await act(() => api.get({ path: '/jobs' } as never).catch(() => {}));
  expect(screen.getByRole('status').textContent).toMatch(/clock is 2 days ahead of the shop’s/);
  answer(0);
  await act(() => api.get({ path: '/jobs' } as never).catch(() => {}));
  expect([screen.queryByRole('status'), Math.abs(shopClock.offsetMs) < 2000]).toEqual([null, true]);
});
