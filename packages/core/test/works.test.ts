import { describe, expect, test } from '@jest/globals';
import { partOf, type VehicleSpec } from '../src/case/index.ts';
import {
  handOverDocuments,
  leftOpen,
  provenHere,
  recentWorkFrom,
  sectionWords,
  stillCondemned,
  torquesOf,
} from '../src/handOver/index.ts';
import {
  asks,
  cleanedInVain,
  cleaningsOf,
  type Happened,
  type PlanInput,
  plainDone,
  REPAIR_WORKS,
  runState,
  SHIPPED_PROCEDURES,
  servicePlan,
  shortLines,
  torqueDoubt,
  workText,
} from '../src/procedures/index.ts';
import { msOf } from '../src/time/index.ts';
import { DEFAULT_LIMITS } from '../src/trims/index.ts';
import { job, reading, repaired, T, taken } from './jobs.ts';

const procedure = (id: string) => SHIPPED_PROCEDURES.find((p) => p.id === id)!;
/** A run with these events, an hour apart from `from` on. */
const run = (id: string, from: string, ...what: Happened[]) => ({
  id: `run-${id}`,
  at: from,
  by: 'I. Sato',
  procedure: procedure(id),
  events: what.map((w, i) => ({ id: `e${i}`, atMs: msOf(from) + 3_600_000 * i, by: 'I. Sato', what: w })),
});
const ENDED: Happened = { kind: 'ended', left: [], counted: true };
const repair = (at: string, more: object = {}) => ({
  at,
  by: 'I. Sato',
  undone: false,
  text: 'x',
  fault: null,
  part: null,
  ...more,
});

describe('what was done, in words', () => {
  test('part and work; maintenance first; without a part the person’s own words', () => {
    expect(workText('cleaned', 'airflow sensor', '')).toBe('Airflow sensor cleaned');
    expect(workText('replaced', ' fuel filter ', 'the tank was empty')).toBe(
      'Fuel filter replaced: the tank was empty',
    );
    expect(workText('maintenance', 'oil', 'and filter')).toBe('Maintenance: oil, and filter');
    expect(workText('maintenance', '', '')).toBe('Maintenance');
    expect(workText('repaired', '', 'Duct refitted')).toBe('Duct refitted');
    for (const w of REPAIR_WORKS) expect(workText(w, '8 mm hose', '2 m of it')).toContain('8 mm hose');
  });
});

describe('cleanings of a part', () => {
  const byHand = (at: string, part: string, more: object = {}) => repair(at, { work: 'cleaned', part, ...more });
  const done = run('airflow-sensor-clean', T(3), ENDED);
  test('by its procedure or by hand, each once; a stopped one is none', () => {
    const stopped = run(
      'airflow-sensor-clean',
      T(4),
      { kind: 'stop', rule: procedure('airflow-sensor-clean').stopRules[0]!.if },
      ENDED,
    );
    expect(runState(stopped.procedure, stopped.events).stopped).not.toBeNull();
    const runs = [done, stopped];
    const repairs = [
      byHand(T(5), 'MAF sensor'),
      byHand(T(5), 'airflow sensor', { run: done.id }),
      byHand(T(5), 'airflow sensor', { undone: true }),
      byHand(T(5), 'throttle body'),
      repair(T(5), { work: 'replaced', part: 'airflow sensor' }),
    ];
    expect(cleaningsOf({ runs, repairs }, 'airflow-sensor')).toEqual([msOf(T(3)), msOf(T(5))]);
    expect(cleaningsOf({ runs, repairs }, 'throttle-body')).toHaveLength(1);
    expect(cleaningsOf({ runs, repairs }, 'oxygen-sensor')).toEqual([]);
  });
  test('in vain where it is said, or where it was decided to replace it after all', () => {
    const worked = { runs: [done], repairs: [] };
    const decided = (day: number, chosen: 'clean' | 'replace') => [
      { part: 'airflow-sensor' as const, chosen, at: T(day) },
    ];
    const read = [msOf(T(3, 20))];
    const vain = (decisions: ReturnType<typeof decided>, readMs = read) => cleanedInVain(worked, decisions, [], readMs);
    expect(vain(decided(4, 'replace'))).toEqual(['airflow-sensor']);
    // Decided without having read it again: nobody knows whether it helped.
    expect(vain(decided(4, 'replace'), [])).toEqual([]);
    expect(vain(decided(4, 'replace'), [msOf(T(5))])).toEqual([]);
    // Decided first, cleaned all the same: nothing is said of it yet.
    expect(vain(decided(2, 'replace'))).toEqual([]);
    expect(vain(decided(4, 'clean'))).toEqual([]);
    const said = (held: boolean) => [{ part: 'airflow-sensor' as const, held, at: T(5) }];
    expect(cleanedInVain(worked, [], said(false), [])).toEqual(['airflow-sensor']);
    expect(cleanedInVain(worked, [], said(true), read)).toEqual([]);
    expect(cleanedInVain({ runs: [], repairs: [] }, decided(4, 'replace'), said(false), read)).toEqual([]);
  });
});

