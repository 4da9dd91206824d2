import { describe, expect, test } from '@jest/globals';
import fc from 'fast-check';
import { relearn } from '../src/relearn/index.ts';
import type { Series } from '../src/series/index.ts';

interface Curve {
  tau: number;
  /** Short term at the start; the long term starts so far on the other side of its end. */
  s0: number;
  end: number;
  seconds: number;
  hz?: number;
  /** Swing of a narrow-band loop. */
  swing?: number;
  /** Step of the tool. */
  step?: number;
  loop?: string;
}

/** Exact first-order curves, as they would be read. */
function recorded({ tau, s0, end, seconds, hz = 4, swing = 0, step = 0, loop = 'closed loop' }: Curve): Series {
  const n = Math.round(seconds * hz);
  const time = Float64Array.from({ length: n }, (_, i) => i / hz);
  const quantised = (v: number) => (step === 0 ? v : Math.round(v / step) * step);
  const e = (t: number) => Math.exp(-t / tau);
  const channel = (id: string, f: (t: number) => number) => ({
    id,
    unit: '%',
    time,
    value: Float64Array.from(time, (t) => quantised(f(t))),
  });
  return {
    startedAt: null,
    channels: [
      channel('stft1', (t) => s0 * e(t) + swing * Math.sign(Math.sin(4 * t))),
      channel('ltft1', (t) => end - s0 * e(t)),
      { id: 'rpm', unit: 'rpm', time, value: new Float64Array(n).fill(720) },
    ],
    texts: [{ id: 'fuelSys1', time: Float64Array.of(0), value: [loop] }],
    marks: [],
  };
}
const bank = (c: Curve, from?: number) => relearn(recorded(c), from).banks[0]!;

