import { describe, expect, test } from '@jest/globals';
import type { Case, Reading } from '../src/case/index.ts';
import { FAULT_BY_ID } from '../src/catalogue/index.ts';
import { diagnose } from '../src/diagnosis/index.ts';
import { orificeFlowGps } from '../src/gas/index.ts';
import {
  compareFigures,
  effectOf,
  judgeProof as judgeProof_,
  keyFigure,
  leakToday,
  leakTodayWords,
  matchConditions,
  newestOfEach,
  type ProofInput,
  pendingLine,
  readingInWords,
  storyOf,
  weakened,
} from '../src/proof/index.ts';
import { inWords, wordsOf } from '../src/units/index.ts';

const judgeProof = (...given: Parameters<typeof judgeProof_>) => inWords(judgeProof_(...given), 'own');

const trims = (stft: number, ltft: number, sd = 0.6) => ({ bank1: { stft, ltft, sd, n: 60 } });
const r = (at: Reading['at'], stft: number, ltft: number, more: Partial<Reading> = {}): Reading => ({
  at,
  rpm: at === 'idle' ? 720 : 2500,
  mafGps: at === 'idle' ? 2.6 : 9,
  trims: trims(stft, ltft),
  ...more,
});
const judge = (more: Partial<ProofInput>) =>
  judgeProof({
    before: [r('idle', 3, 14), r('hold-2500', 1, 5.5)],
    after: [],
    bandPct: 5,
    weighed: null,
    repaired: ['vac-leak'],
    condemned: [],
    ...more,
  });

