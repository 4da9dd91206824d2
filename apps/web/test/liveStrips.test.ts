import { describe, expect, test } from '@jest/globals';
import { capturePoint } from '@just-balance/core/capture';
import { DEFAULT_LIMITS } from '@just-balance/core/trims';
import { rangeOf, stripsOf } from '../src/capture/liveStrips.ts';

const vehicle = { id: 'v', rev: 1, label: 'Tarn', metering: 'maf', displacementL: 2, cylinders: 4, banks: 1 } as const;
const strips = (at: string | null, change: object = {}, ambient: object = { baroKPa: 101.325 }) =>
  stripsOf(
    { vehicle: { ...vehicle, fuel: 'petrol', ...change }, ambient },
    at === null ? null : capturePoint(at)!,
    DEFAULT_LIMITS,
    { rpm: 700, mapKPa: 33 },
  );
const band = (list: ReturnType<typeof strips>, id: string) => {
  const s = list.find((x) => x.id === id)!;
  return [s.low, s.high];
};

describe('the band of a live strip', () => {
  test('is that of the point at hand, not of the one before', () => {
    expect(band(strips('idle'), 'rpm')).not.toEqual(band(strips('hold-2500'), 'rpm'));
    expect(band(strips('idle'), 'map')).not.toEqual(band(strips('hold-2500'), 'map'));
  });

  test('follows the day: station pressure, or the altitude where only that is known', () => {
    const [low] = band(strips('idle'), 'map') as [number, number];
    const [high84] = band(strips('idle', {}, { baroKPa: 84.556 }), 'map') as [number, number];
    // Common practice at sea level, scaled by station pressure.
    expect(high84 / low).toBeCloseTo(84.556 / 101.325, 2);
    // US Standard Atmosphere 1976: 1,500 m is 84.556 kPa.
    expect((band(strips('idle', {}, { altitudeM: 1500 }), 'map') as number[])[0]).toBeCloseTo(high84, 1);
    expect(band(strips('koeo', {}, { baroKPa: 84.5 }), 'map')).toEqual([81.5, 87.5]);
  });

  test('follows the engine: a diesel has no trims and no throttle to make a vacuum', () => {
    const petrol = strips('idle');
    const diesel = strips('idle', { fuel: 'diesel', induction: 'turbo' });
    expect(petrol.map((s) => s.id)).toEqual(['rpm', 'maf', 'map', 't1']);
    expect(diesel.map((s) => s.id)).toEqual(['rpm', 'maf', 'map']);
    expect(band(diesel, 'map')).not.toEqual(band(petrol, 'map'));
    expect(strips('idle', { banks: 2 }).map((s) => s.id)).toEqual(['rpm', 'maf', 'map', 't1', 't2']);
  });

  test('a free recording has no point: only physics speaks', () => {
    const free = strips(null);
    expect([band(free, 'rpm'), band(free, 'map')]).toEqual([
      [null, null],
      [null, null],
    ]);
    expect(band(free, 'maf')[0]).toBeGreaterThan(0);
  });

  test('trims stand over the shop’s own watch limit', () => {
    const s = stripsOf(
      { vehicle: { ...vehicle, fuel: 'petrol' }, ambient: {} },
      capturePoint('idle')!,
      { watchPct: 4, actPct: 8 },
      {},
    );
    expect(band(s, 't1')).toEqual([-4, 4]);
  });

  test('the total is short plus the long-term value held', () => {
    const traces = new Map([
      [
        'stft1',
        [
          { t: 1, v: 2 },
          { t: 2, v: 3 },
          { t: 3, v: -1 },
        ],
      ],
      [
        'ltft1',
        [
          { t: 0.5, v: 10 },
          { t: 2.5, v: 11 },
        ],
      ],
    ]);
    expect(
      strips('idle')
        .at(-1)!
        .read({ traces })
        .map((p) => p.v),
    ).toEqual([12, 13, 10]);
  });
});

describe('what stands on a strip', () => {
  test('a row each, in their order, with unit, decimals and the rate of what they are read from', () => {
    const rows = (over: object) =>
      strips('idle', over).map((s) => [s.id, s.label, s.unit, s.digits, s.rate ?? s.id].join(' | '));
    expect(rows({})).toEqual([
      'rpm | Engine speed | rpm | 0 | rpm',
      'maf | Airflow (MAF) | g/s | 2 | maf',
      'map | Manifold (MAP) | kPa | 0 | map',
      't1 | Total trim | % | 1 | stft1',
    ]);
    expect(rows({ banks: 2, cylinders: 6 }).slice(-2)).toEqual([
      't1 | Total trim, bank 1 ● | % | 1 | stft1',
      't2 | Total trim, bank 2 ◇ | % | 1 | stft2',
    ]);
  });
  test('trims reach as far above as below, and further than their limit', () => {
    const trim = strips('idle').find((s) => s.id === 't1')!;
    expect([trim.low, trim.high]).toEqual([-DEFAULT_LIMITS.watchPct, DEFAULT_LIMITS.watchPct]);
    expect(trim.span).toBeGreaterThan(2 * DEFAULT_LIMITS.watchPct);
  });
});

describe('what a strip shows from top to bottom', () => {
  const band = (low: number | null, high: number | null) => ({ low, high, span: 10 });
  test('its span about what is read; more where it moves more; the band where it is near, a far one not', () => {
    expect(rangeOf([20, 20], band(null, null))).toEqual([15, 25]);
    const [low, high] = rangeOf([10, 40], band(null, null));
    expect([low <= 10, high >= 40]).toEqual([true, true]);
    expect(rangeOf([20], band(12, 44))).toEqual([10, 50]);
    expect(rangeOf([20], band(-40, 90))).toEqual([15, 25]);
    expect(rangeOf([], band(null, null))).toEqual([-5, 5]);
  });
});
