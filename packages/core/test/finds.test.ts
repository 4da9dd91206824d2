import { describe, expect, test } from '@jest/globals';
import { limitOf } from '../src/case/index.ts';
import { outcomesOf, TEST_BY_ID } from '../src/catalogue/index.ts';
import {
  answersFor,
  foundGood,
  foundIn,
  type Happened,
  knownAnswer,
  leadsOf,
  limitsOf,
  measuredWords,
  procedureProblems,
  type RunEvent,
  runState,
  SHIPPED_PROCEDURES,
  servicePlan,
  waitingMinutes,
} from '../src/procedures/index.ts';
import { wordsOf } from '../src/units/index.ts';

const procedure = (id: string) => SHIPPED_PROCEDURES.find((p) => p.id === id)!;
let n = 0;
const events = (...what: Happened[]): RunEvent[] =>
  what.map((w, i) => ({
    id: `e${String(n++).padStart(6, '0')}`,
    atMs: 1_700_000_000_000 + 60_000 * i,
    by: 'M. Roe',
    what: w,
  }));
const done = (step: string, more: object = {}, round = 0): Happened => ({ kind: 'done', step, round, ...more });
/** All steps of the way until `step`, each with its first answer, then what happens. */
function walked(id: string, step: string, ...what: Happened[]) {
  const p = procedure(id);
  const way: Happened[] = [];
  for (let now = runState(p, []).current; now && now.id !== step; now = runState(p, events(...way)).current)
    way.push(
      done(now.id, {
        ...(now.answers ? { answer: now.answers[0]!.text } : {}),
        ...(now.kind === 'measure' ? { value: now.low ?? now.high! } : {}),
        ...(now.kind === 'timer' ? { reason: 'not here' } : {}),
      }),
    );
  return { id: 'r1', procedure: p, events: events(...way, ...what) };
}

