import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { beforeAll, describe, expect, test } from '@jest/globals';
import { fromHex } from '@just-balance/core/can';
import { decodeTestResults } from '@just-balance/core/obd';
import { driveProcedure, reviewDrive } from '@just-balance/core/readiness';
import type { Series } from '@just-balance/core/series';
import { BROKEN, type InjectedFault, OBEYING, tankTest } from '../src/index.ts';

const PROCEDURE = { cruise: 'steady-cruise', stations: 'seven-stations', general: 'general' } as const;
/** The car each procedure was made for. */
const MADE_FOR = { cruise: 'quillon-18', stations: 'jessop-28', general: 'larkin-14t' } as const;
const UNITS = { rpm: 'rpm', vss: 'km/h', ect: '°C', iat: '°C', fuelLevel: '%', tp: '%', baro: 'kPa', ambient: '°C' };

interface Job {
  script: string;
  vehicle: string;
  faults?: InjectedFault[];
  /** A restless foot. */
  rough?: boolean;
  times?: number;
  permanent?: string[];
  /** A minute on the road instead of the script. */
  errand?: boolean;
}
interface Driven {
  time: number[];
  rows: Record<keyof typeof UNITS, number[]>;
  /** Monitors open after each time. */
  opens: string[][];
  pending: string[];
  permanent: string[];
  /** Service 06 by monitor identifier, and its first two groups, as hex digits. */
  tests: Record<number, string | null>;
  groups: (string | null)[];
}

const LEAKS: readonly (readonly [InjectedFault, string])[] = [
  [{ id: 'evap-vent', severity: 0.6 }, 'P0456'],
  [{ id: 'evap-hose', severity: 1.6 }, 'P0442'],
  [{ id: 'evap-cap', severity: 8 }, 'P0455'],
];
const JOBS = {
  ...Object.fromEntries(
    [
      ...OBEYING.map((s) => [s.id, s.id as keyof typeof MADE_FOR] as const),
      ...BROKEN.map((b) => [b.id, b.of] as const),
    ].map(([id, of]) => [id, { script: id, vehicle: MADE_FOR[of], times: id === 'general' ? 2 : 1 } as Job]),
  ),
  'on another car': { script: 'cruise', vehicle: MADE_FOR.stations },
  restless: { script: 'cruise', vehicle: 'quillon-18', rough: true },
  spent: { script: 'cruise', vehicle: 'quillon-18', faults: [{ id: 'cat-degraded', severity: 0.01 }] },
  errand: { script: 'general', vehicle: 'quillon-18', permanent: ['P0171'], errand: true },
  whole: { script: 'general', vehicle: 'quillon-18', permanent: ['P0171'] },
  ...Object.fromEntries(
    LEAKS.map(([fault, code]) => [code, { script: 'cruise', vehicle: 'quillon-18', faults: [fault] } as Job]),
  ),
} satisfies Record<string, Job>;

let driven: Record<string, Driven>;
let fresh: string | null;
beforeAll(() => {
  const said = execFileSync(process.execPath, [join(__dirname, 'drives.mjs')], {
    input: JSON.stringify(Object.values(JOBS)),
    encoding: 'utf8',
    maxBuffer: 1 << 28,
  });
  const answer = JSON.parse(said) as { fresh: string | null; drives: Driven[] };
  fresh = answer.fresh;
  driven = Object.fromEntries(Object.keys(JOBS).map((key, i) => [key, answer.drives[i]!]));
});

const open = (key: string) => driven[key]!.opens.at(-1)!;
const rows = (key: string, monitor: number) => {
  const answer = driven[key]!.tests[monitor];
  return answer ? decodeTestResults(fromHex(answer)!.subarray(1))! : null;
};
const seriesOf = ({ time, rows: r }: Driven): Series => ({
  startedAt: null,
  marks: [],
  channels: (Object.keys(UNITS) as (keyof typeof UNITS)[]).map((id) => ({
    id,
    unit: UNITS[id],
    time: Float64Array.from(time),
    value: Float64Array.from(r[id]),
  })),
});

describe('drives that obey', () => {
  test.each(['cruise', 'stations'] as const)('%s completes every monitor of the car it was made for', (of) => {
    expect(open(of)).toEqual([]);
    expect(driven[of]!.pending).toEqual([]);
    const review = reviewDrive(driveProcedure(PROCEDURE[of])!, seriesOf(driven[of]!), null);
    expect([review.result, review.remains]).toEqual(['complete', []]);
  });
  test('the general drive completes the general ones; the tank of this car wants a second drive', () => {
    expect(driven.general!.opens).toEqual([['evap'], []]);
  });
  test('what suits one car does not suit another', () => expect(open('on another car')).toContain('evap'));
});