describe('the verdict on a repair', () => {
  test('in band at the points that were off: proven, with the change and its uncertainty', () => {
    const p = judge({ after: [r('idle', 1, 1), r('hold-2500', 0, 1)] });
    expect(p.verdict).toBe('proven');
    // Two standard errors: 2 · √(0.6²/25 + 0.6²/25) + 0.5 = 0.84.
    expect(p.why).toBe('Back inside ±5 % at every point that was off: +17.0 → +2.0 % (±0.8); +6.5 → +1.0 % (±0.8).');
    expect(p.next).toMatch(/two trips/);
  });
  test('a point that was off and is not taken again: not proven, and named', () => {
    const p = judge({ after: [r('idle', 1, 1)] });
    expect([p.verdict, p.next]).toEqual(['points missing', 'Take hold 2,500 again, under the same conditions.']);
    expect(p.why).toBe(
      'Inside ±5 % again where it was taken: +17.0 → +2.0 % (±0.8). Off before, and not read since: hold 2,500.',
    );
    // Of two banks the one that was off counts; a point that was in band need not be taken again.
    const v6 = (at: Reading['at'], one: number, two: number) =>
      r(at, 0, 0, { trims: { ...trims(0, one), bank2: { stft: 0, ltft: two, sd: 0.6, n: 60 } } });
    const before = [v6('idle', 15, 2), v6('hold-2500', 4, 12)];
    expect(judge({ before, after: [v6('idle', 1, 1)] }).next).toMatch(/^Take hold 2,500 on bank 2 again/);
    const calm = [v6('idle', 15, 2), v6('hold-2500', 4, 3)];
    expect(judge({ before: calm, after: [v6('idle', 1, 1)] })).toMatchObject({
      verdict: 'proven',
      why: expect.stringMatching(/^Back inside ±5 % at the point that was off:/),
    });
    // In band where it was taken, and nothing said of the rest: neither maintained nor proven.
    expect(judge({ before: calm, after: [v6('hold-2500', 1, 1)] }).verdict).toBe('points missing');
  });
  test('no verdict before the memory has settled: −8 short against +13 long is +5 on its way', () => {
    expect(judge({ after: [r('idle', -8, 13), r('hold-2500', 0, 1)] }).verdict).toBe('settling');
  });
  test('balanced, and a part is condemned all the same', () => {
    const p = judge({ after: [r('idle', 1, 1), r('hold-2500', 0, 1)], condemned: ['maf-damaged'] });
    expect([p.verdict, p.why]).toEqual(['balanced, a part condemned', expect.stringMatching(/may read right today/)]);
  });
  test('better and outside; worse; smaller than the readings can show', () => {
    expect(judge({ after: [r('idle', 2, 7), r('hold-2500', 0, 3)] }).verdict).toBe('better, still outside');
    const worse = judge({ after: [r('idle', 4, 18), r('hold-2500', 1, 7)] });
    expect([worse.verdict, worse.next]).toEqual(['worse', expect.stringMatching(/refit/)]);
    const rough = judge({
      before: [r('idle', 2, 9, { trims: trims(2, 9, 4) })],
      after: [r('idle', 1.5, 8.6, { trims: trims(1.5, 8.6, 4) })],
    });
    expect([rough.verdict, rough.title]).toEqual([
      'smaller than the readings can show',
      'No change that these readings can show',
    ]);
  });
  test('maintenance without a fault promises nothing', () => {
    const calm = { before: [r('idle', 1, 2)], after: [r('idle', 0, 1)] };
    expect(judge(calm)).toMatchObject({ verdict: 'maintained', why: expect.stringMatching(/nothing is promised/) });
  });
  test('a throttle against the vehicle’s own limit, on its own channel only', () => {
    const limits = { relativeThrottleIdle: 3.4, relativeThrottleUnit: '%' };
    const idle = (pct: number, more: Partial<Reading> = {}) => [r('idle', 1, 1, { relativeThrottlePct: pct, ...more })];
    const calm = { before: idle(6.3), limits, repaired: ['throttle-fouled'] };
    const proven = judge({ ...calm, after: idle(2.7) });
    expect([proven.verdict, proven.why]).toEqual([
      'proven',
      'Back where it belongs: relative throttle 6.3 → 2.7 %, at most 3.4 %.',
    ]);
    expect(judge({ ...calm, after: idle(4.3) }).verdict).toBe('better, still outside');
    // 3 % of 6.3 and half a per cent: two readings differ by that anyway.
    expect(judge({ ...calm, after: idle(5.9) }).verdict).toBe('smaller than the readings can show');
    // A limit in degrees says nothing about a percent channel.
    const degrees = { relativeThrottleIdle: 2.5, relativeThrottleUnit: 'deg' };
    expect(judge({ ...calm, limits: degrees, after: idle(2.7) }).verdict).toBe('maintained');
    expect(
      compareFigures(idle(6.3), idle(2.7), degrees).find((f) => f.quantity === 'Relative throttle')!.limit,
    ).toBeNull();
  });
  test('without a trim the throttle is its own proof, with the decimals of the tool', () => {
    const limits = { relativeThrottleIdle: 3.4, relativeThrottleUnit: '%' };
    const idle = (pct: number): Reading[] => [{ at: 'idle', rpm: 740, relativeThrottlePct: pct }];
    const proven = judge({ before: idle(5.12), after: idle(2.36), limits, repaired: ['throttle-fouled'] });
    expect([proven.verdict, wordsOf(proven.why, 'metric')]).toEqual([
      'proven',
      'Back where it belongs: relative throttle 5.12 → 2.36 %, at most 3.4 %.',
    ]);
    expect(judge({ before: idle(5.12), after: idle(4.1), limits }).verdict).toBe('better, still outside');
  });
  test('volts of an airflow sensor without its curve: the way they went is said, and what would prove it', () => {
    const volts = (v: number): Reading[] => [{ at: 'idle', rpm: 740, mafV: v }];
    const up = judge({ before: volts(1.04), after: volts(1.31), repaired: ['maf-dirty'] });
    expect([up.verdict, wordsOf(up.why, 'us')]).toEqual([
      'better, still outside',
      'airflow sensor’s signal 1.04 → 1.31 V. More signal at the same point; without the sensor’s curve nothing says where it should be.',
    ]);
    expect(up.next).toMatch(/fuel trims or λ/);
    // 3 % of 1.31 V and a step of 0.02 V.
    const same = judge({ before: volts(1.31), after: volts(1.33) });
    expect([same.verdict, same.why]).toEqual([
      'smaller than the readings can show',
      'The sensor’s signal reads as before, as far as two readings agree.',
    ]);
    const two = (a: number, b: number): Reading[] => [...volts(a), { at: 'hold-2500', rpm: 2500, mafV: b }];
    expect(wordsOf(judge({ before: two(1.04, 1.9), after: two(1.3, 1.6) }).why, 'us')).toMatch(/Not one way/);
    expect(wordsOf(judge({ before: two(1.3, 1.9), after: two(1.1, 1.6) }).why, 'us')).toMatch(/Less signal/);
    // With the curve on the card since, the later one is airflow: no pair.
    expect(judge({ before: volts(1.04), after: [{ at: 'idle', rpm: 740, mafGps: 3 }] }).verdict).toBe(
      'nothing to compare',
    );
  });
  test('the one figure of a reading is what it was taken for', () => {
    const idle = r('idle', 1, 4, { relativeThrottlePct: 4.31, mapKPa: 33, o2: { bank1s1: { crossingsPer10s: 8 } } });
    const key = (...of: Parameters<typeof keyFigure>) => wordsOf(keyFigure(...of), 'metric');
    expect(key(idle)).toBe('+5.0 %');
    expect(key(idle, 'throttle')).toBe('relative throttle 4.31 %');
    expect(key({ at: 'idle', relativeThrottleDeg: 2.4 }, 'throttle')).toBe('relative throttle 2.4°');
    expect(key(idle, 'crossings')).toBe('crossings in 10 s, sensor 1/1: 8');
    expect(key(idle, 'pressure')).toBe('manifold 33.0 kPa');
    expect(key(r('idle', 1, 4), 'throttle')).toBe('relative throttle not read; +5.0 %');
    expect(key({ at: 'koeo' }, 'pressure')).toBe('manifold pressure not read; kept');
    expect(key({ at: 'idle', mafV: 1.2 })).toBe('1.20 V of the airflow sensor');
    expect(wordsOf(readingInWords(idle), 'metric')).toBe('+5.0 %, 2.60 g/s, 33 kPa');
  });
  // A good transition takes under about 100 ms, several crossings in 10 s; behind a catalyst there is hardly one. Common practice, no source.
  test('an oxygen sensor is proven by its switching, a catalyst by the sensor behind it', () => {
    const hold = (o2: Reading['o2'], more: Partial<Reading> = {}) => [r('hold-2500', 1, 1, { o2, ...more })];
    const slow = { bank1s1: { leanToRichMs: 240, richToLeanMs: 180, crossingsPer10s: 3 } };
    const quick = { bank1s1: { leanToRichMs: 62, richToLeanMs: 71, crossingsPer10s: 11 } };
    const proven = judge({ before: hold(slow), after: hold(quick), repaired: ['o2-slow'] });
    expect([proven.verdict, wordsOf(proven.why, 'metric')]).toEqual([
      'proven',
      'Back where it belongs: slowest transition of bank 1 240 → 71 ms, at most 100 ms.',
    ]);
    // One figure that stays off outweighs another that is right.
    const few = { bank1s1: { ...quick.bank1s1, crossingsPer10s: 3 } };
    expect(judge({ before: hold(slow), after: hold(few) }).verdict).toBe('smaller than the readings can show');
    const following = { bank1s1: quick.bank1s1, bank1s2: { crossingsPer10s: 9 } };
    const steady = { bank1s1: quick.bank1s1, bank1s2: { crossingsPer10s: 0 } };
    const cat = judge({ before: hold(following), after: hold(steady), repaired: ['cat-degraded'] });
    expect([cat.verdict, cat.title]).toEqual(['proven', 'Proven by the sensor behind the catalyst']);
    expect(judge({ before: hold(following), after: hold(following) }).verdict).toBe(
      'smaller than the readings can show',
    );
    // Lean, a sensor hardly switches: what is proven there are the trims.
    const lean = [r('hold-2500', 9, 12, { o2: slow })];
    expect(judge({ before: lean.map((x) => ({ ...x, o2: slow })), after: hold(quick) }).title).toBe(
      'Proven by the trims',
    );
  });
  test('a diesel has no trims: its figures, and what their weighing says', () => {
    const d = (mapKPa: number): Reading[] => [{ at: 'boost', mapKPa, mafGps: 60 }];
    const weighed = (fault: string) => ({
      mixture: 'not-applicable',
      causes: [
        { fault, probability: 0.8 },
        { fault: fault === 'balanced' ? 'boost-leak' : 'balanced', probability: 0.2 },
      ],
    });
    const diesel = { before: d(118), repaired: ['map-port-blocked'] };
    const good = judge({ ...diesel, after: d(203), weighed: weighed('balanced') });
    expect([good.verdict, good.why]).toEqual([
      'proven',
      expect.stringMatching(/^manifold pressure 118\.0 → 203\.0 kPa\. /),
    ]);
    expect(judge({ ...diesel, after: d(150), weighed: weighed('boost-leak') })).toMatchObject({
      verdict: 'a second fault shows',
      remains: [{ fault: 'boost-leak', probability: 0.8 }],
    });
    expect(judge({ ...diesel, after: d(119), weighed: weighed('balanced') }).verdict).toBe(
      'smaller than the readings can show',
    );
    expect(judge({ ...diesel, after: d(203) }).verdict).toBe('better, still outside');
    expect(judge({ ...diesel, after: [] }).verdict).toBe('nothing to compare');
  });
  test('nothing taken again: nothing to compare', () => {
    expect(judge({}).verdict).toBe('nothing to compare');
  });

  test('a second fault, from the weighing of what was read after, the repaired cause weakened', () => {
    // A leak was closed; what is left is lean under load and right at idle: delivery.
    const after = [r('idle', 0.5, 1), r('hold-2500', 2, 6), r('road-load', 3, 13, { mafGps: 22 })];
    const before = [r('idle', 3, 14), r('hold-2500', 2, 9), r('road-load', 3, 14, { mafGps: 22 })];
    const c: Case = {
      format: 'just-balance/case',
      version: 1,
      id: 'x',
      vehicle: { fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4, banks: 1 },
      ambient: { baroKPa: 100 },
      readings: after,
    };
    const priors = weakened({}, (f) => FAULT_BY_ID.get(f)!.weight, ['vac-leak']);
    // Its own starting weight is 8: a tenth of it is left, and no other is touched.
    expect(priors).toEqual({ 'vac-leak': expect.closeTo(0.8, 9) });
    const p = judge({ before, after, weighed: diagnose(c, { priors }), repaired: ['vac-leak'] });
    expect(p.verdict).toBe('a second fault shows');
    expect(['fuel-low', 'maf-dirty', 'maf-under', 'injector-restricted', 'duct-leak']).toContain(p.remains[0]!.fault);
    expect(p.next).toMatch(/Balance/);
  });
  test('the repaired cause itself is no second fault', () => {
    const weighed = {
      mixture: 'lean',
      causes: [
        { fault: 'vac-leak', probability: 0.9 },
        { fault: 'fuel-low', probability: 0.1 },
      ],
    };
    const p = judge({ after: [r('idle', 2, 7), r('hold-2500', 0, 3)], weighed });
    expect([p.verdict, p.remains]).toEqual(['better, still outside', []]);
  });
});

