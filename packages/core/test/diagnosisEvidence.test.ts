import { describe, expect, test } from '@jest/globals';
import type { Case, Reading, VehicleSpec } from '../src/case/index.ts';
import { TESTS } from '../src/catalogue/index.ts';
import { diagnose as diagnose_ } from '../src/diagnosis/index.ts';
import { inWords } from '../src/units/index.ts';
import { caseOf, FOUR, reading, SIX } from './cases.ts';

const diagnose = (...given: Parameters<typeof diagnose_>) => inWords(diagnose_(...given), 'own');

const p = (c: Case, fault: string) => diagnose(c).causes.find((x) => x.fault === fault)?.probability ?? 0;
const cause = (c: Case, fault: string) => diagnose(c).causes.find((x) => x.fault === fault)!;
const LEAN = [reading('idle', 2.4, 17), reading('hold-2500', 8.6, 5)];
const RIGHT = [reading('idle', 2.6, 0.5), reading('hold-2500', 9, -0.5)];
const withIdle = (more: Partial<Reading>) => [{ ...RIGHT[0]!, ...more }, RIGHT[1]!];
const withHold = (more: Partial<Reading>) => [RIGHT[0]!, { ...RIGHT[1]!, ...more }];

describe('history is evidence (common practice, no source)', () => {
  const work = (part: string, days: number) => caseOf(FOUR, LEAN, { recentWork: [{ part, days }] });
  test('recent work lifts the joint it disturbed, the fresher the more', () => {
    const before = p(caseOf(FOUR, LEAN), 'egr-gasket-leak');
    expect(p(work('egr-valve', 10), 'egr-gasket-leak')).toBeGreaterThan(1.8 * before);
    expect(p(work('egr-valve', 10), 'egr-gasket-leak')).toBeGreaterThan(p(work('egr-valve', 400), 'egr-gasket-leak'));
    expect(p(work('egr-valve', 400), 'egr-gasket-leak')).toBeGreaterThan(before);
    expect(cause(work('egr-valve', 10), 'egr-gasket-leak').because.join(' ')).toMatch(
      /Recent work: Exhaust gas recirculation valve \(EGR\) 10 days ago/,
    );
  });
  test('a part already replaced is weak evidence against it, no more', () => {
    const dirty = [reading('idle', 2.9, -8), reading('hold-2500', 8.4, 4), reading('road-load', 16, 14)];
    const c = caseOf(FOUR, dirty, { recentWork: [{ part: 'maf', days: 20 }] });
    expect(p(c, 'maf-dirty')).toBeLessThan(p(caseOf(FOUR, dirty), 'maf-dirty'));
    expect(diagnose(c).causes[0]!.fault).toBe('maf-dirty');
  });
  test('a copy or a used part clears hardly anything, and the reason says so; an original as before', () => {
    const dirty = [reading('idle', 2.9, -8), reading('hold-2500', 8.4, 4), reading('road-load', 16, 14)];
    const by = (make?: 'original' | 'copy' | 'used') =>
      caseOf(FOUR, dirty, { recentWork: [{ part: 'maf', days: 20, ...(make ? { make } : {}) }] });
    expect(p(by('copy'), 'maf-dirty')).toBeGreaterThan(p(by('original'), 'maf-dirty'));
    expect(p(by('used'), 'maf-dirty')).toBe(p(by('copy'), 'maf-dirty'));
    expect(p(by('original'), 'maf-dirty')).toBe(p(by(), 'maf-dirty'));
    const said = diagnose(by('copy')).causes.flatMap((c) => [...c.because, ...c.against]);
    expect(said.join(' ')).not.toMatch(/weak evidence against it/);
  });
});

