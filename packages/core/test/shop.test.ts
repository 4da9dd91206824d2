import { describe, expect, test } from '@jest/globals';
import jstat from 'jstat';
import { median, medianAbsoluteDeviation, quantile } from 'simple-statistics';
import { FAULTS, RESULTS } from '../src/catalogue/index.ts';
import { diagnose } from '../src/diagnosis/index.ts';
import {
  betaShare,
  type JobOutcome,
  LANES,
  type Lane,
  laneOf,
  learn,
  learnedFigures,
  learnedSettings,
  luckOfOne,
  luckOfTwo,
  type OutcomeOfJob,
  PRIOR_STRENGTH,
  robustBand,
  searchWords,
  studentQuantile,
  TEST_STRENGTH,
  waitsOf,
} from '../src/shop/index.ts';
import type { StationId, WorkUnderWay } from '../src/standing/index.ts';
import { wordsOf } from '../src/units/index.ts';
import { job, T } from './jobs.ts';

const { jStat } = jstat;
const close = (a: number, b: number, by = 1e-6) => expect(Math.abs(a - b)).toBeLessThan(by * Math.max(1, Math.abs(b)));

/** Lean at idle, nothing else known. */
const LEAN = {
  format: 'just-balance/case' as const,
  version: 1 as const,
  id: 'x',
  vehicle: { fuel: 'petrol' as const, metering: 'maf' as const, displacementL: 2, cylinders: 4 },
  ambient: { baroKPa: 99 },
  readings: [
    {
      at: 'idle' as const,
      rpm: 720,
      mafGps: 2.4,
      loop: 'closed' as const,
      trims: { bank1: { stft: 1, ltft: 13 } },
    },
  ],
};

describe('against independent statistics packages (jStat, simple-statistics)', () => {
  test('Student’s t', () => {
    for (const df of [1, 2, 3, 5, 9, 30, 200])
      for (const p of [0.75, 0.9, 0.975, 0.995]) close(studentQuantile(p, df), jStat.studentt.inv(p, df), 1e-5);
    // Printed tables: t(0.975; 10) = 2.228 (Abramowitz & Stegun table 26.10).
    expect(studentQuantile(0.975, 10)).toBeCloseTo(2.228, 3);
  });

  test('each share of a Dirichlet is a Beta', () => {
    for (const [a, b] of [
      [1, 1],
      [3.4, 60],
      [12, 4],
      [0.3, 59.7],
    ] as const) {
      const s = betaShare(a, b);
      close(s.mean, jStat.beta.mean(a, b));
      close(s.low, jStat.beta.inv(0.025, a, b), 1e-5);
      close(s.high, jStat.beta.inv(0.975, a, b), 1e-5);
    }
  });

  test('the robust band: median, deviation from it, Student’s factor', () => {
    const values = [2.61, 2.7, 2.66, 2.58, 2.74, 2.63, 9.9];
    const b = robustBand(values)!;
    const s = Math.max(1.482602218505602 * medianAbsoluteDeviation(values), 0.02 * median(values));
    const half = jStat.studentt.inv(0.975, 6) * s * Math.sqrt(1 + 1 / 7);
    close(b.middle, median(values));
    close(b.low, median(values) - half, 1e-5);
    close(b.high, median(values) + half, 1e-5);
    // One wrong figure among seven is far outside, and moves the band little.
    expect(b.high).toBeLessThan(3.2);
  });

  test('it narrows with the count, is not offered below four, and is never narrower than engines differ', () => {
    const of = (n: number) => robustBand(Array.from({ length: n }, (_, i) => 3 + 0.1 * (i % 4)))!;
    expect(robustBand([3, 3, 3])).toBeNull();
    const width = (n: number) => of(n).high - of(n).low;
    expect(width(4)).toBeGreaterThan(width(8));
    expect(width(8)).toBeGreaterThan(width(40));
    const same = robustBand([3, 3, 3, 3, 3])!;
    expect(same.high - same.low).toBeGreaterThan(0.1);
  });
});

const NONE: JobOutcome = {
  family: 'petrol 2.0 L, 4 cylinders, maf, na, port',
  proven: [],
  leading: null,
  tests: [],
  good: [],
  baroKPa: 99,
  procedures: [],
  cleanings: [],
  minutesToCause: null,
  broke: [],
  drives: 0,
  cameBackOf: null,
  closed: true,
};
const jobs = (...outcomes: Partial<JobOutcome>[]): OutcomeOfJob[] =>
  outcomes.map((l, i) => ({ job: `j${i}`, outcome: { ...NONE, ...l } }));
