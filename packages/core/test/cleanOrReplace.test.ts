import { describe, expect, test } from '@jest/globals';
import {
  betaCdf,
  betaQuantile,
  type CleanOrReplaceTerms,
  chanceOfHolding,
  cleanablePart,
  cleanOrReplace,
  DIRT_SOURCES,
  LIVE_CONDITIONS,
  liveTicks,
  missingTools,
  NOT_DONE,
  type PlanInput,
  SHIPPED_PROCEDURES,
  servicePlan as servicePlan_,
  suits,
} from '../src/procedures/index.ts';
import { inWords } from '../src/units/index.ts';

const servicePlan = (...given: Parameters<typeof servicePlan_>) => inWords(servicePlan_(...given), 'own');

describe('the Beta distribution, against its closed forms worked by hand', () => {
  // Beta(1, 3): F = 1 − (1 − x)³. Beta(2, 1): x². Beta(3, 2): 4x³ − 3x⁴. Abramowitz & Stegun 26.5.
  test.each([0.05, 0.2, 0.5, 0.8, 0.95])('at %d', (x) => {
    expect(betaCdf(x, 1, 3)).toBeCloseTo(1 - (1 - x) ** 3, 12);
    expect(betaCdf(x, 2, 1)).toBeCloseTo(x ** 2, 12);
    expect(betaCdf(x, 3, 2)).toBeCloseTo(4 * x ** 3 - 3 * x ** 4, 12);
    expect(betaQuantile(betaCdf(x, 7, 12), 7, 12)).toBeCloseTo(x, 6);
  });
  test('quantiles and ends', () => {
    expect(betaQuantile(0.25, 2, 1)).toBeCloseTo(0.5, 12);
    expect(betaQuantile(0.5, 40, 40)).toBeCloseTo(0.5, 12);
    expect([betaCdf(0, 2, 3), betaCdf(1, 2, 3)]).toEqual([0, 1]);
    // Symmetry, with many counts.
    expect(betaCdf(0.3, 200, 300) + betaCdf(0.7, 300, 200)).toBeCloseTo(1, 12);
  });
});

describe('the chance that a cleaning holds', () => {
  const fresh = { cleanings: 0, distanceKm: 60_000, source: 'age', sourceRepaired: false };
  test('starts from our own figure and moves with the shop’s outcomes', () => {
    const start = chanceOfHolding('airflow-sensor', { held: 0, failed: 0 }, fresh);
    expect(start.value).toBeCloseTo(3 / 5, 12);
    // Beta(3, 2): its middle nine tenths by 4x³ − 3x⁴ = 0.05 and 0.95.
    expect([start.low, start.high]).toEqual([expect.closeTo(0.248605, 5), expect.closeTo(0.902389, 5)]);
    const own = chanceOfHolding('airflow-sensor', { held: 15, failed: 0 }, fresh);
    expect(own.value).toBeCloseTo(18 / 20, 12);
    expect(own.high - own.low).toBeLessThan(start.high - start.low);
    expect(own.because[0]).toBe('15 of 15 of this shop’s cleanings held; with our starting figure that is 90 %.');
  });
  test('falls with earlier cleanings, distance and a source that is left as it is', () => {
    const chance = (more: object) => chanceOfHolding('airflow-sensor', { held: 0, failed: 0 }, { ...fresh, ...more });
    expect(chance({ cleanings: 1 }).value).toBeCloseTo(0.3, 12);
    expect(chance({ cleanings: 2, distanceKm: 190_000 }).value).toBeCloseTo(0.6 * 0.25 * 0.7, 12);
    const oil = chance({ source: 'filter-oiled' });
    expect(oil.value).toBeCloseTo(0.18, 12);
    expect(oil.because.at(-1)).toBe('Over-oiled filter, not repaired: 30 % of that is left.');
    expect(chance({ source: 'filter-oiled', sourceRepaired: true }).value).toBeCloseTo(0.6, 12);
  });
  test('every source says what finds it and what mends it', () => {
    for (const s of DIRT_SOURCES) {
      expect(s.check.length).toBeGreaterThan(10);
      expect(s.left).toBeGreaterThan(0);
      expect(s.left).toBeLessThanOrEqual(1);
    }
  });
});