describe('a decision moves the plan', () => {
  const vehicle: VehicleSpec = { fuel: 'petrol', metering: 'maf', displacementL: 2, cylinders: 4 };
  const plan = (decided: { part: 'airflow-sensor'; chosen: 'clean' | 'replace' }[], more: Partial<PlanInput> = {}) =>
    servicePlan({
      vehicle,
      causes: [
        { fault: 'vac-leak', probability: 0.6 },
        { fault: 'maf-dirty', probability: 0.3 },
      ],
      condemned: [],
      procedures: SHIPPED_PROCEDURES,
      done: [],
      decided,
      ...more,
    });
  const ids = (p: ReturnType<typeof plan>) => p.map((x) => x.procedure.id);
  test('what was decided comes first, the other way not at all; the newest decision counts', () => {
    expect(ids(plan([]))[0]).not.toMatch(/^airflow-sensor/);
    const replace = plan([
      { part: 'airflow-sensor', chosen: 'clean' },
      { part: 'airflow-sensor', chosen: 'replace' },
    ]);
    expect([ids(replace)[0], replace[0]!.why]).toEqual(['airflow-sensor-replace', 'Decided by its sum: replace.']);
    expect(ids(replace)).not.toContain('airflow-sensor-clean');
    const clean = ids(plan([{ part: 'airflow-sensor', chosen: 'clean' }]));
    expect(clean[0]).toBe('airflow-sensor-clean');
    expect(clean).not.toContain('airflow-sensor-replace');
  });
  test('a work is as likely to be needed as its causes together, at most sure', () => {
    const clean = (causes: PlanInput['causes']) =>
      plan([{ part: 'airflow-sensor', chosen: 'clean' }], { causes }).find(
        (x) => x.procedure.id === 'airflow-sensor-clean',
      )!.probability;
    const mine = (procedure('airflow-sensor-clean').for?.faults ?? []).slice(0, 2);
    expect(mine).toHaveLength(2);
    expect(clean([{ fault: mine[0]!, probability: 0.3 }])).toBeCloseTo(0.3, 12);
    expect(
      clean([
        { fault: mine[0]!, probability: 0.3 },
        { fault: mine[1]!, probability: 0.25 },
      ]),
    ).toBeCloseTo(0.55, 12);
    expect(
      clean([
        { fault: mine[0]!, probability: 0.7 },
        { fault: mine[1]!, probability: 0.6 },
      ]),
    ).toBe(1);
  });
  test('a cleaning that was decided hides the new part neither once it is done or stopped, nor from a condemned one', () => {
    const decided = [{ part: 'airflow-sensor', chosen: 'clean' }] as const;
    const done = (stopped: string | null) => ({ done: [{ procedure: 'airflow-sensor-clean', stopped }] });
    expect(ids(plan([...decided], done(null)))).toContain('airflow-sensor-replace');
    const turned = plan([...decided], done('broken'));
    expect([ids(turned)[0], turned[0]!.why]).toEqual([
      'airflow-sensor-replace',
      'A stop rule ended the cleaning: the part is replaced.',
    ]);
    expect(ids(plan([...decided], { condemned: ['maf-damaged'] }))[0]).toBe('airflow-sensor-replace');
  });
});