const many = (n: number, l: Partial<JobOutcome>) => Array.from({ length: n }, () => l);

describe('causes', () => {
  test('ours on top of nothing; a proven job moves its cause and says from which job', () => {
    const before = learn([]);
    const weight = FAULTS.reduce((n, f) => n + f.weight, 0);
    const of = (l: ReturnType<typeof learn>, fault: string) => l.causes.find((c) => c.fault === fault)!;
    close(of(before, 'vac-leak').mean, 8 / weight);
    close(
      before.causes.reduce((n, c) => n + c.mean, 0),
      1,
    );
    const l = learn(jobs(...many(20, { proven: ['pcv-stuck-open'] }), { proven: ['fuel-low'] }));
    close(of(l, 'pcv-stuck-open').mean, ((PRIOR_STRENGTH * 2) / weight + 20) / (PRIOR_STRENGTH + 21));
    expect(of(l, 'fuel-low')).toMatchObject({ count: 1, jobs: ['j20'] });
    close(
      l.causes.reduce((n, c) => n + c.mean, 0),
      1,
    );
    // What was proven most often here stands first; of the rest what is commoner anywhere.
    expect(l.causes.slice(0, 2).map((c) => c.fault)).toEqual(['pcv-stuck-open', 'fuel-low']);
    const rest = l.causes.slice(2).map((c) => c.mean);
    expect(rest).toEqual([...rest].sort((a, b) => b - a));
    const { low, high, mean } = of(l, 'pcv-stuck-open');
    expect(low < mean && mean < high).toBe(true);
  });

  test('a job that came back proves nothing, and counts as not fixed the first time', () => {
    const l = learn(jobs({ proven: ['fuel-low'] }, { proven: ['vac-leak'] }, { cameBackOf: 'j0', closed: false }));
    expect(l.causes.filter((c) => c.count > 0).map((c) => c.fault)).toEqual(['vac-leak']);
    expect(l.firstTime).toMatchObject({ fixed: 1, back: 1, jobs: ['j0'] });
  });

  test('on a case: two causes that read alike change places where the shop has seen one of them often', () => {
    const c = {
      ...LEAN,
      readings: [
        ...LEAN.readings,
        {
          at: 'hold-2500' as const,
          rpm: 2500,
          mafGps: 9.2,
          loop: 'closed' as const,
          trims: { bank1: { stft: 0, ltft: 4 } },
        },
      ],
    };
    const l = learn(jobs(...many(60, { proven: ['crankcase-leak'] })));
    const p = (settings: object, f: string) => diagnose(c, settings).causes.find((x) => x.fault === f)!.probability;
    const learned = learnedSettings(l, { priors: true });
    expect(p({}, 'crankcase-leak')).toBeLessThan(1.2 * p({}, 'vac-leak'));
    expect(p(learned, 'crankcase-leak')).toBeGreaterThan(3 * p(learned, 'vac-leak'));
    expect(learnedSettings(l, {})).toEqual({});
  });
});