describe('what is found in a work is evidence', () => {
  test('every find of ours is a test of the catalogue with an outcome it has', () => {
    for (const p of SHIPPED_PROCEDURES) expect([p.id, procedureProblems(p)]).toEqual([p.id, []]);
    const leads = SHIPPED_PROCEDURES.flatMap((p) => [
      ...p.steps.flatMap((s) => [...(s.answers ?? []), s.within, s.below, s.above]),
      ...p.stopRules,
    ]);
    const tests = new Set(leads.flatMap((l) => (l?.finds ? [l.finds.test] : [])));
    expect([...tests].sort()).toEqual([
      'borescope-cat',
      'fuel-pressure',
      'fuse-check',
      'maf-electrical',
      'maf-inspect',
      'map-port-probe',
      'o2-heater-ohms',
      'residual-pressure',
      'smoke-intake',
      'visual-intake',
    ]);
  });
  test('every stop rule hangs on an answer or a figure: nobody has to think of it', () => {
    const loose = SHIPPED_PROCEDURES.flatMap((p) => {
      const led = p.steps.flatMap((s) => [...(s.answers ?? []), s.within, s.below, s.above]).map((l) => l?.stopRule);
      return p.stopRules.filter((r) => !led.includes(r.if)).map((r) => `${p.id}: ${r.if}`);
    });
    expect(loose).toEqual([]);
  });
  test('an answer is its test, with who gave it, when and where; opened again, it is gone', () => {
    const looked = [done('look', { answer: 'whole, with a film or fluff on it', photo: 'p1' })];
    expect(foundIn(walked('airflow-sensor-clean', 'look', ...looked))).toEqual([
      {
        run: 'r1',
        work: 'Clean the airflow sensor',
        step: 'look',
        atMs: expect.any(Number),
        by: 'M. Roe',
        photo: 'p1',
        test: { id: 'maf-inspect', outcome: 'dirty' },
      },
    ]);
    expect(foundIn(walked('airflow-sensor-clean', 'look', ...looked, { kind: 'reopened', step: 'look' }))).toEqual([]);
    const again = done('look', { answer: 'bent, burnt or broken' }, 1);
    const second = walked('airflow-sensor-clean', 'look', ...looked, { kind: 'reopened', step: 'look' }, again);
    expect(foundIn(second).map((f) => f.test.outcome)).toEqual(['damaged']);
    expect(runState(second.procedure, second.events).stopped?.if).toBe('the element is bent, burnt or broken');
  });
  test('a stop rule that a person presses says it too; one that came by a question is told once', () => {
    const byHand = foundIn(walked('catalyst-inspection', 'first', { kind: 'stop', rule: 'the face is broken' }));
    expect(byHand.map((f) => [f.step, f.test])).toEqual([[null, { id: 'borescope-cat', outcome: 'broken' }]]);
    const asked = foundIn(walked('catalyst-inspection', 'look', done('look', { answer: 'cracked or broken' })));
    expect(asked.map((f) => [f.step, f.test.outcome])).toEqual([['look', 'broken']]);
  });
  test('several that can stand together are one result', () => {
    const both = foundIn(
      walked(
        'ducts-and-filter',
        'filter',
        done('filter', { answer: 'loaded: replaced' }),
        done('filter-picture'),
        done('duct', { answer: 'split: a new one goes in' }),
      ),
    );
    expect(both.map((f) => [f.step, f.test])).toEqual([
      ['duct', { id: 'visual-intake', outcome: ['filter-loaded', 'duct-split'] }],
    ]);
  });
  test('a figure out of its limits leads where the data says: a dead heater stops the cleaning', () => {
    const p = procedure('oxygen-sensor-remove-clean');
    const heater = (value: number) => {
      const r = walked(p.id, 'heater', done('heater', { value }));
      return [foundIn(r).map((f) => f.test.outcome), runState(r.procedure, r.events).stopped?.if ?? null];
    };
    expect(heater(6)).toEqual([['ok'], null]);
    // As a meter shows no end of it.
    expect(heater(99_999)).toEqual([['open'], 'it is electrically dead']);
    expect(heater(0.2)).toEqual([['short'], 'it is electrically dead']);
    const step = p.steps.find((s) => s.id === 'heater')!;
    expect(leadsOf(step, step.low!)).toBe(step.within);
    const back = walked(p.id, 'heater', done('heater', { value: 99_999 }), { kind: 'reopened', step: 'heater' });
    expect([foundIn(back), runState(back.procedure, back.events).stopped]).toEqual([[], null]);
  });
  test('found good is not cleaned: no dirt source is asked for, and the way goes past it', () => {
    const p = procedure('airflow-sensor-clean');
    const state = (answer: string) => {
      const r = walked(p.id, 'look', done('look', { answer }));
      return runState(p, r.events);
    };
    const good = state('whole and bright');
    expect([foundGood(p, good), good.current?.id]).toEqual([true, 'ring']);
    const dirty = state('whole, with oil on it');
    expect([foundGood(p, dirty), dirty.current?.id]).toEqual([false, 'before']);
  });
  test('a find that the catalogue has not is refused by its field', () => {
    const p = structuredClone(procedure('airflow-sensor-clean'));
    const look = p.steps.findIndex((s) => s.id === 'look');
    p.steps[look]!.answers![0]!.finds = { test: 'maf-inspect', outcome: 'sparkling' };
    p.steps[look]!.above = { stopRule: 'nobody' };
    p.stopRules[0]!.finds = { test: 'nothing', outcome: 'ok' };
    expect(procedureProblems(p).map((x) => x.field)).toEqual([
      `steps[${look}].answers[0].finds`,
      `steps[${look}].above.stopRule`,
      'stopRules[0].finds',
    ]);
  });
});