describe('where the trims go after a repair', () => {
  test.each([8, 17, 60, 240, 600])(
    'time constant %d s: the end within a point once the short term has halved',
    (tau) => {
      const b = bank({ tau, s0: -9, end: 2.4, seconds: Math.max(10, tau * Math.LN2), swing: 1.5, step: 0.78125 });
      expect(b.state).toBe('settling');
      expect(Math.abs(b.settled!.totalPct - 2.4)).toBeLessThan(1);
      expect(b.settled!.low).toBeLessThanOrEqual(2.4);
      expect(b.settled!.high).toBeGreaterThanOrEqual(2.4);
      // A first-order lag: within a point after τ·ln(what is left).
      const left = 9 * Math.exp(-Math.max(10, tau * Math.LN2) / tau);
      if (left > 1.5) {
        const truth = tau * Math.log(left);
        expect(b.lowS!).toBeLessThanOrEqual(truth + 1);
        expect(b.highS!).toBeGreaterThanOrEqual(truth - 1);
        expect(b.ratePctPerMin!).toBeLessThan(0);
      }
    },
  );

  test('any such curve, up or down', () => {
    fc.assert(
      fc.property(
        fc.double({ min: 10, max: 300, noNaN: true }),
        fc.constantFrom(-1, 1),
        fc.double({ min: 5, max: 15, noNaN: true }),
        fc.double({ min: -6, max: 6, noNaN: true }),
        (tau, side, size, end) => {
          const b = bank({ tau, s0: side * size, end, seconds: tau, swing: 1 });
          expect(b.state).toBe('settling');
          expect(Math.abs(b.settled!.totalPct - end)).toBeLessThan(1);
        },
      ),
      { numRuns: 60 },
    );
  });

  test('at its end it is settled, and says of no time', () => {
    const b = bank({ tau: 20, s0: 8, end: -1.2, seconds: 150, swing: 1 });
    expect(b).toMatchObject({ bank: 1, state: 'settled', longSettlesInS: null, lowS: null, highS: null });
    expect(b.settled!.totalPct).toBeCloseTo(-1.2, 0);
    expect(b.nowTotalPct!).toBeCloseTo(b.shortPct! + b.longPct!, 1);
  });

  test('a short term that stands off while the long term does not move is not settling', () => {
    const standing = { ...recorded({ tau: 1e9, s0: 6, end: 10, seconds: 90, swing: 1 }) };
    const r = relearn(standing);
    expect(r.banks[0]).toMatchObject({ state: 'not-settling', longSettlesInS: null });
    expect(r.warnings.join(' ')).toMatch(/does not take it over/);
    // What is corrected now, added up (10) or multiplied.
    expect(r.banks[0]!.settled!.low).toBeLessThanOrEqual(10);
    expect(r.banks[0]!.settled!.high).toBeGreaterThanOrEqual(10);
  });

  test('a long term that would take over an hour for it is not settling', () => {
    const drifting = (pctPerS: number) => {
      const s = recorded({ tau: 1e9, s0: -6, end: 0, seconds: 900, swing: 1, hz: 1 });
      const long = (c: (typeof s.channels)[number]) => ({ ...c, value: c.time.map((t) => 6 - pctPerS * t) });
      return relearn({ ...s, channels: s.channels.map((c) => (c.id === 'ltft1' ? long(c) : c)) }).banks[0]!;
    };
    // Six points at this rate: 5 minutes, and an hour and a half.
    expect(drifting(6 / 300)).toMatchObject({ state: 'settling' });
    expect(drifting(6 / 5400)).toMatchObject({ longSettlesInS: null, lowS: null, highS: null });
    expect(drifting(6 / 5400).state).not.toBe('settling');
  });

  test('open loop is no closed loop; what lies before the repair is left out; two banks are two', () => {
    expect(bank({ tau: 20, s0: 8, end: 0, seconds: 60, loop: 'open loop, not yet warm' })).toEqual({
      bank: 1,
      state: 'no-closed-loop',
      nowTotalPct: null,
      shortPct: null,
      longPct: null,
      settled: null,
      longSettlesInS: null,
      lowS: null,
      highS: null,
      ratePctPerMin: null,
    });
    const [before, after] = [
      recorded({ tau: 1e9, s0: 0.2, end: 18, seconds: 60 }),
      recorded({ tau: 30, s0: -16, end: 1.5, seconds: 40, swing: 1 }),
    ];
    const joined: Series = {
      ...before,
      channels: before.channels.map((c, k) => {
        const other = after.channels[k]!;
        return {
          ...c,
          time: Float64Array.from([...c.time, ...other.time.map((t) => t + 60)]),
          value: Float64Array.from([...c.value, ...other.value]),
        };
      }),
    };
    const whole = {
      ...joined,
      channels: [...joined.channels, ...joined.channels.slice(0, 2).map((c) => ({ ...c, id: c.id.replace('1', '2') }))],
    };
    const r = relearn(whole, 60);
    expect(r.banks.map((b) => [b.bank, b.state])).toEqual([
      [1, 'settling'],
      [2, 'settling'],
    ]);
    for (const b of r.banks) expect(Math.abs(b.settled!.totalPct - 1.5)).toBeLessThan(1);
  });

  test('other speeds learn into other cells: only those like the newest count', () => {
    const s = recorded({ tau: 25, s0: -8, end: 3, seconds: 60, swing: 1 });
    const rpm = s.channels.find((c) => c.id === 'rpm')!;
    // The first third was driven: its trims are of another cell.
    for (let i = 0; i < rpm.value.length / 3; i++) {
      rpm.value[i] = 2400;
      s.channels[0]!.value[i] = 7;
      s.channels[1]!.value[i] = -7;
    }
    expect(Math.abs(relearn(s).banks[0]!.settled!.totalPct - 3)).toBeLessThan(1);
  });

  test('too little to judge is said; no trims, no banks', () => {
    expect(relearn(recorded({ tau: 20, s0: 6, end: 0, seconds: 5 })).warnings.join(' ')).toMatch(
      /half a minute says more/,
    );
    expect(relearn({ startedAt: null, channels: [], marks: [] })).toEqual({
      banks: [],
      warnings: ['No fuel trims in the recording.'],
    });
    const noLong = recorded({ tau: 20, s0: 6, end: 0, seconds: 30 });
    noLong.channels.splice(1, 1);
    expect(relearn(noLong).warnings[0]).toMatch(/no long-term trim/);
    const pegged = relearn(recorded({ tau: 1e9, s0: 3, end: 28, seconds: 60 }));
    expect(pegged.warnings.join(' ')).toMatch(/ECU's limit/);
  });
});