describe('tests', () => {
  const smoke = (outcomes: string[], proven: string[]): Partial<JobOutcome> => ({
    proven,
    tests: [{ id: 'smoke-intake', outcomes }],
  });
  test('hits and false alarms from what was proven in the end; Beta counts on top of ours', () => {
    const l = learn(
      jobs(
        ...many(6, smoke(['none'], ['vac-leak'])),
        ...many(2, smoke(['gasket-bank1'], ['vac-leak'])),
        ...many(3, smoke(['none'], ['fuel-low'])),
        smoke(['brake-booster'], ['fuel-low']),
      ),
    );
    const t = l.tests.find((x) => x.test === 'smoke-intake')!;
    expect([t.hits.yes, t.hits.no]).toEqual([2, 6]);
    // Not found is silent as well: no alarm.
    expect([t.alarms.yes, t.alarms.no]).toEqual([1, 9]);
    const ours = Math.min(
      0.99,
      Object.values(RESULTS['smoke-intake']!.shows).reduce((n, s) => n + (s['vac-leak'] ?? 0), 0),
    );
    close(t.hits.mean, (TEST_STRENGTH * ours + 2) / (TEST_STRENGTH + 8));
    expect(t.hits.jobs).toHaveLength(8);
  });

  test('a test that misses here weighs less when it finds nothing; the factor is bounded', () => {
    const l = learn(jobs(...many(400, smoke(['none'], ['vac-leak']))));
    const { reliability } = learnedSettings(l, { tests: true });
    expect(reliability!['smoke-intake']!.hits).toBeCloseTo(1 / 3, 3);
    const c = {
      ...LEAN,
      tests: [{ id: 'smoke-intake', outcome: 'none' }],
    };
    const leak = (settings: object) => diagnose(c, settings).causes.find((x) => x.fault === 'vac-leak')!.probability;
    expect(leak({ reliability })).toBeGreaterThan(1.5 * leak({}));
    // Factors of one change nothing at all.
    expect(diagnose(c, { reliability: { 'smoke-intake': { hits: 1, alarms: 1 } } })).toEqual(diagnose(c));
    const sum = diagnose(c, { reliability: { 'smoke-intake': { hits: 10, alarms: 10 } } }).causes.reduce(
      (n, x) => n + x.probability,
      0,
    );
    close(sum, 1, 1e-3);
  });
});

test('known-good figures by family, point and quantity; offered as the third layer, and said so', () => {
  const good = (v: number) => ({ proven: ['vac-leak'], good: [{ at: 'idle', airflow: v, manifold: 31 }], baroKPa: 98 });
  const l = learn(jobs(good(2.6), good(2.7), good(2.65), good(2.62), good(2.71), { ...good(9), family: 'other' }));
  expect(l.figures.map((f) => [f.quantity, f.n])).toEqual([
    ['airflow', 5],
    ['manifold', 5],
  ]);
  const [airflow] = learnedFigures(l, NONE.family);
  expect(airflow).toMatchObject({
    layer: 'shop',
    at: 'idle',
    quantity: 'airflow',
    source: 'learned from 5 proven jobs of this family',
    baroKPa: 98,
  });
  expect(airflow!.low).toBeLessThan(2.6);
  expect(airflow!.high).toBeGreaterThan(2.71);
  expect(learnedFigures(l, 'other')).toEqual([]);
});

test('cleanings by part and source, minutes against the advised, what breaks drives', () => {
  const run = (minutes: number) => ({
    id: 'airflow-sensor-clean',
    title: 'Clean the airflow sensor',
    minutes,
    advised: 25,
  });
  const l = learn(
    jobs(
      {
        cleanings: [{ part: 'airflow-sensor', source: 'crankcase-oil', held: false }],
        procedures: [run(40)],
        minutesToCause: 50,
      },
      {
        cleanings: [{ part: 'airflow-sensor', source: 'crankcase-oil', held: false }],
        procedures: [run(20)],
        minutesToCause: 90,
        broke: ['soak'],
        drives: 2,
      },
      {
        cleanings: [{ part: 'airflow-sensor', source: null, held: true }],
        procedures: [run(30)],
        minutesToCause: 10,
        broke: ['soak', 'idle-hold', 'cruise-evap'],
        drives: 1,
      },
    ),
  );
  expect(l.cleanings.map((c) => [c.source, c.held, c.failed])).toEqual([
    ['crankcase-oil', 0, 2],
    [null, 1, 0],
  ]);
  expect(l.procedures[0]).toMatchObject({ n: 3, median: 30, low: quantile([20, 30, 40], 0.25), advised: 25 });
  expect(l.minutesToCause).toMatchObject({ n: 3, median: 50 });
  expect(l.breaks).toEqual([
    { what: 'soak', count: 2, jobs: ['j1', 'j2'] },
    { what: 'cruise-evap', count: 1, jobs: ['j2'] },
    { what: 'idle-hold', count: 1, jobs: ['j2'] },
  ]);
  expect(l.drives).toBe(3);
});

test('words that find a text: accents, signs and case do not matter; figures stay', () => {
  expect(searchWords('The Škoda’s P0171 was ÜBER-lean, 3.5 bar!')).toEqual(['skoda', 'p0171', 'uber', 'lean', 'bar']);
  expect(searchWords('ZZZK18AB9E0004217')).toEqual(['zzzk18ab9e0004217']);
  expect(searchWords(`${'x'.repeat(500)} \u0000 汽车`)).toEqual(['x'.repeat(40), '汽车']);
});

