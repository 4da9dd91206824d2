import { readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { describe, expect, test } from '@jest/globals';
import type { Case, Reading, VehicleSpec } from '../src/case/index.ts';
import { FAULTS, outcomesOf, TEST_BY_ID, TESTS } from '../src/catalogue/index.ts';
import { judgement, outcomeProbability, type Settings } from '../src/diagnosis/index.ts';
import { wordsOf } from '../src/units/index.ts';
import { caseOf, FOUR, reading, SIX } from './cases.ts';

/**
 * What is told of each fault as it would read, line by line: a change in one of them is a change of what a technician is
 * told, and somebody has to have meant it. `JB_TOLD=write npx jest packages/core/test/told` writes the file anew; whether
 * what it says is right is the matter of the other checks, which stand on outside sources.
 */
const FILE = join(__dirname, 'golden/told.json');

/** Airflow of a healthy engine at its speed and pressure, g/s a litre: speed-density, from the ideal gas. */
const TRIMMED = { at: ['idle', 'hold-2500', 'road-load'], gpsPerL: [1.72, 5.4, 10.8] } as const;

/** A healthy engine of this kind; what its faults would read is asked of it. */
function healthy(vehicle: VehicleSpec): Case {
  const readings = TRIMMED.at.map((at, i) =>
    reading(
      at,
      Math.round(100 * TRIMMED.gpsPerL[i]! * vehicle.displacementL) / 100,
      1,
      vehicle.banks === 2 ? -1 : undefined,
      {
        ...{ rpm: [720, 2500, 2200][i]!, mapKPa: [34, 31, 62][i]!, iatC: 25 },
      },
    ),
  );
  const own = vehicle.metering === 'speed-density' ? readings.map(({ mafGps: _, ...r }) => r as Reading) : readings;
  return caseOf(vehicle, own);
}

/** The engine with one fault of a middling size, as it would read. */
function withFault(vehicle: VehicleSpec, fault: string): Case | null {
  const well = healthy(vehicle);
  const { sizes, read } = judgement(well).whatIf(fault);
  const size = sizes ? (sizes.low > 0 ? Math.sqrt(sizes.low * sizes.high) : (sizes.low + sizes.high) / 2) : 1;
  const points = read(size, 1);
  if (points.length === 0) return null;
  const readings = well.readings!.map((r) => {
    const p = points.find((x) => x.at === r.at);
    if (!p) return r;
    const trim = (t: number) => ({ stft: Math.round(t * 2) / 10, ltft: Math.round(t * 8) / 10, sd: 0.8, n: 100 });
    return {
      ...r,
      trims: { bank1: trim(p.trimPct[0]), ...(vehicle.banks === 2 ? { bank2: trim(p.trimPct[1]) } : {}) },
      ...(r.mafGps === undefined ? {} : { mafGps: Math.round(100 * r.mafGps * (p.airflowRatio ?? 1)) / 100 }),
    };
  });
  return { ...well, id: fault, readings };
}

const rounded = (v: number) => Number(v.toPrecision(4));

/** What is told; figures to four digits. */
function told(c: Case, settings: Settings = {}): object {
  const j = judgement(c, settings);
  const d = j.diagnosis;
  const all = {
    id: c.id,
    mixture: d.mixture,
    causes: d.causes.slice(0, 3).map((x) => ({
      is: `${x.fault} ${x.bank ?? ''} ${rounded(x.probability)}`,
      size: x.severity && [x.severity.value, x.severity.low, x.severity.high].map(rounded).join(' '),
      because: x.because.map((s) => wordsOf(s, 'metric')),
      against: x.against.map((s) => wordsOf(s, 'metric')),
      change: x.wouldChange?.map((w) => `${w.test} ${w.outcome} ${rounded(w.left)}`),
    })),
    pairs: d.pairs.slice(0, 2).map((p) => `${p.faults.join(' + ')} ${rounded(p.probability)}`),
    also: d.alsoPresent.map((a) => `${a.fault} ${rounded(a.probability)}`),
    next: d.nextTests.slice(0, 4).map((t) => `${t.test} ${t.bank ?? ''} ${t.minutes} ${t.informationBits}`),
    together: d.nextTests[0]?.together,
    why: d.nextTests[0] && wordsOf(d.nextTests[0].why, 'metric'),
    standing: d.standing,
    condemned: d.condemned,
    alike: d.cannotTellApart,
    warnings: d.warnings.map((w) => wordsOf(w, 'metric')),
    shape: d.shape.map((s) => `${s.bank} ${s.word}`),
    paragraph: wordsOf(d.paragraph, 'metric'),
    lines: j.lines(2).map((l) => `${l.fault} ${l.points.map((p) => p.trimPct.map(rounded).join('/')).join(' ')}`),
  };
  return JSON.parse(JSON.stringify(all)) as object;
}

const SPEED_DENSITY: VehicleSpec = { ...FOUR, metering: 'speed-density' };
const TURBO: VehicleSpec = { ...FOUR, induction: 'turbo' };

/** Each fault on the engine on which it has most to show; then what tests, work and the shop's own settings add. */
function* all(): Generator<[string, object]> {
  for (const f of FAULTS) {
    const kinds = { six: SIX, pressure: SPEED_DENSITY, turbo: TURBO };
    const byPressure = { pressure: SPEED_DENSITY, six: SIX, turbo: TURBO };
    for (const [name, vehicle] of Object.entries(f.needs?.includes('map') ? byPressure : kinds)) {
      const c = withFault(vehicle, f.id);
      if (!c) continue;
      yield [`${name} ${f.id}`, told(c)];
      break;
    }
  }
  const leak = withFault(SIX, 'vac-leak') ?? healthy(SIX);
  for (const id of [
    'smoke-intake',
    'fuel-pressure',
    'pinch-pcv',
    'visual-intake',
    'full-load-airflow',
    'crankcase-vacuum',
  ]) {
    const row = TEST_BY_ID.get(id);
    for (const outcome of row ? outcomesOf(row) : [])
      yield [`leak ${id} ${outcome}`, told({ ...leak, tests: [{ id, outcome }] })];
  }
  yield ['leak, worked on', told({ ...leak, recentWork: [{ part: 'maf', days: 3 }] })];
  yield ['leak, with codes', told({ ...leak, codes: [{ code: 'P0171', state: 'stored' }] })];
  yield ['leak, rough idle', told({ ...leak, complaints: ['rough-idle', 'stall'] })];
  yield ['leak, no smoke machine', told(leak, { tools: [], minutes: { 'visual-intake': 40 } })];
  yield ['leak, seen often here', told(leak, { priors: { 'vac-leak': 60 } })];
  // What each test is expected to show: every outcome over all faults, on one bank and on two.
  for (const t of TESTS) {
    if (t.reading) continue;
    const chances = (banks: 1 | 2) =>
      Object.fromEntries(
        outcomesOf(t).map((o) => {
          const all = FAULTS.map((f) => outcomeProbability(t, o, f.id, f.perBank ? 1 : null, banks));
          return [
            o,
            `${rounded(all.reduce((a, b) => a + b, 0))} ${rounded(Math.max(...all))} ${rounded(Math.min(...all))}`,
          ];
        }),
      );
    yield [`test ${t.id}`, { one: chances(1), two: chances(2) }];
  }
  yield ['cold', told({ ...leak, readings: leak.readings!.map((r) => ({ ...r, ectC: 30 })) })];
}

describe('what is told of each fault', () => {
  const now = Object.fromEntries(all());
  if (process.env.JB_TOLD === 'write') writeFileSync(FILE, `${JSON.stringify(now, null, 1)}\n`);
  const then = JSON.parse(readFileSync(FILE, 'utf8')) as Record<string, object>;

  test('every fault of the catalogue that an engine here can have stands in it', () => {
    expect(Object.keys(now)).toEqual(Object.keys(then));
    expect(Object.keys(now).length).toBeGreaterThan(45);
  });

  test('no sentence shows what is no word: an object, NaN, nothing', () => {
    expect(JSON.stringify(now)).not.toMatch(/\[object|\bNaN\b|\bundefined\b|\bInfinity\b/);
  });

  test.each(Object.keys(now))('%s', (name) => expect(now[name]).toEqual(then[name]));
});