describe('papers', () => {
  const documents = (j: Parameters<typeof provenHere>[0]) =>
    handOverDocuments({
      job: j,
      shop: 'Linden Yard',
      proof: provenHere(j, {}),
      limits: DEFAULT_LIMITS,
      units: 'metric',
    });
  const all = (d: ReturnType<typeof documents>['customer']) => d.sections.map(sectionWords).join('\n');
  const rule = procedure('airflow-sensor-clean').stopRules[0]!.if;
  const told = job({
    runs: [run('airflow-sensor-clean', T(3), { kind: 'stop', rule }, ENDED)],
    repairs: [
      repair(T(5), { text: 'Airflow sensor replaced', work: 'replaced', part: 'airflow sensor', fault: 'maf-damaged' }),
    ],
    entries: [
      {
        kind: 'part',
        undone: false,
        at: T(4),
        by: 'I. Sato',
        data: { name: 'airflow sensor', number: 'AF-77', make: 'original', oldKept: true },
      },
    ],
  });
  test('what was begun, fitted and done is told in its order', () => {
    const text = all(documents(told).customer);
    const at = (words: string) => {
      expect(text).toContain(words);
      return text.indexOf(words);
    };
    const stopped = at('begun, and stopped because');
    const part = at('New part: airflow sensor, number AF-77, original');
    expect(stopped).toBeLessThan(part);
    expect(part).toBeLessThan(at('Airflow sensor replaced'));
  });
  test('cleaned for nothing is said in both; a part that somebody replaced by hand is condemned no more', () => {
    const cleaned = repair(T(3), { text: 'Airflow sensor cleaned', work: 'cleaned', part: 'airflow sensor' });
    const decision = {
      kind: 'decision',
      undone: false,
      at: T(4),
      by: 'x',
      data: { part: 'airflow-sensor', chosen: 'replace' },
    };
    const readings = [...job().readings, taken('after', T(3, 20), reading('idle', 12.7, 2.4))];
    const d = documents(job({ readings, repairs: [cleaned], entries: [decision] }));
    expect(all(d.customer)).toContain('Cleaning the airflow sensor did not help.');
    expect(all(d.technician)).toContain('Cleaned; it did not help: airflow sensor.');
    expect(all(documents(job({ repairs: [cleaned] })).customer)).not.toContain('did not help');
    const output = { ...job().diagnoses[0]!.output, condemned: ['maf-damaged'] };
    const condemned = { diagnoses: [{ at: T(2), output }] };
    expect(stillCondemned(job(condemned))).toEqual(['maf-damaged']);
    expect(stillCondemned({ ...told, ...condemned })).toEqual([]);
  });
});

describe('a torque that its screw cannot be tightened to', () => {
  // NIST SP 811: 1 lbf·in is 0.112985 N·m, 1 lbf·ft 1.355818 N·m.
  test('pounds-force inch read as newton metres are found', () => {
    const doubt = torqueDoubt(96, 'N·m', 9)!;
    expect(doubt.times).toBeCloseTo(10.67, 2);
    expect(doubt.meant!.unit).toBe('lbf·in');
    expect(doubt.meant!.nm).toBeCloseTo(10.85, 2);
    // And the other way round.
    expect(torqueDoubt(9, 'lbf·in', 9)!.meant).toEqual({ unit: 'N·m', nm: 9 });
  });
  test('far off in every unit it is only asked about; near it nothing is', () => {
    expect(torqueDoubt(60, 'N·m', 2)).toEqual({ times: 30, meant: null });
    for (const nm of [2.3, 9, 14, 35.9]) expect(torqueDoubt(nm, 'N·m', 9)).toBeNull();
    expect(torqueDoubt(80, 'lbf·in', 9)).toBeNull();
    expect(torqueDoubt(2.2, 'N·m', 9)).not.toBeNull();
  });
});

