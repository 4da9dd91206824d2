import { describe, expect, test } from '@jest/globals';
import { type RoadSample, roadSamples, roadTest } from '../src/proof/index.ts';

/** One sample a second. */
const drive = (totals: readonly (readonly number[])[], vssKmh = 82): RoadSample[] =>
  totals.map((totalsPct, t) => ({ t, totalsPct, vssKmh }));
const steady = (n: number, ...totals: number[]) => Array.from({ length: n }, () => totals);

// Common practice, no source: stable inside ±10 % for the set time, ±5 % the aim.
describe('the road test', () => {
  test('held for its time inside ±10: stable; inside ±5: the aim', () => {
    expect(roadTest(drive(steady(60, 8)), 60)).toMatchObject({ verdict: 'holding', heldS: 59, waitsFor: null });
    expect(roadTest(drive(steady(61, 8)), 60)).toMatchObject({ verdict: 'stable', farthestPct: 8 });
    expect(roadTest(drive(steady(61, -4.9)), 60)).toMatchObject({ verdict: 'stable within the aim' });
    expect(roadTest([], 60)).toMatchObject({ verdict: 'waiting', heldS: 0, farthestPct: null });
  });
  test('one bank outside starts the count again and is named; what was held stays held', () => {
    const broken = drive([...steady(40, 2, 3), [2, 11], ...steady(40, 2, 3)]);
    expect(roadTest(broken, 60)).toMatchObject({ verdict: 'holding', heldS: 39, bestS: 39 });
    expect(roadTest(broken.slice(0, 41), 60)).toMatchObject({ verdict: 'waiting', waitsFor: 'bank 2 inside ±10 %' });
    expect(roadTest([...drive(steady(61, 4)), { t: 61, totalsPct: [14] }], 60)).toMatchObject({
      verdict: 'stable within the aim',
      heldS: 0,
      bestS: 60,
    });
  });
  test('a town speed, a gap and a bank unknown never count as held', () => {
    expect(roadTest(drive(steady(90, 2), 25), 60)).toMatchObject({
      verdict: 'waiting',
      waitsFor: 'a steady road speed',
    });
    const gap = drive(steady(80, 2)).filter((s) => s.t < 50 || s.t > 56);
    expect(roadTest(gap, 60)).toMatchObject({ heldS: 22, bestS: 49, verdict: 'holding' });
    expect(roadTest(drive(steady(90)), 60).verdict).toBe('waiting');
  });
  test('from live traces: the last known long term and speed with every short term', () => {
    const p = (t: number, v: number) => ({ t, v });
    const traces = new Map([
      ['stft1', [p(1, 2), p(2, 3)]],
      ['ltft1', [p(0, 4), p(1.5, 5)]],
      ['vss', [p(1.8, 80)]],
    ]);
    expect(roadSamples(traces, 1)).toEqual([
      { t: 1, totalsPct: [6] },
      { t: 2, totalsPct: [8], vssKmh: 80 },
    ]);
    // A bank that fell silent is not held by what it said last.
    const silent = new Map([...traces, ['stft1', [p(1, 2), p(20, 3)]], ['stft2', [p(1, 4)]], ['ltft2', [p(1, 1)]]]);
    expect(roadSamples(silent, 2).map((x) => x.totalsPct)).toEqual([[6, 5], []]);
    // The other bank was never heard: unknown, not zero.
    expect(roadSamples(traces, 2).every((s) => s.totalsPct.length === 0)).toBe(true);
  });
});