describe('a part counts by any of its names (common practice, no source)', () => {
  test.each([
    ['mass air flow sensor', 'maf-dirty'],
    ['Spark plugs', 'misfire-ignition'],
    ['timing chain', 'compression-timing'],
    ['O2 sensor', 'o2-slow'],
    ['EGR valve', 'egr-gasket-leak'],
    ['exhaust gas recirculation cooler', 'egr-stuck-open'],
  ])('%s moves %s', (part, fault) => {
    const before = caseOf(FOUR, RIGHT);
    expect(p({ ...before, recentWork: [{ part, days: 5 }] }, fault)).not.toBeCloseTo(p(before, fault), 4);
  });
  test('an EGR valve is no exhaust pipe, a drive belt no timing belt', () => {
    const before = caseOf(FOUR, RIGHT);
    const said = (part: string) =>
      diagnose({ ...before, recentWork: [{ part }] }).causes.flatMap((c) =>
        c.because.join().includes('Recent work') ? [c.fault] : [],
      );
    expect(said('EGR valve')).not.toContain('exhaust-leak');
    expect(said('exhaust gas recirculation valve')).not.toContain('exhaust-leak');
    expect(said('drive belt')).not.toContain('compression-timing');
    expect(said('tow bar')).toEqual([]);
  });
});

describe('what a capture found out by itself counts', () => {
  test('a coolant that stays cold speaks for the thermostat from one reading on', () => {
    const once = caseOf(FOUR, [{ ...RIGHT[0]!, ectC: 64 }]);
    const stays = caseOf(FOUR, [{ ...RIGHT[0]!, ectC: 64, neverWarm: true }]);
    expect(p(stays, 'thermostat-open')).toBeGreaterThan(3 * p(once, 'thermostat-open'));
  });
  test('a manifold that does not follow a snap speaks for its port', () => {
    const car: VehicleSpec = { ...FOUR, metering: 'both' };
    const flat: Reading = { at: 'snap', mafGps: 60, mapKPa: 32, sampleHz: 20, pressureFollows: false };
    expect(p(caseOf(car, [...RIGHT, flat]), 'map-port-blocked')).toBeGreaterThan(
      4 * p(caseOf(car, RIGHT), 'map-port-blocked'),
    );
  });
});

describe('within one step of a limit nothing is said', () => {
  const car: VehicleSpec = { ...FOUR, limits: { relativeThrottleIdle: 2.46, relativeThrottleUnit: '%' } };
  const fouled = (pct: number, quantum?: Record<string, number>) =>
    p(
      caseOf(car, withIdle({ relativeThrottlePct: pct, ...(quantum ? { quantum } : {}) }), { complaints: ['stall'] }),
      'throttle-fouled',
    );
  const silent = p(caseOf(car, RIGHT, { complaints: ['stall'] }), 'throttle-fouled');
  // PID 45 steps by 100/255 % (SAE J1979).
  test('throttle at 2.50 % against 2.46 % is undecided, a step and more past it is not', () => {
    expect(fouled(2.5)).toBeCloseTo(silent, 6);
    expect(fouled(2.1)).toBeCloseTo(silent, 6);
    expect(fouled(3.1)).toBeGreaterThan(1.5 * silent);
    expect(fouled(1.9)).toBeLessThan(0.7 * silent);
    // A finer step, said with the reading, decides.
    expect(fouled(2.5, { tpRel: 0.01 })).toBeGreaterThan(1.5 * silent);
  });
  test('of a degree nobody knows the step: half a degree past its limit counts', () => {
    const car = { ...FOUR, limits: { relativeThrottleIdleDeg: 3 } };
    const at = (deg: number) =>
      p(caseOf(car, withIdle({ relativeThrottleDeg: deg }), { complaints: ['stall'] }), 'throttle-fouled');
    expect(at(3.5)).toBeGreaterThan(1.5 * p(caseOf(car, RIGHT, { complaints: ['stall'] }), 'throttle-fouled'));
  });
  test('the same of the test with its own figures', () => {
    const of = (value: number) =>
      p(
        caseOf(car, RIGHT, {
          complaints: ['stall'],
          tests: [{ id: 'relative-throttle', values: { value, limit: 2.46, unit: '%' } }],
        }),
        'throttle-fouled',
      );
    expect(of(2.5)).toBeCloseTo(silent, 6);
    expect(of(3.4)).toBeGreaterThan(1.5 * silent);
  });
  test('volts, coolant and air by eye, within a step of their limits', () => {
    const same = (more: Partial<Reading>, quantum: Record<string, number>) =>
      diagnose(caseOf(FOUR, withIdle({ ...more, quantum }), { ambient: { airC: 20 } })).causes.map(
        (c) => c.probability,
      );
    const without = diagnose(caseOf(FOUR, RIGHT, { ambient: { airC: 20 } })).causes.map((c) => c.probability);
    expect(same({ batteryV: 12.5 }, { batteryV: 0.2 })).toEqual(without);
    expect(same({ batteryV: 12.3 }, { batteryV: 0.2 })).not.toEqual(without);
  });
});