describe('the story of several repairs', () => {
  const at = (h: number) => `2026-05-04T${String(h).padStart(2, '0')}:00:00.000Z`;
  const reading = (phase: 'before' | 'after', h: number, point = 'idle') => ({
    phase,
    at: at(h),
    reading: { at: point },
  });
  const repair = (h: number, undone = false) => ({ at: at(h), undone });
  const tests = [
    { at: at(9), phase: 'before' as const },
    { at: at(13), phase: 'after' as const },
  ];

  test('before, between and after', () => {
    const readings = [reading('before', 8), reading('after', 11), reading('after', 13, 'hold-2500')];
    const s = storyOf({ readings, tests, repairs: [repair(10), repair(12)] });
    expect([s.before, s.between, s.after].map((l) => l.map((x) => x.at))).toEqual([[at(8)], [at(11)], [at(13)]]);
    expect([s.repairedAt, s.testsAfter]).toEqual([at(12), [tests[1]]]);
  });
  test('a repair undone, or one written down late, moves nothing', () => {
    const readings = [reading('before', 8), reading('after', 11)];
    expect(storyOf({ readings, tests, repairs: [repair(10), repair(12, true)] }).after).toHaveLength(1);
    // Written down after the readings: with one repair standing, after is after.
    expect(storyOf({ readings, tests, repairs: [repair(12)] }).after).toHaveLength(1);
    expect(storyOf({ readings, tests, repairs: [] })).toMatchObject({ repairedAt: null, testsAfter: [] });
  });
  test('the newest of each point counts', () => {
    const list = [reading('after', 11), reading('after', 12, 'hold-2500'), reading('after', 13)];
    expect(newestOfEach(list).map((x) => x.at)).toEqual([at(13), at(12)]);
  });
});

