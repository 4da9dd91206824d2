import { describe, expect, test } from '@jest/globals';
import { CAPTURE_POINTS } from '../src/capture/index.ts';
import { FAULTS } from '../src/catalogue/index.ts';
import {
  CAUTIONS,
  type Procedure,
  type ProcedureStep,
  procedureProblems,
  type RunEvent,
  runState,
  SHIPPED_PROCEDURES,
} from '../src/procedures/index.ts';
import { figure, said, wordsOf } from '../src/units/index.ts';

const all = SHIPPED_PROCEDURES.flatMap((p) => p.steps.map((s) => [p, s] as const));
const where = ([p, s]: readonly [Procedure, ProcedureStep]) => `${p.id}/${s.id}`;
const byId = (id: string) => SHIPPED_PROCEDURES.find((p) => p.id === id)!;

describe('our procedures', () => {
  test('each can be run: ids, jumps, stop rules, what comes off and goes back on', () => {
    for (const p of SHIPPED_PROCEDURES) expect([p.id, procedureProblems(p)]).toEqual([p.id, []]);
    expect(new Set(SHIPPED_PROCEDURES.map((p) => p.id)).size).toBe(SHIPPED_PROCEDURES.length);
  });

  // Common practice, no source: the work that a procedure must exist for.
  test.each([
    'airflow-sensor-clean',
    'airflow-sensor-replace',
    'manifold-pressure-sensor-clean',
    'manifold-pressure-sensor-replace',
    'boost-sensor-diesel',
    'pressure-hose-and-port',
    'oxygen-sensor-in-tank',
    'oxygen-sensor-vacuum-hose',
    'oxygen-sensor-remove-clean',
    'oxygen-sensor-replace',
    'throttle-body-clean',
    'throttle-relearn',
    'catalyst-inspection',
    'egr-valve-and-joint',
    'crankcase-valve-and-hose',
    'vacuum-hoses-and-gaskets',
    'ducts-and-filter',
    'purge-valve',
    'fuel-pressure-and-volume',
    'smoke-test',
    'fuse-and-connector',
  ])('%s ships', (id) => expect(byId(id)).toBeDefined());

  test('whatever comes off in a procedure has a step that puts it back', () => {
    for (const p of SHIPPED_PROCEDURES)
      for (const off of p.steps.filter((s) => s.kind === 'take-off'))
        expect([p.id, off.id, p.steps.some((s) => s.kind === 'refit' && [off.item, off.id].includes(s.item))]).toEqual([
          p.id,
          off.id,
          true,
        ]);
  });

  test('every step can be reached, with any answers, and every way ends with all parts back on', () => {
    for (const p of SHIPPED_PROCEDURES) {
      const reached = new Set<string>();
      const ways: RunEvent[][] = [[]];
      const seen = new Set<string>();
      let ends = 0;
      while (ways.length > 0) {
        const events = ways.pop()!;
        const s = runState(p, events);
        if (!s.current) {
          ends++;
          // A question may leave the part out of it; what stays off is asked about at the end.
          continue;
        }
        reached.add(s.current.id);
        const step = s.current;
        const state = `${step.id} ${s.stopped?.if ?? ''} ${s.off.filter((o) => !o.back).map((o) => o.id)}`;
        if (seen.has(state)) continue;
        seen.add(state);
        const n = events.length;
        for (const answer of step.answers ?? [null])
          ways.push([
            ...events,
            {
              id: `e${String(n).padStart(4, '0')}`,
              atMs: n,
              by: 'x',
              what: {
                kind: 'done',
                step: step.id,
                round: s.rounds.get(step.id) ?? 0,
                value: step.low ?? step.high ?? 1,
                reason: 'as a test',
                ...(answer ? { answer: answer.text } : {}),
              },
            },
          ]);
      }
      expect([p.id, p.steps.map((s) => s.id).filter((id) => !reached.has(id))]).toEqual([p.id, []]);
      expect(ends).toBeGreaterThan(0);
    }
  });

  test('cautions both ways: each a procedure lists stands on a step, each a step names is listed; none of the table idle', () => {
    const known = new Set(CAUTIONS.map((c) => c.id));
    for (const p of SHIPPED_PROCEDURES) {
      const named = new Set(p.steps.flatMap((s) => (s.caution === undefined ? [] : [s.caution])));
      expect([p.id, [...named].sort()]).toEqual([p.id, [...new Set(p.cautions)].sort()]);
      for (const c of named) expect(known).toContain(c);
    }
    const used = new Set([
      ...SHIPPED_PROCEDURES.flatMap((p) => p.cautions),
      ...CAUTIONS.filter((c) => c.steps.length > 0).map((c) => c.id),
    ]);
    expect([...known].filter((id) => !used.has(id))).toEqual([]);
  });

  /** What a step's words are about, and the caution that must stand on it or on a step before it. */
  const ABOUT: [RegExp, string[]][] = [
    [/\bcleaner\b.*(burst|spray|into the port)|bursts? .*cleaner/i, ['solvents-fuel', 'in-place-solvent']],
    [/unplug|plug straight|plug off/i, ['electrical', 'solvents-fuel', 'hot-parts']],
    [/stands? on firm ground/i, ['under-vehicle']],
    [/battery (back|off)|disconnect the battery/i, ['battery', 'throttle-plate']],
    [/pressure cap|coolant hoses on/i, ['coolant']],
    [/relieve (the|fuel) pressure/i, ['fuel-pressure']],
    [/drive the load|under load, two people/i, ['road-test']],
    [/hold 3,000 rpm|at about 2,000 rpm|at 2,000 to 3,000 rpm/i, ['running-engine']],
  ];
  test('a step about solvent, plugs, stands, battery, coolant, fuel pressure, road or a running engine says its caution', () => {
    for (const row of all)
      for (const [about, cautions] of ABOUT)
        if (about.test(wordsOf(row[1].text, 'own')) && row[1].kind !== 'photo') {
          const at = row[0].steps.indexOf(row[1]);
          const before = row[0].steps.slice(0, at + 1).flatMap((s) => s.caution ?? []);
          expect([where(row), about.source, before.some((c) => cautions.includes(c))]).toEqual([
            where(row),
            about.source,
            true,
          ]);
        }
    // A reading at a running engine is never taken without its caution having been said.
    for (const row of all) {
      const point = CAPTURE_POINTS.find((p) => p.at === row[1].at);
      if (row[1].kind !== 'read' || !point || point.rpmHigh === 0 || point.road) continue;
      const said = row[0].cautions.some((c) => ['running-engine', 'hot-parts'].includes(c));
      expect([where(row), said]).toEqual([where(row), true]);
    }
  });

  test('nobody is told to join battery leads, to soak a sensor, to wipe an element or to spray a fitted one', () => {
    // Common practice of some; not ours. Where it is named, it is named as what is not done.
    const never: RegExp[] = [
      /join\w* .*(leads|battery)|leads .*join/i,
      /\bsoak/i,
      /\bwip(e|ed|ing)\b.*\belement\b|\belement\b.*\bwip(e|ed|ing)\b/i,
      /spray\w* (it|the sensor|at it) (while )?(fitted|installed)|spray\w* a fitted/i,
      /\bpetrol\b/i,
      /thinner in the tank/i,
      /(heat gun|hair dryer|compressed air)/i,
    ];
    const no = /\b(no|not|never|nothing|none|rather than)\b|some do it/i;
    for (const row of all)
      for (const sentence of [wordsOf(row[1].text, 'own'), row[1].why ?? '', row[1].spoken ?? ''].flatMap((t) =>
        t.split(/(?<=[.;])\s/),
      ))
        for (const bad of never)
          if (bad.test(sentence))
            expect([where(row), sentence, no.test(sentence)]).toEqual([where(row), sentence, true]);
    // The check can fail.
    expect(never[1]!.test('Soak the sensor overnight.') && !no.test('Soak the sensor overnight.')).toBe(true);
  });

  // Figures of practice: common practice, no source.
  test.each([
    ['airflow-sensor-clean', 'dry', 1200, 1800],
    ['oxygen-sensor-in-tank', 'run', 1200, 1800],
    ['throttle-relearn', 'idle-5', 300, 300],
    ['throttle-relearn', 'key', 2, 2],
  ])('%s: %s waits %d to %d s', (id, step, low, high) => {
    const { seconds } = byId(id).steps.find((s) => s.id === step)!;
    expect(seconds).toBeGreaterThanOrEqual(low);
    expect(seconds).toBeLessThanOrEqual(high);
  });
  test('the relearn asks for 3,000 rpm, 90 °C and a closed throttle; four screws at the throttle, two at the airflow sensor', () => {
    expect(
      byId('throttle-relearn')
        .steps.map((s) => wordsOf(s.text, 'own'))
        .join(' '),
    ).toMatch(/3,000 rpm.*90 °C.*throttle closed/s);
    expect(byId('throttle-relearn').steps.find((s) => s.id === 'hot')).toMatchObject({ low: 90, unit: '°C' });
    expect(byId('throttle-body-clean').steps.find((s) => s.id === 'out')!.count).toBe(4);
    expect(byId('airflow-sensor-clean').steps.find((s) => s.id === 'out')!.count).toBe(2);
    expect(byId('airflow-sensor-clean').steps.find((s) => s.id === 'spray')!.text).toEqual(
      said`Ten to fifteen short bursts from ${figure([10, 12], 'cm', 0, { between: ' to ' })}, from several sides. The straw touches nothing; nothing is wiped.`,
    );
  });

  test('stop rules end a cleaning: damage, cracks, pins, two cleanings, a code that is back, a broken face, a snapped stem', () => {
    const rules = (id: string) =>
      byId(id)
        .stopRules.map((r) => r.if)
        .join('; ');
    for (const word of ['bent, burnt or broken', 'cracked', 'corroded', 'two cleanings', 'tens of kilometres'])
      expect(rules('airflow-sensor-clean')).toContain(word);
    expect(rules('catalyst-inspection')).toContain('the face is broken');
    expect(rules('pressure-hose-and-port')).toContain('the stem snapped');
  });

  test('faults named exist; a procedure for a diesel is for no petrol engine', () => {
    const ids = new Set(FAULTS.map((f) => f.id as string));
    for (const p of SHIPPED_PROCEDURES) for (const f of p.for?.faults ?? []) expect(ids).toContain(f);
    expect(byId('boost-sensor-diesel').for!.fuel).toBe('diesel');
  });

  test('a figure for tightening is said to be generic', () => {
    for (const row of all) if (row[1].kind === 'torque') expect(row[1].text).toMatch(/generic/i);
  });
});