describe('what a reading shows beside its trims', () => {
  const limits = { relativeThrottleIdleDeg: 3 };
  const car: VehicleSpec = { ...FOUR, limits };
  test.each<[string, string, Reading[], Reading[]]>([
    [
      'throttle against its own limit',
      'throttle-fouled',
      withIdle({ relativeThrottleDeg: 4.1 }),
      withIdle({ relativeThrottleDeg: 2 }),
    ],
    ['supply voltage', 'low-voltage', withIdle({ batteryV: 11.9 }), withIdle({ batteryV: 14 })],
    [
      'coolant that never gets hot',
      'thermostat-open',
      RIGHT.map((r) => ({ ...r, ectC: 71 })),
      RIGHT.map((r) => ({ ...r, ectC: 92 })),
    ],
    ['intake air against the air outside', 'iat-bias', withIdle({ iatC: -15 }), withIdle({ iatC: 30 })],
    [
      'slow transitions upstream',
      'o2-slow',
      withHold({ o2: { bank1s1: { crossingsPer10s: 6, leanToRichMs: 240, richToLeanMs: 210 } } }),
      withHold({ o2: { bank1s1: { crossingsPer10s: 18, leanToRichMs: 60, richToLeanMs: 70 } } }),
    ],
    [
      'a flat upstream signal',
      'o2-circuit',
      withHold({ o2: { bank1s1: { minV: 0.44, maxV: 0.46 } } }),
      withHold({ o2: { bank1s1: { crossingsPer10s: 18, minV: 0.1, maxV: 0.85 } } }),
    ],
    [
      'a downstream sensor that follows the upstream one',
      'cat-degraded',
      withHold({ o2: { bank1s1: { crossingsPer10s: 16 }, bank1s2: { crossingsPer10s: 14, minV: 0.2, maxV: 0.8 } } }),
      withHold({ o2: { bank1s1: { crossingsPer10s: 16 }, bank1s2: { crossingsPer10s: 0, minV: 0.6, maxV: 0.7 } } }),
    ],
  ])('%s', (_, fault, bad, good) => {
    const without = p(caseOf(car, RIGHT), fault);
    expect(p(caseOf(car, bad), fault)).toBeGreaterThan(3 * without);
    expect(p(caseOf(car, good), fault)).toBeLessThanOrEqual(without);
  });
  test('a percent channel is never compared with a limit in degrees', () => {
    const c = caseOf(car, withIdle({ relativeThrottlePct: 9 }));
    expect(p(c, 'throttle-fouled')).toBeCloseTo(p(caseOf(car, RIGHT), 'throttle-fouled'), 6);
  });
  test('a code names its bank', () => {
    const c = (code: string) => caseOf(SIX, [reading('idle', 3.6, 1, 0)], { codes: [{ code, state: 'stored' }] });
    expect(cause(c('P0133'), 'o2-slow').bank).toBe(1);
    expect(cause(c('P0153'), 'o2-slow').bank).toBe(2);
    expect(cause(c('P0430'), 'cat-degraded').bank).toBe(2);
  });
  test('a pending code counts less than a stored one', () => {
    const c = (state: 'stored' | 'pending') => caseOf(FOUR, RIGHT, { codes: [{ code: 'P0128', state }] });
    expect(p(c('pending'), 'thermostat-open')).toBeLessThan(p(c('stored'), 'thermostat-open'));
  });
  test('a lean code speaks where there are no trims, and adds nothing where there are', () => {
    const codes = [{ code: 'P0171', state: 'stored' as const }];
    const blind = caseOf(FOUR, [{ at: 'idle', rpm: 700, mafGps: 2.6 }]);
    expect(p({ ...blind, codes }, 'fuel-low')).toBeGreaterThan(p({ ...blind, codes: [] }, 'fuel-low'));
    // Brought for what its owner feels: that no code is there says nothing of why it came.
    const seen = { ...caseOf(FOUR, LEAN), complaints: ['rough-idle'] };
    expect(p({ ...seen, codes }, 'vac-leak')).toBeCloseTo(p({ ...seen, codes: [] }, 'vac-leak'), 6);
  });
});