describe('conditions that differ', () => {
  const [warm, cold] = [r('idle', 1, 1, { ectC: 91, iatC: 20 }), r('idle', 1, 1, { ectC: 60, iatC: 20 })];
  test('each says what it does to the figures', () => {
    const said = matchConditions(warm, cold).map((m) => [m.quantity, effectOf(m)]);
    expect(said).toEqual([
      ['Coolant', expect.stringMatching(/enriched/)],
      ['Engine speed', null],
      ['Intake air', null],
    ]);
  });
  test('a leak at today’s flow and pressure, against the orifice equation', () => {
    const then = r('idle', 2, 14, { mafGps: 2.5, mapKPa: 32 });
    // Choked both times (below 0.5283 of 100 kPa): the leak is the same, its share halves with twice the air.
    expect(leakToday(then, r('idle', 0, 0, { mafGps: 5, mapKPa: 40 }), 100)).toBeCloseTo(8, 9);
    // Unchoked: by the ratio of the orifice flows.
    const today = r('idle', 0, 0, { mafGps: 2.5, mapKPa: 80 });
    const ratio = orificeFlowGps(1, 100, 20, 80) / orificeFlowGps(1, 100, 20, 32);
    expect(leakToday(then, today, 100)).toBeCloseTo(16 * ratio, 9);
    expect(leakTodayWords(then, today, 100)).toMatch(/^A leak that gave \+16\.0 % then would give \+1[0-5]\.\d %/);
    expect(leakTodayWords(then, then, 100)).toBeNull();
    expect(leakToday(r('idle', 1, 1, { mafGps: undefined }), today, 100)).toBeNull();
  });
});

