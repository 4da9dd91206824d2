import { describe, expect, test } from '@jest/globals';
import {
  CUSTOMER_WORDS,
  type HandOverJob,
  handOverDocuments,
  provenHere,
  sectionWords,
} from '../src/handOver/index.ts';
import { type Happened, ORDER_STATES, openAtEnd, runState, SHIPPED_PROCEDURES } from '../src/procedures/index.ts';
import { DEFAULT_LIMITS } from '../src/trims/index.ts';
import { job, reading, T, taken } from './jobs.ts';

/** Mulberry32 (Tommy Ettinger, public domain). */
function random(seed: number) {
  let a = seed;
  const next = () => {
    a = (a + 0x6d2b79f5) | 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4_294_967_296;
  };
  return {
    chance: (p: number) => next() < p,
    pick: <X>(list: readonly X[]): X => list[Math.floor(next() * list.length)]!,
  };
}

const FAULTS_WORKED_ON = ['vac-leak', 'fuel-low', 'maf-dirty', 'crankcase-leak', 'throttle-fouled'] as const;
const CODES = ['P0171', 'P0300', 'P0420', 'P0442'] as const;

/** Looked over without a figure of the mixture: nothing found. */
const UNMEASURED = (() => {
  const { output } = job().diagnoses[0]!;
  const causes = [{ ...output.causes[0]!, fault: 'balanced', probability: 0.7 }];
  return { ...output, mixture: 'undetermined' as const, causes };
})();

/** A job as it may stand at any moment: before, after or without work, read again or not, with runs in any state. */
function anyJob(r: ReturnType<typeof random>): HandOverJob {
  const off = r.chance(0.7) ? 13 : 0.6;
  const read = (phase: 'before' | 'after', day: number, at: 'idle' | 'hold-2500', total: number) =>
    taken(phase, T(day, at === 'idle' ? 10 : 11), reading(at, total, at === 'idle' ? 2.5 : 9.3));
  const codes = CODES.filter(() => r.chance(0.3)).map((code) => ({
    code,
    state: r.pick(['stored', 'pending'] as const),
  }));
  const base = job();
  const repairs = r.chance(0.6)
    ? [
        {
          ...{
            at: T(3),
            by: 'I. Sato',
            undone: r.chance(0.1),
            text: 'Work done',
            part: r.pick(['airflow sensor', null]),
          },
          fault: r.chance(0.6) ? r.pick(FAULTS_WORKED_ON) : null,
          work: r.pick(['cleaned', 'replaced', 'repaired', 'maintenance'] as const),
        },
      ]
    : [];
  const after = r.pick([off, off / 2, 0.4]);
  // The same everywhere after it, where it was an idle matter before: something else is left.
  const flat = r.chance(0.3) ? after * 0.9 : after / 3;
  const procedure = r.pick(SHIPPED_PROCEDURES);
  const takeOff = procedure.steps.filter((s) => s.kind === 'take-off');
  const events: Happened[] = [
    ...takeOff.filter(() => r.chance(0.7)).map((s): Happened => ({ kind: 'done', step: s.id, round: 0 })),
    ...takeOff
      .filter(() => r.chance(0.5))
      .map(
        (s): Happened => ({
          ...{ kind: 'refitted', item: s.id },
          ...(r.chance(0.3) ? { back: 0 } : {}),
        }),
      ),
    ...(r.chance(0.2)
      ? [{ kind: 'mishap', step: 'x', what: 'a clip broke', where: 'under the duct', out: r.chance(0.4) } as const]
      : []),
    ...(r.chance(0.3)
      ? ([
          { kind: 'parked', reason: 'not in stock', toOrder: ['seal ring', 'hose'] },
          { kind: 'order', part: 'seal ring', is: r.pick(ORDER_STATES) },
        ] satisfies Happened[])
      : []),
    ...(r.chance(0.2) ? [{ kind: 'given-up', reason: 'no time' } as const] : []),
  ];
  const run = {
    ...{ id: 'r1', at: T(3), by: 'I. Sato', procedure },
    events: events.map((what, i) => ({ id: `e${i}`, atMs: 1_770_000_000_000 + i, by: 'I. Sato', what })),
  };
  const runs = r.chance(0.6) ? [run] : [];
  const record = { ...base.records[0]!, codes };
  const output = { ...base.diagnoses[0]!.output, condemned: r.chance(0.2) ? ['maf-damaged'] : [] };
  const monitors = {
    ...{ lampOn: false, codeCount: 0, ignition: 'spark' as const },
    monitors: [{ id: 'evap' as const, state: r.pick(['complete', 'incomplete'] as const) }],
  };
  const later = { ...record, phase: 'after' as const, at: T(4), codes: r.chance(0.7) ? [] : codes, monitors };
  const own = <T extends object>(kind: string, at: string, data: T) => ({
    ...{ kind, at, data, undone: r.chance(0.1), by: 'I. Sato' },
  });
  const entries = [
    ...(r.chance(0.3)
      ? [own('part', T(3, 12), { name: 'intake gasket', make: r.pick(['copy', 'used', 'original']) })]
      : []),
    ...(r.chance(0.2) ? [own('outcome', T(3, 13), { part: 'airflow-sensor', held: r.chance(0.5) })] : []),
    ...(r.chance(0.2) ? [own('recheck', T(3, 14), { dueAt: T(20), what: 'Look at the duct again' })] : []),
  ];
  const tests = r.chance(0.4)
    ? [
        {
          ...{ undone: r.chance(0.2), phase: 'before' as const, at: T(2, 13), by: 'I. Sato' },
          test: { id: 'smoke-intake', outcome: r.pick(['none', 'gasket-bank1']) },
        },
      ]
    : [];
  const measured = r.chance(0.85);
  return job({
    complaint: r.pick([
      { symptoms: ['rough-idle'], story: 'Shakes in the queue' },
      { symptoms: ['hesitation'] },
      { symptoms: ['none'] },
    ]),
    entries,
    tests,
    records: r.chance(0.8) ? [record, ...(r.chance(0.4) ? [later] : [])] : [],
    readings: !measured
      ? []
      : [
          read('before', 2, 'idle', off),
          read('before', 2, 'hold-2500', off / 3),
          ...(r.chance(0.5) ? [read('after', 3, 'idle', after), read('after', 3, 'hold-2500', flat)] : []),
        ],
    repairs,
    runs,
    // Weighed is what was looked at; somebody may not have asked yet.
    ...((!measured && tests.every((t) => t.undone)) || r.chance(0.15)
      ? { diagnoses: [] }
      : r.chance(0.5)
        ? { diagnoses: [{ at: T(2, 12), output: r.chance(0.1) ? UNMEASURED : output }] }
        : {}),
  });
}

