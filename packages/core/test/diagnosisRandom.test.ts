import { expect, test } from '@jest/globals';
import fc from 'fast-check';
import { type Case, OPERATING_POINTS } from '../src/case/index.ts';
import { FAULTS, outcomesOf, TESTS } from '../src/catalogue/index.ts';
import { diagnose, judgement } from '../src/diagnosis/index.ts';

const between = (min: number, max: number) => fc.double({ min, max, noNaN: true });
const some = <T>(model: Record<string, fc.Arbitrary<T>>) => fc.record(model, { requiredKeys: [] });

const trims = some({
  stft: between(-30, 30),
  ltft: between(-30, 30),
  sd: between(0, 6),
  n: fc.integer({ min: 1, max: 200 }),
});
const reading = fc.record(
  {
    at: fc.constantFrom(...OPERATING_POINTS),
    rpm: between(0, 8000),
    mafGps: fc.oneof(between(0, 5), between(0, 60), between(0, 2000)),
    mapKPa: fc.oneof(between(0, 110), between(0, 800)),
    ectC: between(-60, 250),
    iatC: between(-60, 250),
    loop: fc.constantFrom('closed', 'open'),
    trims: some({ bank1: trims, bank2: trims }),
    lambda: some({ bank1: between(0.01, 10), bank2: between(0.01, 10) }),
    o2V: some({ bank1: between(-2, 8) }),
    o2: some({
      bank1s1: some({
        crossingsPer10s: between(0, 60),
        leanToRichMs: between(0, 900),
        minV: between(0, 1),
        maxV: between(0, 1),
      }),
      bank2s2: some({ crossingsPer10s: between(0, 60) }),
    }),
    relativeThrottleDeg: between(0, 90),
    batteryV: between(0, 60),
    sampleHz: between(0, 40),
  },
  { requiredKeys: ['at'] },
);
const result = fc.constantFrom(...TESTS.filter((t) => !t.reading)).chain((t) =>
  fc.record(
    {
      id: fc.constant(t.id),
      outcome: fc.constantFrom(...outcomesOf(t), 'inconclusive', 'not-accessible'),
      bank: fc.constantFrom(1, 2),
      part: fc.constantFrom('maf', 'o2-sensor', 'something'),
      values: some({
        idleKPa: between(0, 900),
        loadKPa: between(0, 900),
        ratio: between(0.05, 2),
        differenceKPa: between(-60, 60),
        pct: between(0, 100),
        deg: between(0, 90),
        limitDeg: between(0, 9),
        trimBefore: between(-40, 40),
        trimAfter: between(-40, 40),
      }),
    },
    { requiredKeys: ['id', 'outcome'] },
  ),
);
const anything = fc.record(
  {
    format: fc.constant('just-balance/case'),
    version: fc.constant(1),
    id: fc.constant('random'),
    vehicle: fc.record(
      {
        fuel: fc.constantFrom('petrol', 'petrol', 'diesel'),
        metering: fc.constantFrom('maf', 'speed-density', 'both'),
        induction: fc.constantFrom('na', 'turbo'),
        injection: fc.constantFrom('port', 'direct'),
        displacementL: between(0.3, 15),
        cylinders: fc.integer({ min: 1, max: 16 }),
        ethanolPctCalibrated: between(0, 100),
      },
      { requiredKeys: ['fuel', 'metering', 'displacementL', 'cylinders'] },
    ),
    ambient: some({ baroKPa: between(40, 115), altitudeM: between(-500, 6000), airC: between(-60, 70) }),
    readings: fc.array(reading, { maxLength: 5 }),
    codes: fc.array(
      fc.record({
        code: fc.constantFrom('P0171', 'P0102', 'P0300', 'P0430', 'P0153', 'X7'),
        state: fc.constantFrom('stored', 'pending', 'permanent'),
      }),
      { maxLength: 3 },
    ),
    complaints: fc.subarray(['rough-idle', 'stall', 'high-idle', 'low-power', 'none']),
    recentWork: fc.array(
      fc.record({ part: fc.constantFrom('maf', 'egr-valve'), days: between(0, 900) }, { requiredKeys: ['part'] }),
      { maxLength: 2 },
    ),
    tests: fc.array(result, { maxLength: 4 }),
  },
  { requiredKeys: ['format', 'version', 'id', 'vehicle'] },
) as unknown as fc.Arbitrary<Case>;

test('any valid case, however odd, is judged in finite figures that sum to 1', () => {
  fc.assert(
    fc.property(anything, fc.constantFrom(...FAULTS), (c, fault) => {
      const d = diagnose(c);
      expect(JSON.stringify(d)).not.toMatch(/NaN|Infinity/);
      expect(Math.abs(d.causes.reduce((s, x) => s + x.probability, 0) - 1)).toBeLessThan(1e-6);
      for (const x of d.causes) {
        expect(x.probability).toBeGreaterThanOrEqual(0);
        if (x.severity) {
          expect(Number.isFinite(x.severity.value)).toBe(true);
          expect(x.severity.low).toBeLessThanOrEqual(x.severity.value);
          expect(x.severity.high).toBeGreaterThanOrEqual(x.severity.value);
        }
      }
      for (const t of d.nextTests) {
        expect(t.informationBits).toBeGreaterThanOrEqual(0);
        expect(t.minutes).toBeGreaterThan(0);
      }
      judgement(c, {}).lines(3);
      const play = judgement(c).whatIf(fault.id);
      for (const p of play.read(play.sizes?.high ?? 0)) expect(Number.isFinite(p.trimPct[0] + p.trimPct[1])).toBe(true);
    }),
    { numRuns: 120, seed: 5 },
  );
});