describe('the plan from what is seen', () => {
  const vehicle = { fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4 } as const;
  const plan = (causes: [string, number][], tests: { id: string; outcome: string }[] = []) =>
    servicePlan({
      vehicle,
      causes: causes.map(([fault, probability]) => ({ fault, probability })),
      condemned: [],
      procedures: SHIPPED_PROCEDURES,
      done: [],
      tests,
    });
  test('a defect that is seen heads it, whatever the trims make of it', () => {
    const causes: [string, number][] = [
      ['maf-dirty', 0.5],
      ['fuel-low', 0.3],
      ['duct-leak', 0.04],
    ];
    expect(plan(causes)[0]!.procedure.id).not.toBe('ducts-and-filter');
    const [first] = plan(causes, [{ id: 'visual-intake', outcome: 'duct-split' }]);
    expect([first!.procedure.id, first!.why]).toEqual([
      'ducts-and-filter',
      expect.stringMatching(/^Seen with the eyes: duct leak/),
    ]);
    // A film on an element is seen on cars that run well.
    expect(plan(causes, [{ id: 'maf-inspect', outcome: 'dirty' }])[0]!.why).not.toMatch(/Seen/);
  });
  test('what a check would find out is not looked for again', () => {
    const causes: [string, number][] = [['vac-leak', 0.4]];
    expect(plan(causes).map((p) => p.procedure.id)).toContain('smoke-test');
    const smoked = plan(causes, [{ id: 'smoke-intake', outcome: 'brake-booster' }]);
    expect(smoked.map((p) => p.procedure.id)).not.toContain('smoke-test');
    expect(smoked[0]!.procedure.id).toBe('vacuum-hoses-and-gaskets');
    // One of its questions is known, the others are not.
    const fuel = plan([['fuel-low', 0.4]], [{ id: 'residual-pressure', outcome: 'holds' }]);
    expect(fuel.map((p) => p.procedure.id)).toContain('fuel-pressure-and-volume');
    const wired = plan([['maf-circuit', 0.4]], [{ id: 'fuse-check', outcome: 'ok' }]);
    expect(wired.map((p) => p.procedure.id)).toContain('fuse-and-connector');
  });
  test('a car that is likeliest in order is proposed no opened fuel line', () => {
    expect(
      plan([
        ['balanced', 0.6],
        ['fuel-low', 0.1],
        ['maf-dirty', 0.08],
      ]),
    ).toEqual([]);
    expect(
      plan([
        ['balanced', 0.1],
        ['fuel-low', 0.4],
      ]).map((p) => p.procedure.id),
    ).toContain('fuel-pressure-and-volume');
  });
  test('what its own text asks to be ruled out first stands before it, until a test has said so', () => {
    const causes: [string, number][] = [['maf-dirty', 0.6]];
    const clean = (tests: { id: string; outcome: string }[]) =>
      plan(causes, tests).find((p) => p.procedure.id === 'airflow-sensor-clean')!.open;
    expect(clean([])).toEqual(['air leaks', 'the crankcase system', 'ducts and filter']);
    expect(clean([{ id: 'smoke-intake', outcome: 'none' }])).toEqual(['the crankcase system', 'ducts and filter']);
    // Nobody got at it: nothing is ruled out by that.
    expect(clean([{ id: 'smoke-intake', outcome: 'not-accessible' }])).toContain('air leaks');
    const all = ['enrich-survey', 'pinch-pcv', 'visual-intake'].map((id) => ({ id, outcome: 'none' }));
    expect(clean(all)).toEqual([]);
  });
  test('what waits by itself is time too', () => {
    // Two minutes to run off and twenty-five to dry; no cooling where it is cool.
    expect(waitingMinutes(procedure('airflow-sensor-clean'))).toBe(27);
    expect(waitingMinutes(procedure('crankcase-valve-and-hose'))).toBe(0);
  });
  test('every defect that is seen is one of the tests of the catalogue', () => {
    for (const p of plan([], [{ id: 'smoke-intake', outcome: 'egr' }])) expect(p.faults).toEqual(['egr-gasket-leak']);
    expect(outcomesOf(TEST_BY_ID.get('visual-intake')!)).toContain('egr-joint-blown');
  });
});