test('a soak that a plan waits for begins anew with a drive after it', () => {
  const entry = (kind: string, at: string, data: object) => ({
    id: `${kind} ${at}`,
    kind,
    at,
    by: 'I. Sato',
    undone: false,
    data,
  });
  const plan = entry('plan', T(3, 18), {
    procedure: 'steady-cruise',
    state: { engineOffSince: T(3, 17), incomplete: ['evap'] },
    forecast: [],
    cooling: [],
  });
  const soak = (...entries: object[]) =>
    waitsOf(job({ entries: entries as never })).find((w) => w.for === 'soak')?.until;
  const whole = (at: string | null | undefined) => at && Date.parse(at);
  // Eight hours from 17:00 are over at 01:00; driven until 20:00 at 04:00. A drive from before the plan changes nothing.
  expect(whole(soak(plan))).toBe(Date.parse(T(4, 1)));
  expect(whole(soak(plan, entry('drive', T(3, 20), {})))).toBe(Date.parse(T(4, 4)));
  expect(whole(soak(entry('drive', T(3, 12), {}), plan))).toBe(Date.parse(T(4, 1)));
});

describe('how often luck would do it', () => {
  test('Fisher’s tea, and the table of six and eight, by their published and exact figures', () => {
    // Fisher 1935: three of four cups right on each side, 34 of 70.
    expect(luckOfTwo(3, 4, 1, 4)).toBeCloseTo(34 / 70, 9);
    // Four of four: 2 of 70.
    expect(luckOfTwo(4, 4, 0, 4)).toBeCloseTo(2 / 70, 9);
    // 5 of 6 against 1 of 8: C(6,5)·C(8,1) + C(6,6)·C(8,0) of C(14,6), and what is as rare on the other side.
    const far = (6 * 8 + 1 + 28) / 3003;
    expect(luckOfTwo(5, 6, 1, 8)).toBeCloseTo(far, 9);
    expect(luckOfTwo(1, 8, 5, 6)).toBeCloseTo(far, 9);
    expect(luckOfTwo(0, 5, 0, 9)).toBe(1);
  });
  test('the binomial against jStat', () => {
    for (const [k, n, share] of [
      [9, 10, 0.5],
      [3, 40, 0.2],
      [20, 171, 0.032],
    ] as const) {
      const p = (x: number) => jStat.binomial.pdf(x, n, share);
      let sum = 0;
      for (let x = 0; x <= n; x++) if (p(x) <= p(k) * (1 + 1e-7)) sum += p(x);
      close(luckOfOne(k, n, share), sum, 1e-5);
    }
  });
});