/** The second at which a broken script goes wrong, where it does so on the road. */
const FIRST_SECOND: Readonly<Record<string, number>> = { 'cruise-without-speed': 24 + 420, 'cruise-without-idle': 6 };
/** Conditions before the start; the rest breaks on the road. */
const BEFORE = ['soak', 'ambient', 'altitude', 'fuel-level', 'coolant-start'];

describe('drives that break one condition', () => {
  test.each(BROKEN.map((b) => [b.id, b] as const))('%s is explained', (id, b) => {
    const before = { ambientC: b.before!.airC!, altitudeM: b.before!.altitudeM!, fuelPct: b.before!.fuelLevelPct! };
    const soaked = {
      engineOffSince: new Date(Date.UTC(2026, 1, 3, 8) - b.before!.soakHours! * 3_600_000).toISOString(),
      startedAt: '2026-02-03T08:00:00Z',
    };
    const review = reviewDrive(driveProcedure(PROCEDURE[b.of])!, seriesOf(driven[id]!), { ...before, ...soaked });
    expect(review.result).not.toBe('complete');
    if (BEFORE.includes(b.breaks))
      expect(review.conditions.filter((c) => c.state === 'not-met').map((c) => c.id)).toEqual([b.breaks]);
    const broken = review.steps.filter((s) => s.state !== 'done');
    expect(broken.length).toBeGreaterThan(0);
    const second = FIRST_SECOND[id];
    if (second === undefined) return;
    // Braking takes it out of the band within a second or two of the script.
    const lapses = review.steps.flatMap((s) => s.broken.map((x) => x.atS));
    expect(lapses.some((s) => Math.abs(s - second) <= 3)).toBe(true);
  });
  test.each(['soak', 'ambient', 'altitude', 'fuel-level'])('without %s the tank is not tested', (breaks) => {
    expect(open(`cruise-without-${breaks}`)).toContain('evap');
  });
  test('a restless foot keeps the fuel moving, and the tank untested', () =>
    expect(open('restless')).toContain('evap'));
});

describe('what the on-board tests found', () => {
  test('a tight tank passes, a leaking one fails by its size', () => {
    expect([rows('cruise', 0x39)![0]!.passed, rows('cruise', 0x3c)![0]!.passed]).toEqual([true, true]);
    for (const [, code] of LEAKS) {
      expect([driven[code]!.pending, open(code).includes('evap')]).toEqual([[code], false]);
      const large = code === 'P0455';
      expect(rows(code, 0x39)![0]!.passed).toBe(!large);
      // What cannot be drawn down cannot be watched.
      expect(rows(code, 0x3c)?.map((r) => r.passed)).toEqual(large ? undefined : [false]);
    }
  });
  test('the loss of a small hole against the orifice equation', () => {
    // A 0.5 mm hole, 2 kPa: v = √(2·2000/1.19) = 58 m/s; Cd·A·v = 7.06 mL/s; 99 kPa over 22 L free: 31.8 Pa/s at first.
    const { reachedPa, lost5Pa } = tankTest((Math.PI / 4) * 0.25, 60, 99);
    expect(reachedPa).toBeGreaterThan(1900);
    // It slows as the vacuum goes: by 2 % a second.
    expect(lost5Pa / 5).toBeGreaterThan(0.9 * 31.8);
    expect(lost5Pa / 5).toBeLessThan(1.05 * (31.8 + 1.5));
    expect(tankTest(0, 60, 99).lost20Pa).toBeCloseTo(30, 0);
  });
  test('a spent catalyst shows in its margin', () => {
    expect(rows('cruise', 0x21)![0]!.value).toBeLessThan(0.2);
    expect(rows('spent', 0x21)![0]!.value).toBeGreaterThan(0.25);
  });
  test('service 06 names the monitors that have results, in groups', () => {
    // 01 and, in the last bit, that more follows (SAE J1979, from memory); 21, 31, 39, 3B, 3C.
    expect(driven.cruise!.groups).toEqual(['460080000001', '4620800080b1']);
    expect(fresh).toBeNull();
  });
  test('a permanent code of what is watched all the time goes with a whole drive, not with an errand', () => {
    expect([driven.errand!.permanent, driven.whole!.permanent]).toEqual([['P0171'], []]);
  });
});