describe('a work in five lines', () => {
  test('every procedure: all its steps in their order, each once, in at most five lines', () => {
    for (const p of SHIPPED_PROCEDURES) {
      const lines = shortLines(p, runState(p, []));
      expect([p.id, lines.length <= 5]).toEqual([p.id, true]);
      expect(lines.flat().map((s) => s.id)).toEqual(p.steps.map((s) => s.id));
      expect(lines.every((l) => l.length > 0)).toBe(true);
    }
  });
  test('what falls away by an answer is in no line; what is through stays in its own', () => {
    const p = procedure('throttle-body-clean');
    const done = (step: string, answer?: string): Happened => ({
      kind: 'done',
      step,
      round: 0,
      ...(answer ? { answer } : {}),
    });
    const { events } = run(
      p.id,
      T(3),
      done('before'),
      done('cold', 'cold'),
      done('battery'),
      done('duct'),
      done('hoses', 'no'),
    );
    const ids = shortLines(p, runState(p, events))
      .flat()
      .map((s) => s.id);
    for (const gone of ['coolant', 'coolant-on', 'coolant-back']) expect(ids).not.toContain(gone);
    expect(ids).toContain('before');
  });
  test('done in one press: pictures are left out with a reason, a torque is the vehicle’s own where there is one', () => {
    const step = (kind: 'photo' | 'do' | 'torque') => ({
      id: 's',
      kind,
      text: 'x',
      ...(kind === 'torque' ? { torqueNm: 9 } : {}),
    });
    expect(plainDone(step('photo'), 2, null)).toEqual({ kind: 'skipped', step: 's', round: 2, reason: 'short form' });
    expect(plainDone(step('do'), 0, null)).toEqual({ kind: 'done', step: 's', round: 0 });
    expect(plainDone(step('torque'), 0, null)).toMatchObject({ torqueNm: 9, torqueSource: 'generic' });
    const own = { value: 11, source: 'maker’s sheet' };
    expect(plainDone(step('torque'), 0, own)).toMatchObject({ torqueNm: 11, torqueSource: 'maker’s sheet' });
  });
  test('what is done before its turn is done: it stays in its line, and nobody is asked again', () => {
    const p = procedure('airflow-sensor-clean');
    const last = shortLines(p, runState(p, []))
      .at(-1)!
      .filter((s) => !asks(s));
    const { events } = run(p.id, T(3), ...last.map((s) => plainDone(s, 0, null)));
    const s = runState(p, events);
    expect(s.current!.id).toBe(p.steps[0]!.id);
    expect([...s.early.keys()].sort()).toEqual(last.map((x) => x.id).sort());
    expect(s.ahead.filter((id) => s.early.has(id))).toEqual([]);
    expect(
      shortLines(p, s)
        .flat()
        .map((x) => x.id),
    ).toEqual(p.steps.map((x) => x.id));
  });
  test('a cleaning from the first line to its end in at most 25 presses', () => {
    // A press a line that is done, an answer, an acknowledgement; a wait is started, and done once it is over.
    const p = procedure('airflow-sensor-clean');
    let events: ReturnType<typeof run>['events'] = [];
    let presses = 0;
    let at = msOf(T(3));
    const say = (...what: Happened[]) => {
      presses++;
      at += 3_600_000;
      events = [...events, ...what.map((w, i) => ({ id: `p${presses} ${i}`, atMs: at, by: 'x', what: w }))];
    };
    for (let now = runState(p, events); now.current; now = runState(p, events)) {
      const line = shortLines(p, now).find((l) => l.includes(now.current!))!;
      const open = line.filter((s) => !now.results.has(s.id));
      const cautions = [...new Set(open.flatMap((s) => s.caution ?? []))].filter((c) => !now.cautions.has(c));
      if (cautions.length > 0)
        say(...cautions.map((caution): Happened => ({ kind: 'caution', caution, step: open[0]!.id })));
      const first = open.find((s) => s === now.current && asks(s));
      if (first?.kind === 'timer') {
        say({ kind: 'timer', step: first.id, round: 0 });
        say({ kind: 'done', step: first.id, round: 0 });
      } else if (first) {
        say({
          kind: 'done',
          step: first.id,
          round: 0,
          ...(first.answers ? { answer: first.answers[0]!.text } : { value: 1 }),
        });
      } else say(...open.filter((s) => !asks(s)).map((s) => plainDone(s, 0, null)));
    }
    expect(presses).toBeLessThanOrEqual(25);
    // Beginning it, counting out, finishing it: three more.
    expect(presses + 3).toBeLessThanOrEqual(25);
  });
});