describe('figures that cannot be', () => {
  test('kept, said with their field, and left out of the judgement', () => {
    const wild = caseOf(FOUR, [
      {
        ...reading('idle', 2.6, 0),
        trims: { bank1: { stft: 48, ltft: 40 } },
        ectC: 160,
        mapKPa: 190,
        lambda: { bank1: 4 },
      },
      RIGHT[1]!,
    ]);
    const said = diagnose(wild).warnings.join('\n');
    for (const w of [/total trim of 88 %/, /coolant at 160/, /manifold at 190 kPa/, /λ 4 is/]) expect(said).toMatch(w);
    const without = caseOf(FOUR, [{ at: 'idle', mafGps: 2.6, loop: 'closed' }, RIGHT[1]!]);
    expect(diagnose(wild).causes).toEqual(diagnose(without).causes);
  });
});

describe('the next test', () => {
  const rows = (c: Case, settings = {}) => diagnose(c, settings).nextTests;
  const find = (c: Case, id: string, settings = {}) => rows(c, settings).find((t) => t.test === id);
  test('costs less where what it needs is open already', () => {
    const c = caseOf(FOUR, [reading('idle', 2.6, -15), reading('hold-2500', 9, -4.5)]);
    const gauge = { ...c, tests: [{ id: 'fuel-pressure', values: { idleKPa: 380, loadKPa: 379, specKPa: 380 } }] };
    expect(find(gauge, 'residual-pressure')!.minutes).toBeLessThan(find(c, 'residual-pressure')!.minutes);
    expect(find(gauge, 'residual-pressure', { minutes: { 'residual-pressure': 20 } })!.minutes).toBe(12);
  });
  test('tests that share access are named together', () => {
    const c = caseOf(FOUR, LEAN, { codes: [{ code: 'P0442', state: 'stored' }] });
    const t = find(c, 'smoke-intake')!;
    expect(t.access).toBe('smoke machine set up');
    expect(t.together).toContain('cap-and-evap-smoke');
  });
  test('a hazard the shop rules out, and what the tool in hand is too slow for, are not offered', () => {
    const c = caseOf(FOUR, LEAN);
    expect(find(c, 'enrich-survey')).toBeDefined();
    expect(find(c, 'enrich-survey', { hazards: ['road-test'] })).toBeUndefined();
    const flat = caseOf(FOUR, [reading('idle', 2.6, 14), reading('hold-2500', 9, 14)]);
    expect(find(flat, 'snap-throttle', { toolHz: 3 })).toBeUndefined();
    expect(find(flat, 'snap-throttle', { toolHz: 20 })).toBeDefined();
  });
  test('a swap names the part whose faults lead, and a result speaks only for that part', () => {
    const c = caseOf(FOUR, [reading('idle', 2.2, 14), reading('hold-2500', 8, 15), reading('road-load', 14, 14)]);
    // Only where the shop says that it has proven parts.
    expect(find(c, 'known-good-swap')).toBeUndefined();
    const owned = diagnose(c, { tools: ['known-good-part'] }).nextTests.find((t) => t.test === 'known-good-swap');
    expect(owned!.part).toBe('maf');
    const fixed = (part: string) => ({ ...c, tests: [{ id: 'known-good-swap', outcome: 'fixed', part }] });
    expect(p(fixed('maf'), 'maf-dirty')).toBeGreaterThan(p(fixed('o2-sensor'), 'maf-dirty'));
  });
  test('one bank’s result says nothing of the other bank', () => {
    const c = caseOf(SIX, [reading('idle', 3.6, 12, 0), reading('hold-2500', 12.5, 12, 0)]);
    const one = { ...c, tests: [{ id: 'o2-force', outcome: 'biased-lean', bank: 1 as const }] };
    const two = { ...c, tests: [{ id: 'o2-force', outcome: 'biased-lean', bank: 2 as const }] };
    expect(p(one, 'o2-biased-lean')).toBeGreaterThan(2 * p(two, 'o2-biased-lean'));
  });
  test('what would change my mind: a result that takes most of a leading cause away', () => {
    const d = diagnose(caseOf(FOUR, LEAN));
    const first = d.causes[0]!;
    expect(first.wouldChange!.length).toBeGreaterThan(0);
    for (const w of first.wouldChange!) {
      expect(w.left).toBeLessThan(first.probability);
      const row = TESTS.find((t) => t.id === w.test)!;
      const after = diagnose(caseOf(FOUR, LEAN, { tests: [{ id: w.test, outcome: w.outcome }] }));
      if (!row.measure)
        expect(after.causes.find((x) => x.fault === first.fault)!.probability).toBeLessThan(first.probability);
    }
  });
});