describe('clean or replace', () => {
  const terms: CleanOrReplaceTerms = {
    ratePerHour: 90,
    solvent: 8,
    cleanMinutes: 25,
    waitingMinutes: 25,
    waitingPaid: 0,
    partPrice: 140,
    replaceMinutes: 20,
    comebackCost: 60,
    chance: 0.6,
  };
  test('worked by hand: 45.50 now and 0.4 × 230 later against 170; even at 45.9 %', () => {
    const r = cleanOrReplace(terms);
    expect(r.clean.cost).toBeCloseTo(137.5, 9);
    expect(r.replace.cost).toBeCloseTo(170, 9);
    expect(r.breakEven).toBeCloseTo(1 - 124.5 / 230, 9);
    expect([r.clean.minutes, r.replace.minutes]).toEqual([58, 20]);
    expect([r.cheaper, r.overruled]).toEqual(['clean', null]);
    expect(r.reasons[0]).toBe('Cleaning pays from a chance of 46 % on; it stands at 60 %.');
    // At the break-even both cost the same; what each is made of adds up.
    const even = cleanOrReplace({ ...terms, chance: r.breakEven! });
    expect(even.clean.cost).toBeCloseTo(even.replace.cost, 9);
    expect(even.cheaper).toBe('equal');
    const half = cleanOrReplace({ ...terms, waitingPaid: 0.5 });
    for (const way of [r.clean, r.replace, half.clean])
      expect(way.parts.reduce((sum, p) => sum + p.cost, 0)).toBeCloseTo(way.cost, 9);
  });
  test('a cheap part, paid waiting: replacing wins whatever the chance', () => {
    const r = cleanOrReplace({ ...terms, partPrice: 5, waitingPaid: 1 });
    expect([r.breakEven, r.cheaper]).toEqual([null, 'replace']);
    expect(r.reasons[0]).toMatch(/whatever the chance/);
  });
  test('a stop rule overrules the sum', () => {
    const r = cleanOrReplace(terms, 'the housing is cracked');
    expect([r.cheaper, r.overruled]).toEqual(['clean', 'the housing is cracked']);
    expect(r.reasons[0]).toBe('A stop rule overrules the sum: the housing is cracked.');
  });
  test('every cleanable part names procedures that ship', () => {
    const ids = SHIPPED_PROCEDURES.map((p) => p.id);
    for (const id of ['airflow-sensor', 'pressure-sensor', 'oxygen-sensor', 'throttle-body'] as const) {
      const part = cleanablePart(id);
      expect(ids).toContain(part.clean);
      if (part.replace) expect(ids).toContain(part.replace);
    }
  });
});