interface Facts {
  job: HandOverJob;
  proof: ReturnType<typeof provenHere>;
}
const repairsOf = ({ job: j }: Facts) => j.repairs.filter((x) => !x.undone);
const looked = ({ job: j }: Facts) => j.readings.length > 0 || j.tests.some((t) => !t.undone);
const likeliest = ({ job: j }: Facts) => j.diagnoses.at(-1)?.output.causes[0];
const verdict = (of: string) => (f: Facts) => f.proof?.verdict === of;
const ofFault = (f: Facts, of: (x: (typeof f.job.repairs)[number]) => boolean) => repairsOf(f).some(of);
const after = (f: Facts) => repairsOf(f).length > 0;
const entry = (f: Facts, kind: string, of: (data: never) => boolean) =>
  f.job.entries.some((e) => e.kind === kind && !e.undone && of(e.data as never));
const states = (f: Facts) => f.job.runs.map((x) => runState(x.procedure, x.events));
const plainOf = (words: string) =>
  Object.entries(CUSTOMER_WORDS).find(([, c]) => words.includes(c.wrong.slice(1)))?.[0];
const total = (x: HandOverJob['readings'][number]) => {
  const t = x.reading.trims?.bank1;
  return (t?.stft ?? 0) + (t?.ltft ?? 0);
};

/**
 * Every sentence of the customer's paper, by its section, and the records that let it be said. A sentence that no line
 * has, or that is said without its facts, fails; so does a line that nothing comes to.
 */
