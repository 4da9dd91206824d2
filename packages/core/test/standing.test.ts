import { describe, expect, test } from '@jest/globals';
import { type HandOverJob, provenHere } from '../src/handOver/index.ts';
import { type Proven, STATIONS, standingOf } from '../src/standing/index.ts';
import { wordsOf } from '../src/units/index.ts';
import { job, reading, repaired, T, taken } from './jobs.ts';

const of = (j: HandOverJob) => standingOf(j, provenHere(j, {}));
const at = (j: HandOverJob) => of(j).station;
const diagnosed = (change: object) => {
  const [d] = job().diagnoses;
  return [{ at: d!.at, output: { ...d!.output, ...change } }];
};
const sure = diagnosed({ standing: { is: 'sure', why: '' } });
const record = (open: number, phase: 'before' | 'after' = 'after') => ({
  ...job().records[0]!,
  phase,
  codes: [],
  monitors: {
    monitors: [{ id: 'catalyst', state: open > 0 ? 'incomplete' : 'complete' }],
  } as unknown as HandOverJob['records'][number]['monitors'],
});

const empty = { records: [], readings: [], diagnoses: [] };
describe('where a job stands', () => {
  const outside = [...job().readings, taken('after', T(3, 15), reading('idle', 12, 2.4))];
  const twoOff = [job().readings[0]!, taken('before', T(2, 11), reading('hold-2500', 9.4, 9.3))];
  const back = [...twoOff, taken('after', T(3, 15), reading('idle', 0.4, 2.7))];
  test.each<[string, HandOverJob, string, RegExp]>([
    ['new', { ...job(), ...empty }, 'complaint', /codes and monitors first/],
    ['recorded', { ...job(), readings: [], diagnoses: [] }, 'readings', /take the readings/],
    ['one point of two', { ...job(), readings: [job().readings[0]!] }, 'readings', /take the readings/],
    ['read', job(), 'balance', /./],
    ['sure', job({ diagnoses: sure }), 'service', /^repair: air leak/],
    ['repaired', repaired({ readings: job().readings, diagnoses: sure }), 'prove', /^prove the repair/],
    // Two readings after a repair that is not proven: nothing says "proven".
    ['read again, and as before', repaired({ readings: outside }), 'prove', /prove the repair|find/],
    [
      'one point of two that were off',
      repaired({ readings: back }),
      'prove',
      /^prove|points that are missing|readiness/,
    ],
    ['proven', repaired(), 'readiness', /read the monitors/],
    ['proven, one monitor open', repaired({ records: [...job().records, record(1)] }), 'readiness', /monitors/],
    ['proven and complete', repaired({ records: [...job().records, record(0)] }), 'hand-over', /^hand over/],
    // What was read before the repair says nothing of the monitors after it.
    ['complete before the repair', repaired({ records: [record(0, 'before')] }), 'readiness', /monitors/],
    ['handed over', { ...repaired(), status: 'closed' }, 'hand-over', /^handed over/],
  ])('%s', (_, j, station, next) => {
    const s = of(j);
    expect([s.station, s.next.title]).toEqual([station, expect.stringMatching(next)]);
    expect(s.stations.map((v) => v.id)).toEqual([...STATIONS]);
    for (const v of s.stations) expect(v.figure.length).toBeGreaterThan(0);
  });

  test('a lean car that nobody repaired is not handed over, however complete its monitors are', () => {
    const lean = job({ records: [record(0, 'before')] });
    expect(STATIONS.indexOf(at(lean))).toBeLessThan(STATIONS.indexOf('prove'));
    expect(of(lean).stations.find((s) => s.id === 'readiness')).toMatchObject({ done: true, figure: 'all complete' });
  });

  test('a car in order has nothing to repair and nothing to prove', () => {
    const causes = [{ ...job().diagnoses[0]!.output.causes[0]!, fault: 'balanced', probability: 0.95 }];
    const fine = job({ diagnoses: diagnosed({ causes, mixture: 'balanced', standing: { is: 'sure', why: '' } }) });
    expect(of(fine)).toMatchObject({ station: 'readiness', next: { why: /in order/ } as never });
    expect(of(fine).stations.find((s) => s.id === 'service')!.done).toBe(true);
    expect(of(fine).stations.find((s) => s.id === 'prove')!.done).toBe(false);
  });

  test.each<[Proven, string, string]>([
    [{ verdict: 'worse', remains: [] }, 'prove', 'balance'],
    [{ verdict: 'a second fault shows', remains: [{ fault: 'fuel-low', probability: 0.7 }] }, 'prove', 'balance'],
    [{ verdict: 'better, still outside', remains: [] }, 'prove', 'prove'],
    [{ verdict: 'settling', remains: [] }, 'prove', 'prove'],
    [{ verdict: 'points missing', remains: [] }, 'prove', 'prove'],
    [{ verdict: 'balanced, a part condemned', remains: [] }, 'service', 'service'],
    [{ verdict: 'maintained', remains: [] }, 'readiness', 'readiness'],
  ])('after %j', (proof, station, next) => {
    const s = standingOf(repaired(), proof);
    expect([s.station, s.next.station, s.proof]).toEqual([station, next, proof]);
  });

  test('the rail shows the point that was furthest off, before and after, as the verdict compares it', () => {
    const j = repaired();
    const figure = of(j).stations.find((s) => s.id === 'prove')!.figure;
    expect(figure).toBe('+13.5 → +0.8 %');
    // The worst after is another point: +1.3 at the hold.
    expect(of(j).worst).toEqual({ totalPct: expect.closeTo(1.3, 9), at: 'hold-2500' });
    expect(wordsOf(provenHere(j, {})!.why, 'metric')).toContain(figure);
  });

  test('what is off the car comes first, with what it waits for', () => {
    const procedure = {
      id: 'x',
      title: 'Clean the plate',
      steps: [{ id: 'a', kind: 'take-off', text: 'Duct off', item: 'duct' }],
    };
    const events = [
      { id: '1', atMs: 1, by: 'A', what: { kind: 'done', step: 'a', round: 0 } },
      { id: '2', atMs: 2, by: 'A', what: { kind: 'parked', reason: 'rain', toOrder: ['ring'] } },
    ];
    const s = of(job({ runs: [{ at: T(2), by: 'A', procedure, events }] as unknown as HandOverJob['runs'] }));
    expect(s).toMatchObject({
      station: 'service',
      next: { title: 'parked, rain' },
      work: { state: 'parked', toOrder: ['ring'], off: ['duct'], reason: 'rain' },
    });
    expect(s.next.why).toBe('Off the car: duct. To order: ring.');
    expect(s.stations.find((v) => v.id === 'service')).toMatchObject({ done: false, figure: 'parked: rain' });
    const on = { id: '3', atMs: 3, by: 'B', what: { kind: 'order', part: 'ring', is: 'ordered' } };
    const runs = [{ at: T(2), by: 'A', procedure, events: [...events, on] }] as unknown as HandOverJob['runs'];
    expect(of(job({ runs })).next.why).toBe('Off the car: duct. Ordered: ring.');
    const begun = of(job({ runs: [{ at: T(2), by: 'A', procedure, events: [] }] as unknown as HandOverJob['runs'] }));
    expect([begun.next.title, begun.next.why]).toEqual(['clean the plate', 'Nothing is off the car.']);
    expect(begun.stations.find((v) => v.id === 'service')!.figure).toBe('clean the plate under way');
  });

  test('each station shows its figure, as a person would say it', () => {
    const figures = (j: HandOverJob) => Object.fromEntries(of(j).stations.map((v) => [v.id, v.figure]));
    const lead = `${Math.round(100 * job().diagnoses[0]!.output.causes[0]!.probability)} %`;
    expect(figures(job())).toEqual({
      complaint: 'rough idle · 1 code',
      readings: '2 of 2 kept',
      balance: `lean · ${lead}`,
      service: '—',
      prove: '—',
      readiness: '—',
      'hand-over': '—',
    });
    expect(figures({ ...job(), ...empty })).toMatchObject({
      complaint: 'rough idle',
      readings: '—',
      balance: 'waits for readings',
    });
    expect(figures(job({ complaint: { symptoms: [] }, records: [record(2, 'before')] }))).toMatchObject({
      complaint: 'no codes',
      readiness: '1 open',
    });
    const look = {
      undone: false,
      phase: 'before',
      at: T(2),
      by: 'A',
      test: { id: 'fuse-check', outcome: 'ok' },
    } as const;
    expect(figures(job({ tests: [look, { ...look, undone: true }] })).service).toBe('1 test done');
    expect(figures(repaired()).service).toBe('Intake gasket renewed');
    expect(figures({ ...repaired(), status: 'closed' })['hand-over']).toBe('handed over');
    expect(of(repaired({ records: [...job().records, record(0)] })).stations.map((v) => v.done)).toEqual([
      ...Array.from({ length: 6 }, () => true),
      false,
    ]);
  });

  test('two points show a shape: with more asked for the weighing goes on, with one it waits', () => {
    const asked = { complaint: { symptoms: ['rough-idle', 'low-power', 'hesitation'] } };
    expect(at(job(asked))).toBe('balance');
    expect(at(job({ ...asked, readings: [job().readings[0]!] }))).toBe('readings');
    const look = {
      undone: false,
      phase: 'before',
      at: T(2),
      by: 'A',
      test: { id: 'fuse-check', outcome: 'ok' },
    } as const;
    expect(at(job({ ...asked, readings: [job().readings[0]!], tests: [look] }))).toBe('balance');
  });

  test('a judgement kept before it said where it stands is read by its chance', () => {
    const { standing: _, ...old } = job().diagnoses[0]!.output;
    const [first, ...rest] = old.causes;
    const kept = (probability: number) =>
      job({ diagnoses: [{ at: T(2), output: { ...old, causes: [{ ...first!, probability }, ...rest] } as never }] });
    expect([at(kept(0.9)), at(kept(0.6))]).toEqual(['service', 'balance']);
  });
});