describe('from cause to plan', () => {
  const vehicle = { fuel: 'petrol', metering: 'maf', induction: 'na', displacementL: 1.8, cylinders: 4 } as const;
  const plan = (more: Partial<PlanInput>) =>
    servicePlan({ vehicle, causes: [], condemned: [], procedures: SHIPPED_PROCEDURES, done: [], ...more });
  const ids = (more: Partial<PlanInput>) => plan(more).map((p) => p.procedure.id);

  test('a likely leak that has not been seen: smoke first, then hoses', () => {
    const list = ids({ causes: [{ fault: 'vac-leak', probability: 0.55 }] });
    expect(list.slice(0, 2)).toEqual(['smoke-test', 'vacuum-hoses-and-gaskets']);
    // Sure of it: nothing to look for.
    expect(ids({ causes: [{ fault: 'vac-leak', probability: 0.93 }] })[0]).toBe('vacuum-hoses-and-gaskets');
  });
  test('sure of something that no procedure repairs: it is checked', () => {
    expect(ids({ causes: [{ fault: 'fuel-low', probability: 0.93 }] })).toEqual(['fuel-pressure-and-volume']);
  });
  test('a dirty wire: clean before replace, and the crankcase valve before the sensor is blamed', () => {
    const causes = [
      { fault: 'maf-dirty', probability: 0.7 },
      { fault: 'crankcase-leak', probability: 0.12 },
    ];
    const list = plan({ causes });
    const order = list.map((p) => p.procedure.id).filter((id) => /airflow|crankcase/.test(id));
    expect(order).toEqual(['crankcase-valve-and-hose', 'airflow-sensor-clean', 'airflow-sensor-replace']);
    expect(list.find((p) => p.procedure.id.startsWith('crankcase'))!.why).toMatch(
      /before the airflow sensor is blamed/,
    );
  });
  test('a condemned part goes first, whatever the mixture says', () => {
    const list = plan({ causes: [{ fault: 'balanced', probability: 0.9 }], condemned: ['maf-damaged'] });
    expect(list[0]).toMatchObject({
      procedure: { id: 'airflow-sensor-replace' },
      why: expect.stringMatching(/^Condemned/),
    });
  });
  test('a stop rule turns the plan to replacement; what is done is not proposed again', () => {
    const causes = [{ fault: 'maf-dirty', probability: 0.8 }];
    const done = [{ procedure: 'airflow-sensor-clean', stopped: 'the element is bent, burnt or broken' }];
    const list = plan({ causes, done });
    expect(list[0]).toMatchObject({
      procedure: { id: 'airflow-sensor-replace' },
      why: expect.stringMatching(/stop rule/),
    });
    expect(list.map((p) => p.procedure.id)).not.toContain('airflow-sensor-clean');
  });
  test('maintenance without a fault: by distance, and nothing promised', () => {
    const list = plan({ causes: [{ fault: 'balanced', probability: 0.95 }], maintenance: true });
    expect(list.map((p) => p.procedure.id)).toEqual([
      'oxygen-sensor-in-tank',
      'airflow-sensor-clean',
      'ducts-and-filter',
    ]);
    // Common practice, no source: every 16,000 to 24,000 km.
    expect(list[0]!.why).toMatch(/16,000 to 24,000 km.*nothing is promised/);
    expect(plan({ causes: [{ fault: 'balanced', probability: 0.95 }] })).toEqual([]);
    const diesel = { ...vehicle, fuel: 'diesel' } as const;
    expect(ids({ vehicle: diesel, maintenance: true })).not.toContain('oxygen-sensor-in-tank');
  });
  test('only what suits the vehicle', () => {
    const causes = [{ fault: 'map-port-blocked', probability: 0.9 }];
    expect(ids({ causes })).not.toContain('boost-sensor-diesel');
    const diesel = { ...vehicle, fuel: 'diesel', metering: 'both', induction: 'turbo' } as const;
    expect(ids({ causes, vehicle: diesel })[0]).toMatch(/boost-sensor-diesel|pressure-hose/);
    expect(suits(SHIPPED_PROCEDURES[0]!, { ...vehicle, metering: 'speed-density' })).toBe(false);
  });
  test('what the shop does not own is known before step 1; every tool it may lack is one of the catalogue', () => {
    const smoke = SHIPPED_PROCEDURES.find((p) => p.id === 'smoke-test')!;
    expect(missingTools(smoke, undefined)).toEqual([]);
    expect(missingTools(smoke, ['borescope'])).toEqual(['smoke machine with regulated low pressure']);
    expect(missingTools(smoke, ['smoke-machine'])).toEqual([]);
    const lacking = SHIPPED_PROCEDURES.flatMap((p) => missingTools(p, []));
    expect(lacking).toHaveLength(5);
  });
  test('the link ticks what a relearn waits for', () => {
    const seen = liveTicks('throttle-relearn', 'start', { rpm: 3010, ect: 84 }).map((t) => [t.channel, t.state]);
    expect(seen).toEqual([
      ['rpm', 'holds'],
      ['ect', 'not yet'],
    ]);
    expect(liveTicks('throttle-relearn', 'idle-5', {})[0]!.state).toBe('not seen');
    for (const c of LIVE_CONDITIONS) {
      const step = SHIPPED_PROCEDURES.find((p) => p.id === c.procedure)!.steps.find((s) => s.id === c.step);
      expect([c.procedure, c.step, step !== undefined]).toEqual([c.procedure, c.step, true]);
    }
  });
  test('what others do and we do not names procedures that ship, with a reason', () => {
    const shipped = SHIPPED_PROCEDURES.map((p) => p.id);
    for (const n of NOT_DONE) {
      for (const id of n.procedures) expect(shipped).toContain(id);
      expect(n.why.length).toBeGreaterThan(10);
    }
  });
});