describe('what is said', () => {
  test('a paragraph of the same figures, and the shape in the words of the trade', () => {
    const d = diagnose(caseOf(FOUR, LEAN));
    expect(d.shape).toEqual([{ bank: 1, word: 'fades' }]);
    expect(d.paragraph).toMatch(/runs lean.*fades with airflow/);
    expect(d.paragraph).toMatch(/Likeliest is air leak after the throttle \(\d+ %\)\. \d\.\d\d g\/s past the meter/);
  });
  test('a mixture in balance has no shape, whatever the slope within the band', () => {
    const d = diagnose(caseOf(SIX, [reading('idle', 3.3, 2.5, 2.3), reading('hold-2500', 13, 5.4, 5.9)]));
    expect(d.mixture).toBe('balanced');
    expect(d.shape).toEqual([]);
    expect(d.paragraph).toMatch(/^The mixture is in balance\./);
  });
  test('never 100 %', () => {
    const d = diagnose(
      caseOf(FOUR, [reading('idle', 2.6, 1), reading('hold-2500', 9, 12), reading('road-load', 18, 21)], {
        codes: [{ code: 'P0087', state: 'stored' }],
        tests: [{ id: 'fuel-pressure', values: { idleKPa: 371, loadKPa: 220, specKPa: 380 } }],
      }),
    );
    expect(d.paragraph).toMatch(/weak fuel delivery \(over 99 %\)/);
  });
});

