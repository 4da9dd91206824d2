import { describe, expect, test } from '@jest/globals';
import {
  CUSTOMER_WORDS,
  type HandOverJob,
  handOverDocuments,
  provenHere,
  sectionWords,
} from '../src/handOver/index.ts';
import { type Happened, openAtEnd, runState, SHIPPED_PROCEDURES } from '../src/procedures/index.ts';
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
          ...{ at: T(3), by: 'I. Sato', undone: r.chance(0.1), text: 'Work done', part: null },
          fault: r.chance(0.6) ? r.pick(FAULTS_WORKED_ON) : null,
          work: r.pick(['cleaned', 'replaced', 'repaired', 'maintenance'] as const),
        },
      ]
    : [];
  const after = r.pick([off, off / 2, 0.4]);
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
    ...(r.chance(0.2) ? [{ kind: 'given-up', reason: 'no time' } as const] : []),
  ];
  const run = {
    ...{ id: 'r1', at: T(3), by: 'I. Sato', procedure },
    events: events.map((what, i) => ({ id: `e${i}`, atMs: 1_770_000_000_000 + i, by: 'I. Sato', what })),
  };
  const runs = r.chance(0.6) ? [run] : [];
  const record = { ...base.records[0]!, codes };
  const output = { ...base.diagnoses[0]!.output, condemned: r.chance(0.2) ? ['maf-damaged'] : [] };
  return job({
    records: r.chance(0.8)
      ? [record, ...(r.chance(0.4) ? [{ ...record, phase: 'after' as const, at: T(4), codes: [] }] : [])]
      : [],
    readings: [
      read('before', 2, 'idle', off),
      read('before', 2, 'hold-2500', off / 3),
      ...(r.chance(0.5) ? [read('after', 3, 'idle', after), read('after', 3, 'hold-2500', after / 3)] : []),
    ],
    repairs,
    runs,
    ...(r.chance(0.5) ? { diagnoses: [{ at: T(2, 12), output }] } : {}),
  });
}

describe('whatever a job holds, the customer’s paper says no more and no less', () => {
  test('no cause is told as found that was not repaired and shown; nothing that is open is left out', () => {
    const r = random(20261201);
    const seen = new Set<string>();
    for (let k = 0; k < 400; k++) {
      const j = anyJob(r);
      const proof = provenHere(j, {});
      const d = handOverDocuments({ job: j, shop: 'Linden Yard', proof, limits: DEFAULT_LIMITS, units: 'metric' });
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