describe('what is still open', () => {
  const open = (j: Parameters<typeof provenHere>[0]) => {
    const d = handOverDocuments({
      job: j,
      shop: 'Linden Yard',
      proof: provenHere(j, {}),
      limits: DEFAULT_LIMITS,
      units: 'metric',
    });
    return sectionWords(d.customer.sections.find((s) => s.id === 'open')!);
  };
  test('a likely cause that nobody repaired, and codes that are stored', () => {
    const leak = {
      ...job().diagnoses[0]!.output,
      causes: [{ ...job().diagnoses[0]!.output.causes[0]!, probability: 0.93 }],
    };
    const text = open(job({ diagnoses: [{ at: T(2, 12), output: leak }] }));
    expect(text).toContain('What is most likely wrong has not been repaired yet.');
    expect(text).toContain('Stored in the car’s memory when it was last read: P0171.');
  });
  test('a repair that is not shown to work; one that is leaves only what is to come', () => {
    expect(open(repaired({ readings: job().readings }))).toContain('That the repair works has not been shown');
    const after = { ...job().records[0]!, phase: 'after' as const, at: T(3, 16), codes: [] };
    const text = open(repaired({ records: [...job().records, after] }));
    expect(text).not.toContain('has not been shown');
    expect(text).not.toContain('Stored in the car');
    expect(text).not.toContain('has not been repaired');
  });
  test('steps that were left out are open, pictures that were not taken are not', () => {
    const p = procedure('airflow-sensor-clean');
    const all = p.steps.map(
      (s): Happened => ({
        kind: 'skipped',
        step: s.id,
        round: 0,
        reason: s.kind === 'photo' ? 'short form' : 'done before',
      }),
    );
    const pictures = p.steps.filter((s) => s.kind === 'photo').length;
    expect(pictures).toBeGreaterThan(0);
    expect(leftOpen({ runs: [run(p.id, T(4), ...all, ENDED)] }).join(' ')).toContain(
      `${p.steps.length - pictures} steps left out (done before)`,
    );
  });
});

describe('it came back', () => {
  const id = 'airflow-sensor-replace';
  const upTo = (last: string): Happened[] => {
    const steps = procedure(id).steps;
    return steps
      .slice(
        0,
        steps.findIndex((s) => s.id === last),
      )
      .map((s): Happened => ({ kind: 'skipped', step: s.id, round: 0, reason: 'seen' }));
  };
  const worked = job({
    repairs: [
      repair(T(3), { text: 'Crankcase hose replaced', work: 'replaced', part: 'crankcase hose' }),
      repair(T(3), { text: 'taken back', part: 'fuel filter', undone: true }),
    ],
    runs: [
      run(
        id,
        T(4),
        ...upTo('tight'),
        { kind: 'done', step: 'tight', round: 0, torqueNm: 1.4, torqueSource: 'sheet' },
        ENDED,
      ),
    ],
    entries: [
      {
        kind: 'part',
        undone: false,
        at: T(4),
        by: 'x',
        data: { name: 'airflow sensor', make: 'copy', oldKept: true },
      },
    ],
  });
  test('what this shop touched stands among what was touched last, by its days and make', () => {
    const list = recentWorkFrom(worked, msOf(T(9, 12)));
    const of = (part: string) => list.find((w) => w.part === partOf(part)!.id);
    expect(of('airflow sensor')).toMatchObject({ days: 4, make: 'copy' });
    expect(of('crankcase hose')).toMatchObject({ days: 6 });
    expect(list).toHaveLength(2);
    expect(recentWorkFrom(job(), msOf(T(9)))).toEqual([]);
  });
  test('and so do its torques, with whose figure each was', () => {
    expect(torquesOf(worked)).toEqual([
      { work: procedure(id).title, part: expect.stringMatching(/sensor/), nm: 1.4, source: 'sheet' },
    ]);
  });
});