describe('no pending code after two trips', () => {
  const day = 86_400_000;
  const line = (records: { atMs: number; codes?: object[]; warmups?: number }[], codesBefore = ['P0171']) =>
    pendingLine({
      repairedMs: 100 * day,
      codesBefore,
      records: records.map((x) => ({
        atMs: x.atMs,
        codes: (x.codes ?? []) as { code: string; state: string }[],
        warmupsSinceClear: x.warmups ?? null,
      })),
    });
  test('open with a reminder, too early, settled, or back', () => {
    expect(line([{ atMs: 99 * day }])).toMatchObject({ state: 'open', remindAtMs: 107 * day });
    expect(line([{ atMs: 100 * day + 3_600_000 }])).toMatchObject({ state: 'too early', remindAtMs: 107 * day });
    expect(line([{ atMs: 103 * day }])).toMatchObject({ state: 'stays away', remindAtMs: null });
    expect(line([{ atMs: 100.5 * day, warmups: 3 }])!.state).toBe('stays away');
    const back = [{ atMs: 103 * day, codes: [{ code: 'P0171', state: 'pending' }] }];
    expect(line(back)).toMatchObject({ state: 'came back', text: 'P0171 came back.' });
    // Another code than those of the first visit is another story; a permanent one goes by itself.
    expect(line([{ atMs: 103 * day, codes: [{ code: 'P0442', state: 'pending' }] }])!.state).toBe('stays away');
    expect(line([{ atMs: 103 * day, codes: [{ code: 'P0171', state: 'permanent' }] }])!.state).toBe('stays away');
    expect(pendingLine({ repairedMs: null, records: [], codesBefore: [] })).toBeNull();
  });
});