describe('contradictions are said', () => {
  const said = (c: Case) => diagnose(c).warnings.join('\n');
  test('a rich code with lean trims', () => {
    const c = caseOf(FOUR, LEAN, { codes: [{ code: 'P0172', state: 'stored' }] });
    expect(said(c)).toMatch(/P0172 says rich, the trims of bank 1 say the opposite/);
    expect(said(caseOf(FOUR, LEAN, { codes: [{ code: 'P0171', state: 'stored' }] }))).not.toMatch(/say the opposite/);
  });
  test('a reading no single cause explains', () => {
    const c = caseOf(FOUR, [reading('idle', 2.6, 22), reading('hold-2500', 9, -21), reading('road-load', 19, 22)]);
    expect(said(c)).toMatch(/does not go with .* predicted\)\. Read it again; two faults at once are possible/);
  });
  test('a result that does not go with the leading cause', () => {
    const c = caseOf(FOUR, [reading('idle', 2.6, 1), reading('hold-2500', 9, 12), reading('road-load', 18, 21)], {
      codes: [{ code: 'P0087', state: 'stored' }],
      tests: [{ id: 'fuel-pressure', values: { idleKPa: 380, loadKPa: 379, specKPa: 380 } }],
      complaints: ['low-power'],
    });
    const d = diagnose(c);
    if (d.causes[0]!.fault === 'fuel-low')
      expect(said(c)).toMatch(/Fuel pressure.*does not go with weak fuel delivery/);
    else expect(d.causes.find((x) => x.fault === 'fuel-low')!.against.join(' ')).toMatch(/Fuel pressure/);
  });
});

describe('optional values of a test', () => {
  const with_ = (t: object) => diagnose(caseOf(FOUR, LEAN, { tests: [{ id: 'pinch-pcv', ...t }] }));
  test('decide where no outcome was named, and stand in the sentences', () => {
    const named = with_({ outcome: 'changes', values: { trimBefore: 17, trimAfter: 3 } });
    const implied = with_({ values: { trimBefore: 17, trimAfter: 3 } });
    expect(implied.causes).toEqual(named.causes);
    expect(named.causes[0]!.because.join(' ')).toMatch(/changes \(trim 17 before, 3 after\)/);
    const still = with_({ values: { trimBefore: 17, trimAfter: 16 } });
    expect(still.causes).not.toEqual(named.causes);
  });
  test('little volume starves the rail whatever the pressure', () => {
    const c = caseOf(FOUR, [reading('idle', 2.6, 1), reading('hold-2500', 9, 9)], {
      tests: [{ id: 'fuel-pressure', values: { volumeMlPer30s: 190 } }],
    });
    expect(diagnose(c).causes[0]!.fault).toBe('fuel-low');
    expect(diagnose(c).causes[0]!.because.join(' ')).toMatch(/190 mL in 30 s/);
  });
  test('a sampled reading is not one taken by eye; a slow tool is not asked for what it cannot show', () => {
    const bare = (sampleHz?: number) =>
      caseOf(FOUR, [{ ...reading('idle', 2.4, 17), trims: { bank1: { stft: 1, ltft: 7 } }, sampleHz }]);
    const ids = (c: Case) => diagnose(c).nextTests.map((t) => t.test);
    expect(p(bare(10), 'balanced')).toBeLessThan(p(bare(), 'balanced'));
    expect(ids(bare(10))).toContain('snap-throttle');
    expect(ids(bare(0.7))).not.toContain('snap-throttle');
  });
});

