import { describe, expect, test } from '@jest/globals';
import { signed } from '@just-balance/core/units';
import fc from 'fast-check';
import { around, panned, type Range, zoomed } from '../src/charts/range.ts';
import { clock, leaning } from '../src/ui/figures.ts';
import { typed } from '../src/ui/typed.ts';

describe('figures as they stand on screen', () => {
  test.each([
    [3.24, 1, '+3.2'],
    [-3.25, 1, '−3.3'],
    [0, 0, '0'],
    [-0.04, 1, '0.0'],
    [0.05, 1, '+0.1'],
    [-12, 0, '−12'],
  ])('signed %p to %p digits', (v, digits, text) => {
    // The engine's own rounding of −3.25, which binary holds exactly, is away from zero.
    expect(signed(v, digits)).toBe(text);
  });

  test.each([
    [0, '0:00'],
    [7.9, '0:07'],
    [127, '2:07'],
    [3727, '1:02:07'],
    [-1, '0:00'],
  ])('clock %p', (s, text) => expect(clock(s)).toBe(text));

  test('lean and rich only past the limit, as a word beside the colour', () => {
    expect([5, -5, 0].map((v) => leaning(v, 5))).toEqual([null, null, null]);
    expect(leaning(5.1, 5)).toMatchObject({ word: '▶ lean' });
    expect(leaning(-5.1, 5)).toMatchObject({ word: '◀ rich' });
  });

  test.each([
    [' 3,9 ', '3.9'],
    ['−4.7', '-4.7'],
    ['-4.7', '-4.7'],
    ['1.200', '1.200'],
  ])('typed %p', (text, plain) => expect(typed(text)).toBe(plain));
});

describe('the part of a recording that is shown', () => {
  const all: Range = { from: 0, to: 600 };
  const part = fc
    .tuple(fc.double({ min: 0, max: 590, noNaN: true }), fc.double({ min: 0.5, max: 10, noNaN: true }))
    .map(([from, width]) => ({ from, to: from + width }));

  test('never leaves it and is never nothing, whatever is pressed', () => {
    fc.assert(
      fc.property(
        part,
        fc.double({ min: -20, max: 20, noNaN: true }),
        fc.double({ min: 0.01, max: 50, noNaN: true }),
        (r, by, k) => {
          for (const x of [panned(r, by, all), zoomed(r, k, r.from, all), around(r.from, r.to, all)]) {
            expect(x.from).toBeGreaterThanOrEqual(0);
            expect(x.to).toBeLessThanOrEqual(600 + 1e-9);
            expect(x.to - x.from).toBeGreaterThanOrEqual(0.5 - 1e-9);
          }
        },
      ),
    );
  });

  test('what one zooms about stays where it is', () => {
    const about = 250;
    const before = { from: 200, to: 300 };
    const after = zoomed(before, 0.5, about, all);
    expect(after).toEqual({ from: 225, to: 275 });
    expect((about - after.from) / (after.to - after.from)).toBe(0.5);
  });

  test('moved by a share of its width, stopped at the end', () => {
    expect(panned({ from: 100, to: 200 }, 0.1, all)).toEqual({ from: 110, to: 210 });
    expect(panned({ from: 100, to: 200 }, 1e6, all)).toEqual({ from: 500, to: 600 });
  });
});