describe('what is worth saying', () => {
  const words = (list: Partial<JobOutcome>[]) =>
    learn(jobs(...list)).findings.map((f) => ({ ...f, sentence: wordsOf(f.sentence, 'metric') }));
  test('nothing of fewer than ten jobs, and nothing of a shop that is as was assumed', () => {
    expect(words(many(9, { proven: ['purge-open'] }))).toEqual([]);
    const asAssumed = FAULTS.flatMap((f) => many(Math.round(f.weight), { proven: [f.id] }));
    expect(words(asAssumed)).toEqual([]);
  });
  test('a cause that comes more often; sure once later jobs say the same, and not before', () => {
    const others = FAULTS.flatMap((f) => many(1, { proven: [f.id] }));
    const mixed = [...many(14, { proven: ['purge-open'] }), ...others];
    const early = words(mixed);
    expect(early[0]).toMatchObject({ id: 'cause-purge-open', uses: 'priors', sure: false });
    expect(early[0]!.sentence).toMatch(/^Purge valve stuck open comes \d+ times as often here as was assumed\.$/);
    expect(early[0]!.doubt).toMatch(
      /^Luck alone would do this (1 time in|less than 1 time in) .* look again at 30 jobs\.$/,
    );
    expect(early[0]!.jobs).toHaveLength(15);
    const [later] = words([...mixed, ...mixed, ...mixed]);
    expect(later).toMatchObject({
      id: 'cause-purge-open',
      sure: true,
      doubt: expect.stringMatching(/the jobs since then say the same/),
    });
  });
  test('a quick test that finds as much as a long one; not where it finds less', () => {
    const both = (pinch: string): Partial<JobOutcome> => ({
      proven: ['crankcase-leak'],
      tests: [
        { id: 'pinch-pcv', outcomes: [pinch] },
        { id: 'smoke-intake', outcomes: ['pcv'] },
      ],
    });
    const pinched = (list: Partial<JobOutcome>[]) => words(list).find((f) => f.id.startsWith('test-'));
    expect(pinched(many(12, both('changes')))).toMatchObject({
      id: 'test-pinch-pcv-smoke-intake',
      uses: 'tests',
      picture: { kind: 'minutes', rows: [{ note: 'found it in 12 of 12' }, { note: 'found it in 12 of 12' }] },
    });
    expect(pinched([...many(9, both('changes')), ...many(3, both('no-change'))])).toBeUndefined();
  });
  test('a healthy engine, once newer cars fall into the band of the older ones', () => {
    const good = (v: number) => ({ proven: ['vac-leak'], good: [{ at: 'idle', airflow: v }] });
    const list = Array.from({ length: 24 }, (_, i) => good(2.6 + 0.02 * (i % 5)));
    const f = (more: Partial<JobOutcome>[]) => words(more).find((x) => x.id.startsWith('known-good'));
    expect(f(list)!.sentence).toMatch(/^A healthy .* idles on 2\.[45] to 2\.[78] g\/s here\.$/);
    // Newer ones are elsewhere: it is no band.
    expect(f([...list.slice(0, 16), ...Array.from({ length: 10 }, (_, i) => good(3.4 + 0.1 * i))])).toBeUndefined();
  });
  test('minutes that differ from the advised ones nearly every time; dirt after which a cleaning does not hold', () => {
    const run = (minutes: number) => ({ procedures: [{ id: 'p', title: 'Purge valve', minutes, advised: 20 }] });
    const longer = Array.from({ length: 14 }, (_, i) => run(31 + (i % 4)));
    expect(words(longer).map((f) => f.sentence)).toEqual([
      '“Purge valve” takes 32 minutes here: plan with that, not with 20.',
    ]);
    expect(words(Array.from({ length: 14 }, (_, i) => run(17 + (i % 7))))).toEqual([]);
    const cleaned = (source: string | null, held: boolean) => ({
      cleanings: [{ part: 'airflow-sensor', source, held }],
    });
    const [dirt] = words([
      ...many(5, cleaned('filter-bypass', false)),
      cleaned('filter-bypass', true),
      cleaned(null, false),
      ...many(7, cleaned(null, true)),
    ]);
    expect(dirt!.sentence).toMatch(/^Cleaned after .*, the .*airflow sensor.* comes back more often\.$/);
    expect(dirt).toMatchObject({
      picture: {
        rows: [
          { yes: 5, of: 6 },
          { yes: 1, of: 8 },
        ],
      },
    });
    // The table of six and eight: 77 of 3,003.
    expect(dirt!.doubt).toMatch(/1 time in 39;/);
  });
});

describe('the lane of a car', () => {
  const nothing = { off: [], toOrder: [], ordered: [] };
  const WORK: WorkUnderWay = { title: 'x', state: 'running', step: null, ...nothing, reason: null };
  const at = (station: StationId, work: WorkUnderWay | null = null) => ({ station, work });
  test.each<[string, Parameters<typeof laneOf>, Lane]>([
    ['somebody works on it', [at('readings'), []], 'bench'],
    ['a timer runs: somebody is beside it', [at('service', { ...WORK, off: [] }), [{ for: 'timer' }]], 'bench'],
    ['a part comes before a drive that was planned', [at('service'), [{ for: 'soak' }, { for: 'part' }]], 'part'],
    ['a soak for the drive', [at('prove'), [{ for: 'soak' }]], 'drive'],
    ['monitors are open', [at('readiness'), []], 'drive'],
    ['something is off the car: no drive before that', [at('service', { ...WORK }), [{ for: 'soak' }]], 'bench'],
    ['nothing is left to do, whatever was planned', [at('hand-over'), [{ for: 'soak' }]], 'customer'],
    ['a reminder of another day is no wait', [at('balance'), [{ for: 'look-again' }]], 'bench'],
  ])('%s', (_, given, lane) => {
    expect(laneOf(...given)).toBe(lane);
    expect(LANES).toContain(lane);
  });
});