describe('a diesel: airflow, boost and pressure signal, never trims', () => {
  const diesel: VehicleSpec = { ...FOUR, fuel: 'diesel', induction: 'turbo', metering: 'both' };
  const idle: Reading = { at: 'idle', rpm: 820, mafGps: 9, mapKPa: 101, ectC: 88 };
  const pull = (mapKPa: number, mafGps: number): Reading => ({ at: 'full-load', rpm: 3200, mafGps, mapKPa, iatC: 45 });
  const at = (...readings: Reading[]) => caseOf(diesel, readings);
  test('its idle is not throttled: neither its airflow nor its manifold is called off', () => {
    const d = diagnose(at(idle));
    expect(d.mixture).toBe('not-applicable');
    expect(d.causes[0]!.fault).toBe('balanced');
    expect(d.warnings.join(' ')).not.toMatch(/signal is dead/);
  });
  test('no boost at full load: turbocharger, charge pipe, or a pressure port that hides it', () => {
    const low = diagnose(at(idle, pull(118, 62)));
    const among = ['turbo-underboost', 'boost-leak', 'map-port-blocked', 'map-hose-split'];
    const share = (d: typeof low) =>
      d.causes.filter((x) => among.includes(x.fault)).reduce((s, x) => s + x.probability, 0);
    expect(share(low)).toBeGreaterThan(0.6);
    expect(low.causes[0]!.because.join(' ')).toMatch(/18 kPa above the air outside/);
    expect(share(diagnose(at(idle, pull(205, 108))))).toBeLessThan(0.15);
    // The reading has given that figure.
    expect(low.nextTests.map((t) => t.test)).not.toContain('boost-compare');
  });
  test('airflow low for the boost it has: the airflow sensor or its duct', () => {
    const d = diagnose(at(idle, pull(205, 74)));
    expect(['maf-under', 'maf-dirty', 'duct-leak', 'air-filter', 'exhaust-restricted']).toContain(d.causes[0]!.fault);
    expect(d.causes.find((x) => x.fault === 'balanced')!.probability).toBeLessThan(0.1);
  });
});

describe('sizes read off directly, in the fault’s own unit', () => {
  const size = (c: Case, fault: string) => cause(c, fault).severity;
  test('slowness in ms, of the bank it belongs to', () => {
    const o2 = { bank1s1: { leanToRichMs: 70, richToLeanMs: 80 }, bank2s1: { leanToRichMs: 260, richToLeanMs: 190 } };
    const c = caseOf(SIX, [{ ...reading('hold-2500', 12, 0, 0), o2 }], {
      codes: [{ code: 'P0153', state: 'stored' }],
    });
    expect(cause(c, 'o2-slow').bank).toBe(2);
    expect(size(c, 'o2-slow')).toEqual({ value: 260, low: 208, high: 312, unit: 'ms' });
  });
  test('catalyst activity as a ratio, throttle in its channel’s unit, coolant and boost by their tests', () => {
    const o2 = { bank1s1: { crossingsPer10s: 20 }, bank1s2: { crossingsPer10s: 15, minV: 0.2, maxV: 0.8 } };
    expect(size(caseOf(FOUR, withHold({ o2 })), 'cat-degraded')).toMatchObject({ value: 0.75, unit: 'ratio' });
    const car = { ...FOUR, limits: { relativeThrottleIdle: 6, relativeThrottleUnit: '%' } };
    expect(size(caseOf(car, withIdle({ relativeThrottlePct: 8.5 })), 'throttle-fouled')).toMatchObject({
      value: 2.5,
      unit: '%',
    });
    const tests = [{ id: 'cold-soak-temps', outcome: 'ect-differs', values: { ectMinusAirC: 14 } }];
    expect(size(caseOf(FOUR, RIGHT, { tests }), 'ect-bias')).toMatchObject({ value: 14, unit: '°C' });
    const turbo = { ...FOUR, induction: 'turbo' as const };
    const boost = [{ id: 'boost-compare', values: { measuredKPa: 150, targetKPa: 190 } }];
    expect(size(caseOf(turbo, RIGHT, { tests: boost }), 'turbo-underboost')).toMatchObject({ value: 40, unit: 'kPa' });
  });
  test('an angle typed in degrees is one: it keeps the decimal that its limit has', () => {
    const tests = [{ id: 'relative-throttle', values: { value: 3.9, limit: 2.5, unit: 'deg' } }];
    const found = size(caseOf(FOUR, RIGHT, { tests }), 'throttle-fouled')!;
    expect([found.value, found.unit]).toEqual([expect.closeTo(1.4, 6), '°']);
  });
  test('none where nothing was read', () => {
    expect(size(caseOf(FOUR, RIGHT), 'o2-slow')).toBeNull();
  });
});