describe('the vehicle’s own figure wins at a measuring step', () => {
  const p = procedure('fuel-pressure-and-volume');
  const idle = p.steps.find((s) => s.id === 'idle')!;
  const entered = (side: 'low' | 'high', value: number) => ({
    quantity: limitOf('fuel pressure at idle', side),
    value,
    unit: 'kPa',
    source: 'maker’s sheet',
  });
  test('generic limits, then the card’s, then what was entered; one bound may be open', () => {
    expect(limitsOf(idle, undefined, [])).toEqual({ low: 200, high: 500, whose: null });
    // A regulator on the manifold lets about 60 kPa less stand at idle; 8 % either way. Common practice, no source.
    const card = { fuelPressureKPa: 360, fuelPressureReference: 'manifold' } as const;
    expect(limitsOf(idle, card, [])).toEqual({ low: 276, high: 324, whose: 'the vehicle’s card' });
    expect(limitsOf(idle, card, [entered('low', 290)])).toEqual({ low: 290, whose: 'maker’s sheet' });
    const both = [entered('low', 280), entered('low', 300), entered('high', 350)];
    expect(limitsOf(idle, card, both)).toEqual({ low: 300, high: 350, whose: 'maker’s sheet' });
    // In another unit it is not a bound of this step.
    expect(limitsOf(idle, undefined, [{ ...entered('low', 3), unit: 'bar' }]).low).toBe(200);
  });
  test('a value is kept with what it was held against, and a wide generic range is no evidence', () => {
    const own = { low: 290, high: 330, whose: 'maker’s sheet' };
    const low = walked('fuel-pressure-and-volume', 'idle', done('idle', { value: 250, limits: own }));
    const r = runState(low.procedure, low.events).results.get('idle')!;
    expect([r.inside, r.limits]).toEqual([false, own]);
    expect(foundIn(low).map((f) => f.test)).toEqual([{ id: 'fuel-pressure', outcome: 'low' }]);
    const generic = walked('fuel-pressure-and-volume', 'idle', done('idle', { value: 190 }));
    expect(runState(generic.procedure, generic.events).results.get('idle')!.inside).toBe(false);
    expect(foundIn(generic)).toEqual([]);
    // As the list of steps and the paper have it, in either system.
    expect(wordsOf(measuredWords(idle, 250, own), 'metric')).toBe(
      'fuel pressure at idle: 250 kPa; 290 to 330 kPa (maker’s sheet): below its limit',
    );
    expect(wordsOf(measuredWords(idle, 310, { low: 290, whose: null }), 'us')).toBe(
      'fuel pressure at idle: 45.0 psi; at least 42.1 psi (generic): within its limits',
    );
    // A stop follows from the limits it was held against, not from the generic ones.
    const heater = procedure('oxygen-sensor-remove-clean').steps.find((s) => s.id === 'heater')!;
    expect(leadsOf(heater, 35)?.stopRule).toBeDefined();
    expect(leadsOf(heater, 35, { low: 4, high: 40, whose: 'maker’s sheet' })?.stopRule).toBeUndefined();
  });
});

describe('what was seen already is not asked again', () => {
  const p = procedure('airflow-sensor-clean');
  const look = p.steps.find((s) => s.id === 'look')!;
  const entry = (outcome: string | string[], more: object = {}) => ({
    id: 't1',
    at: '2026-05-04T09:12:00Z',
    by: 'R. Okafor',
    undone: false,
    test: { id: 'maf-inspect', outcome },
    ...more,
  });
  test('the newest result of the question’s own test is its answer; undone, doubled or foreign it is none', () => {
    const known = knownAnswer(p, look, [entry('clean'), entry('dirty', { id: 't2' })]);
    expect([known?.answer.finds?.outcome, known?.test.id]).toEqual(['dirty', 't2']);
    expect(knownAnswer(p, look, [])).toBeNull();
    expect(knownAnswer(p, look, [entry('dirty', { undone: true })])).toBeNull();
    expect(knownAnswer(p, look, [entry(['dirty', 'damaged'])])).toBeNull();
    expect(knownAnswer(p, look, [{ ...entry('leak'), test: { id: 'smoke-intake', outcome: 'duct' } }])).toBeNull();
  });
  test('a later look at the same thing is asked: the work lies between', () => {
    const again = { ...look, id: 'look-again' };
    const twice = { ...p, steps: [...p.steps, again] };
    expect(knownAnswer(twice, look, [entry('dirty')])).not.toBeNull();
    expect(knownAnswer(twice, again, [entry('dirty')])).toBeNull();
  });
  test('taken over it is no second find', () => {
    const dirty = look.answers!.find((a) => a.finds?.outcome === 'dirty')!.text;
    const at = (more: object) =>
      foundIn(walked('airflow-sensor-clean', 'look', done('look', { answer: dirty, ...more })));
    expect(at({})).toHaveLength(1);
    expect(at({ from: 't2' })).toEqual([]);
  });
  test('an engine is asked for what it has', () => {
    const smoke = procedure('smoke-test').steps.find((s) => s.id === 'look')!;
    const texts = (v: object, banks: 1 | 2 = 1) =>
      answersFor(smoke, { fuel: 'petrol', metering: 'maf', ...v }, banks).map((a) => a.text);
    expect(texts({ induction: 'na' })).not.toContain('at a charge pipe');
    expect(texts({ induction: 'turbo' })).toContain('at a charge pipe');
    expect(texts({}).filter((t) => t.includes('bank 2'))).toEqual([]);
    expect(texts({}, 2).filter((t) => t.includes('bank 2'))).toHaveLength(1);
    // A duct leaks on an engine without an airflow sensor too.
    expect(texts({ metering: 'speed-density' })).toContain('at a duct');
  });
});