const SENTENCES: readonly [string, RegExp, (f: Facts, words: string) => boolean][] = [
  [
    'complaint',
    /^You asked us to look the car over/,
    ({ job: j }) => !j.complaint.story && j.complaint.symptoms.every((x) => x === 'none'),
  ],
  ['complaint', /^“.*”$/, ({ job: j }, w) => w === `“${j.complaint.story}”`],
  ['complaint', /^We wrote down: /, ({ job: j }) => j.complaint.symptoms.some((x) => x !== 'none')],
  [
    'wrong',
    /^(?!We |Most likely|Before the work|The measurements|What has|Behind it).*\.$/,
    (f, w) =>
      plainOf(w) === 'balanced'
        ? likeliest(f)?.fault === 'balanced' && f.job.diagnoses.at(-1)!.output.mixture === 'balanced'
        : ['proven', 'balanced, a part condemned', 'a second fault shows'].includes(f.proof!.verdict) &&
          ofFault(f, (x) => x.fault === plainOf(w)),
  ],
  [
    'wrong',
    /^We took it to be this, and worked on it: .* That it was so is not proven yet\.$/,
    (f, w) => ofFault(f, (x) => x.fault === plainOf(w)) && !verdict('proven')(f),
  ],
  [
    'wrong',
    /^Most likely: .* It has not been repaired yet\.$/,
    (f, w) => !after(f) && likeliest(f)!.fault === plainOf(w) && likeliest(f)!.probability >= 0.5,
  ],
  [
    'wrong',
    /^Before the work the measurements fitted this best: /,
    (f) => after(f) && likeliest(f)!.probability >= 0.5 && !ofFault(f, (x) => x.fault !== null),
  ],
  ['wrong', /^The measurements fit several causes/, (f) => likeliest(f)!.probability < 0.5],
  [
    'wrong',
    /^What has been looked at so far shows nothing wrong/,
    (f) => looked(f) && likeliest(f)!.fault === 'balanced' && f.job.diagnoses.at(-1)!.output.mixture !== 'balanced',
  ],
  [
    'wrong',
    /^What has been measured and tested so far does not tell a cause/,
    (f) => looked(f) && f.job.diagnoses.length === 0,
  ],
  ['wrong', /^We have not measured the engine yet/, (f) => !looked(f)],
  [
    'wrong',
    /^Behind it something else shows/,
    (f) => verdict('a second fault shows')(f) && f.proof!.remains.length > 0,
  ],
  ['measured', /^There is nothing to show yet/, ({ job: j }) => !j.readings.some((x) => x.phase === 'before')],
  ['measured', /before the repair; now it/, (f) => after(f) && f.job.readings.some((x) => x.phase === 'after')],
  [
    'measured',
    /before the repair; it has not been measured again yet\.$/,
    (f) => after(f) && !f.job.readings.some((x) => x.phase === 'after'),
  ],
  [
    'measured',
    /yours (had to (add|take away) \d+ % of fuel|needed no correction)\.$/,
    (f, w) => !after(f) && w.includes(`${Math.abs(total(f.job.readings[0]!)).toFixed(0)} %`),
  ],
  ['done', /^We measured and tested\. Nothing has been repaired yet\.$/, (f) => looked(f) && !after(f)],
  ['done', /^Nothing has been done yet\.$/, (f) => !looked(f) && !after(f)],
  ['done', /^Work done$/, after],
  [
    'done',
    /^New part: intake gasket(, original|, used|, not from the maker of the car)$/,
    (f) => entry(f, 'part', () => true),
  ],
  [
    'done',
    /^Cleaning the airflow sensor did not help\.$/,
    (f) => entry(f, 'outcome', (d: { held: boolean }) => !d.held),
  ],
  ['proof', /^Nothing has been repaired yet, so there is nothing to prove\.$/, (f) => !after(f)],
  [
    'proof',
    /^The same measurements have not been taken again yet/,
    (f) => after(f) && (f.proof === null || verdict('nothing to compare')(f)),
  ],
  ['proof', /^We took the same measurements after the repair as before it: they are back/, verdict('proven')],
  ['proof', /they show that something else is wrong as well\.$/, verdict('a second fault shows')],
  ['proof', /^The measurements are better than before, but not yet/, verdict('better, still outside')],
  ['proof', /have not changed by more than they vary anyway/, verdict('smaller than the readings can show')],
  ['proof', /^The measurements are worse than before/, verdict('worse')],
  ['proof', /were in order before and are in order now/, verdict('maintained')],
  ['proof', /a part that we found damaged is still fitted/, verdict('balanced, a part condemned')],
  ['open', /^Nothing that we know of\.$/, (f) => !after(f) || verdict('proven')(f) || verdict('maintained')(f)],
  [
    'open',
    /^What is most likely wrong has not been repaired yet/,
    (f) => !after(f) && likeliest(f)!.fault !== 'balanced' && likeliest(f)!.probability >= 0.5,
  ],
  [
    'open',
    /^That the repair works has not been shown/,
    (f) => after(f) && !verdict('proven')(f) && !verdict('maintained')(f),
  ],
  [
    'open',
    /^Stored in the car’s memory when it was last read: (P\d{4}(, )?)+\.$/,
    ({ job: j }, w) => j.records.at(-1)!.codes.every((c) => c.state !== 'stored' || w.includes(c.code)),
  ],
  [
    'open',
    /^A part was found damaged and is still fitted: /,
    ({ job: j }) => j.diagnoses.at(-1)!.output.condemned.length > 0,
  ],
  [
    'open',
    /: a part has still to be ordered: /,
    (f, w) => states(f).some((x) => x.orders.some((o) => o.is === 'wanted' && w.endsWith(`: ${o.part}.`))),
  ],
  [
    'open',
    /: a part is ordered and not here yet: /,
    (f, w) => states(f).some((x) => x.orders.some((o) => o.is === 'ordered' && w.endsWith(`: ${o.part}.`))),
  ],
  ['open', /: not finished\.$/, (f) => states(f).some((x) => x.status === 'running' || x.status === 'parked')],
  [
    'open',
    /: (still off the car|not all of it went back on|still in the engine bay): /,
    (f, w) => states(f).some((x) => openAtEnd(x).some((o) => w.endsWith(`${o.text}.`))),
  ],
  [
    'open',
    /^A fault code has come back \((P\d{4}(, )?)+\)\.$/,
    (f) => after(f) && f.job.records.some((x) => x.phase === 'after' && x.codes.length > 0),
  ],
  ['open', /^Whether the fault stays away shows after two ordinary drives/, after],
  [
    'open',
    /^The car has not finished checking itself: EVAP/,
    ({ job: j }) => j.records.at(-1)!.monitors!.monitors.some((m) => m.state === 'incomplete'),
  ],
  ['watch', /^If the engine lamp comes on, come back/, () => true],
  ['watch', /^Please come by on or after .*: we read the car's memory once more\.$/, after],
  ['watch', /: Look at the duct again$/, (f) => entry(f, 'recheck', () => true)],
  [
    'watch',
    /^(?!If the engine lamp|Please come).*\.$/,
    (f, w) =>
      Object.entries(CUSTOMER_WORDS).some(
        ([fault, c]) => c.watch === w && (ofFault(f, (x) => x.fault === fault) || likeliest(f)?.fault === fault),
      ),
  ],
];

/** Jobs at random with their papers; the same for every test here. */
const JOBS = (() => {
  const r = random(20261202);
  return Array.from({ length: 450 }, () => {
    const j = anyJob(r);
    const proof = provenHere(j, {});
    const d = handOverDocuments({ job: j, shop: 'Linden Yard', proof, limits: DEFAULT_LIMITS, units: 'metric' });
    return { job: j, proof, d };
  });
})();

test('every sentence of the customer’s paper has the records that let it be said', () => {
  const met = new Set<string>();
  for (const [k, { d, ...f }] of JOBS.entries()) {
    for (const section of d.customer.sections)
      for (const line of sectionWords(section).split('\n')) {
        const words = line.replace(/^• /, '');
        const lines = SENTENCES.filter(([at, says]) => at === section.id && says.test(words));
        expect([k, section.id, words, lines.length > 0]).toEqual([k, section.id, words, true]);
        for (const [, says, holds] of lines) {
          expect([k, words, says.source, holds(f, words)]).toEqual([k, words, says.source, true]);
          met.add(says.source);
        }
      }
  }
  expect(SENTENCES.filter(([, says]) => !met.has(says.source)).map(([, says]) => says.source)).toEqual([]);
});

describe('whatever a job holds, the customer’s paper says no more and no less', () => {
  test('no cause is told as found that was not repaired and shown; nothing that is open is left out', () => {
    const seen = new Set<string>();
    for (const [k, { d, proof, job: j }] of JOBS.entries()) {
      const of = (id: string) => sectionWords(d.customer.sections.find((s) => s.id === id)!);
      const [wrong, open] = [of('wrong'), of('open')];
      const standing = j.repairs.filter((x) => !x.undone);
      const shown =
        proof !== null && ['proven', 'balanced, a part condemned', 'a second fault shows'].includes(proof.verdict);
      for (const [fault, { wrong: words }] of Object.entries(CUSTOMER_WORDS)) {
        if (fault === 'balanced' || !wrong.includes(words)) continue;
        seen.add('told as found');
        expect([k, fault, shown, standing.some((x) => x.fault === fault)]).toEqual([k, fault, true, true]);
      }
      const must: string[] = [
        ...(j.records
          .at(-1)
          ?.codes.filter((c) => c.state === 'stored')
          .map((c) => c.code) ?? []),
        ...j.runs.flatMap((x) => openAtEnd(runState(x.procedure, x.events)).map((o) => o.text)),
        ...((j.diagnoses.at(-1)?.output.condemned ?? []).length > 0 ? ['damaged and is still fitted'] : []),
        ...(standing.length > 0 && !(proof && ['proven', 'maintained'].includes(proof.verdict))
          ? ['has not been shown']
          : []),
      ];
      for (const words of must) {
        seen.add('open');
        expect([k, open]).toEqual([k, expect.stringContaining(words)]);
      }
      if (open === 'Nothing that we know of.') seen.add('nothing open');
      // Every sheet of both reads as words.
      for (const paper of [d.customer, d.technician])
        expect(paper.sections.map(sectionWords).join('\n')).not.toMatch(/\[object|\bNaN\b|\bundefined\b|\bnull\b/);
    }
    expect([...seen].sort()).toEqual(['nothing open', 'open', 'told as found']);
  });
});
