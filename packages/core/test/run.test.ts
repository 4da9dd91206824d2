import { describe, expect, test } from '@jest/globals';
import {
  disputeSaid,
  goesBackOn,
  type Happened,
  inOrder,
  notedSaid,
  ORDER_STATES,
  openAtEnd,
  orderSaid,
  type Procedure,
  type ProcedureStep,
  procedureProblems,
  type RunEvent,
  runState,
  SHIPPED_PROCEDURES,
  timerLeftS,
} from '../src/procedures/index.ts';
import { wordsOf } from '../src/units/index.ts';

const BASE: Omit<Procedure, 'steps'> = {
  format: 'just-balance/procedure',
  version: 1,
  id: 'clean-it',
  title: 'Clean it',
  kind: 'clean',
  source: 'common practice, no source',
  purpose: 'So that it reads again.',
  when: [],
  notWhen: [],
  minutes: 20,
  tools: [],
  materials: [],
  parts: [],
  cautions: [],
  // biome-ignore lint/suspicious/noThenProperty: the format's own key
  stopRules: [{ if: 'it is broken', then: 'Replace it.', why: 'Cleaning mends nothing.' }],
  afterwards: 'none',
  prove: [],
};

const CLEAN: Procedure = {
  ...BASE,
  steps: [
    { id: 'unplug', kind: 'take-off', text: 'Unplug it.', item: 'plug' },
    { id: 'out', kind: 'take-off', text: 'Two screws.', item: 'sensor', count: 2, detail: 'one long' },
    {
      id: 'look',
      kind: 'look',
      text: 'Look at it.',
      answers: [{ text: 'dirty' }, { text: 'broken', stopRule: 'it is broken' }, { text: 'bright', goTo: 'in' }],
    },
    { id: 'spray', kind: 'do', text: 'Spray it.' },
    { id: 'dry', kind: 'timer', text: 'Dry it.', seconds: 1200 },
    { id: 'again', kind: 'look', text: 'Clean?', answers: [{ text: 'yes' }, { text: 'no', goTo: 'spray' }] },
    { id: 'in', kind: 'refit', text: 'Back in.', item: 'sensor' },
    { id: 'plug', kind: 'refit', text: 'Plug it in.', item: 'plug' },
    { id: 'ohms', kind: 'measure', text: 'Measure.', quantity: 'resistance', unit: 'ohm', low: 4, high: 9 },
  ],
};

let serial = 0;
let clock = 1_000_000;
/** A second after the one before. */
function event(what: Happened, atMs?: number): RunEvent {
  clock += 1000;
  serial += 1;
  return { id: `e${String(serial).padStart(6, '0')}`, atMs: atMs ?? clock, by: 'Ann', what };
}
const done = (step: string, more: Partial<Extract<Happened, { kind: 'done' }>> = {}): RunEvent =>
  event({ kind: 'done', step, round: 0, ...more });
const way = (...events: RunEvent[]) => runState(CLEAN, events);

describe('a run of a procedure', () => {
  test('goes step by step; what comes off is known with its count and detail', () => {
    const s = way(done('unplug'), done('out', { taken: { detail: 'in the tray', hidden: true } }));
    expect(s.current!.id).toBe('look');
    expect(s.way).toEqual(['unplug', 'out']);
    expect(s.off).toMatchObject([
      { item: 'plug', back: false },
      { item: 'sensor', count: 2, detail: 'in the tray', hidden: true, back: false },
    ]);
    // In reverse.
    expect(goesBackOn(s).map((o) => o.item)).toEqual(['sensor', 'plug']);
  });

  test('an answer jumps ahead, another goes back a round; an answer nobody offered is none', () => {
    const off = [done('unplug'), done('out')];
    expect(way(...off, done('look', { answer: 'bright' })).current!.id).toBe('in');
    expect(way(...off, done('look', { answer: 'fine' })).current!.id).toBe('look');
    const wet = [...off, done('look', { answer: 'dirty' }), done('spray')];
    const timer = event({ kind: 'timer', step: 'dry', round: 0 });
    const dry = event({ kind: 'done', step: 'dry', round: 0 }, timer.atMs + 1_200_000);
    clock = dry.atMs;
    const back = way(...wet, timer, dry, done('again', { answer: 'no' }));
    expect([back.current!.id, back.rounds.get('spray'), back.timers]).toEqual(['spray', 1, []]);
    // The answer of the round before says nothing about this one.
    const stale = done('spray');
    expect(way(...wet, timer, dry, done('again', { answer: 'no' }), stale).current!.id).toBe('spray');
  });

  test('two people who answer the same step have answered it once', () => {
    const sprayed = [done('unplug'), done('out'), done('look', { answer: 'dirty' }), done('spray')];
    const skip = event({ kind: 'skipped', step: 'dry', round: 0, reason: 'compressed air is not for it' });
    const no = [done('again', { answer: 'no' }), done('again', { answer: 'no' })];
    expect(way(...sprayed, skip, ...no).rounds.get('spray')).toBe(1);
  });

  test('a timer runs from its own moment on, and is cut short with a reason only', () => {
    const before = [done('unplug'), done('out'), done('look', { answer: 'dirty' }), done('spray')];
    const start = event({ kind: 'timer', step: 'dry', round: 0 });
    const s = way(...before, start);
    expect(s.timers).toEqual([{ step: 'dry', startedMs: start.atMs, endsMs: start.atMs + 1_200_000 }]);
    expect(timerLeftS(s.timers[0]!, start.atMs + 500_500)).toBe(700);
    expect(timerLeftS(s.timers[0]!, start.atMs + 2_000_000)).toBe(0);
    const early = { kind: 'done', step: 'dry', round: 0 } as const;
    const at = start.atMs + 60_000;
    expect(way(...before, start, event(early, at)).current!.id).toBe('dry');
    const cut = way(...before, start, event({ ...early, reason: 'dry already' }, at));
    expect([cut.current!.id, cut.results.get('dry')!.reason]).toEqual(['again', 'dry already']);
    expect(way(...before, start, event(early, start.atMs + 1_200_000)).current!.id).toBe('again');
    clock = start.atMs + 1_300_000;
  });

  test('a stop rule ends the work as planned: only what is off goes back on', () => {
    const broken = [done('unplug'), done('out'), done('look', { answer: 'broken' })];
    const s = way(...broken);
    expect([s.stopped!.then, s.current!.id, s.ahead]).toEqual(['Replace it.', 'in', ['plug']]);
    expect(way(...broken, done('in')).current!.id).toBe('plug');
    const over = way(...broken, done('in'), done('plug'));
    expect([over.current, over.results.has('in')]).toEqual([null, true]);
    // Found without a question about it.
    expect(way(event({ kind: 'stop', rule: 'it is broken' })).stopped).not.toBeNull();
    expect(way(event({ kind: 'stop', rule: 'the moon is full' })).stopped).toBeNull();
    // Answered by mistake.
    expect(way(...broken, event({ kind: 'reopened', step: 'look' })).stopped).toBeNull();
  });

  test('it cannot end while something is off, unless a reason says why', () => {
    const off = [done('unplug'), done('out')];
    const extra = event({ kind: 'took-off', taken: { item: 'heat shield', count: 3, detail: 'two short, one long' } });
    const end = (left: { item: string; reason: string }[]) => event({ kind: 'ended', left, counted: true });
    expect(way(...off, end([])).status).toBe('running');
    expect(way(...off, end([{ item: 'unplug', reason: ' ' }])).status).toBe('running');
    const back = (item: string) => event({ kind: 'refitted', item });
    expect(way(...off, extra, back('unplug'), back('out'), end([])).status).toBe('running');
    const reason = [{ item: extra.id, reason: 'broken clips on order' }];
    const s = way(...off, extra, back('unplug'), back('out'), end(reason));
    expect([s.status, s.ended!.left]).toEqual(['ended', reason]);
    expect(way(...off, extra, ...['unplug', 'out', extra.id].map(back), end([])).status).toBe('ended');
  });

  test('an answer takes later steps away and says where the dirt came from; opened again, it does neither', () => {
    const throttle = SHIPPED_PROCEDURES.find((x) => x.id === 'throttle-body-clean')!;
    const about = (step: string, answer?: string) =>
      event({ kind: 'done', step, round: 0, ...(answer === undefined ? {} : { answer }) });
    const until = ['before', 'cold', 'battery', 'duct'].map((id) => about(id, id === 'cold' ? 'cold' : undefined));
    const at = (...more: RunEvent[]) => runState(throttle, [...until, ...more]);
    const gone = ['coolant', 'coolant-on', 'coolant-back'];
    const no = at(about('hoses', 'no'));
    expect(no.current!.id).toBe('out');
    expect(gone.filter((id) => no.ahead.includes(id))).toEqual([]);
    const yes = at(about('hoses', 'yes'));
    expect(yes.current!.id).toBe('coolant');
    expect(gone.slice(1).filter((id) => yes.ahead.includes(id))).toEqual(gone.slice(1));
    const again = at(about('hoses', 'no'), event({ kind: 'reopened', step: 'hoses' }));
    expect([again.current!.id, again.ahead.includes('coolant-back')]).toEqual(['hoses', true]);
    // On the whole way nothing of the hoses is asked.
    const walked: RunEvent[] = [...until, about('hoses', 'no')];
    for (let now = runState(throttle, walked).current; now; now = runState(throttle, walked).current) {
      expect(gone).not.toContain(now.id);
      walked.push(
        event({
          ...{ kind: 'done', step: now.id, round: 0, reason: 'not here' },
          ...(now.answers ? { answer: now.answers[0]!.text } : {}),
        }),
      );
    }
    const s = runState(throttle, walked);
    expect(s.source).toMatchObject({ source: 'crankcase-oil', repaired: false, step: 'source' });
    expect(runState(throttle, [...walked, event({ kind: 'reopened', step: 'source' })]).source).toBeNull();
    // Said at the end it wins over the answer.
    const said = event({ kind: 'source', source: 'age', repaired: true });
    expect(runState(throttle, [...walked, said]).source).toMatchObject({ source: 'age', step: null });
  });

  test('a procedure names steps that come later, and sources that are known', () => {
    const [first, ...rest] = CLEAN.steps;
    const bad: Procedure = {
      ...CLEAN,
      steps: [
        first!,
        { id: 'q', kind: 'decide', text: 'Which?', answers: [{ text: 'a', without: ['unplug'], source: 'the moon' }] },
        ...rest,
      ],
    };
    expect(procedureProblems(bad)).toEqual([
      { field: 'steps[1].answers[0].without', message: 'no later step has the id "unplug"' },
      { field: 'steps[1].answers[0].source', message: '"the moon" is no source of dirt that is known' },
    ]);
  });

  test('fasteners are counted off and on: one that is missing, or fell and is still in there, is open at the end', () => {
    const on = [done('unplug'), done('out'), done('look', { answer: 'bright' })];
    const end = (...left: { item: string; reason: string }[]) => event({ kind: 'ended', left, counted: true });
    const fewer = [...on, done('in', { back: 1 }), done('plug')];
    expect(openAtEnd(way(...fewer))).toEqual([{ id: 'out', what: 'missing', text: '1 of 2 fasteners of sensor' }]);
    expect(way(...fewer, end()).status).toBe('running');
    expect(way(...fewer, end({ item: 'out', reason: 'a new screw is on order' })).status).toBe('ended');
    // Found, and put in.
    expect(way(...fewer, event({ kind: 'refitted', item: 'out' }), end()).status).toBe('ended');
    expect(openAtEnd(way(...on, done('in', { back: 2 }), done('plug')))).toEqual([]);
    // Opened again it is off, and nothing is missing yet.
    expect(openAtEnd(way(...fewer, event({ kind: 'reopened', step: 'in' })))).toMatchObject([
      { id: 'out', what: 'off' },
    ]);
    const all = [...on, done('in'), done('plug')];
    const fell = event({ kind: 'mishap', step: 'out', what: 'a screw fell', where: 'under the manifold', out: false });
    expect(openAtEnd(way(...all, fell))).toEqual([
      { id: fell.id, what: 'in there', text: 'a screw fell, under the manifold' },
    ]);
    expect(way(...all, fell, end()).status).toBe('running');
    expect(way(...all, fell, event({ kind: 'mishap-out', mishap: fell.id }), end()).status).toBe('ended');
    expect(way(...all, event({ ...fell.what, out: true } as Happened), end()).status).toBe('ended');
  });

  test('who took the work over has it in hand, whatever else anybody says', () => {
    const by = (who: string, what: Happened) => ({ ...event(what), by: who });
    expect(way(done('unplug')).hands).toBeNull();
    const over = by('Bo', { kind: 'took-over' });
    expect(way(done('unplug'), over, done('out')).hands).toEqual({ by: 'Bo', atMs: over.atMs });
    const back = by('Al', { kind: 'took-over' });
    expect(way(over, back).hands!.by).toBe('Al');
    // Of a run that is over it changes nothing else.
    const ended = way(event({ kind: 'given-up', reason: 'sold' }), by('Bo', { kind: 'took-over' }));
    expect([ended.status, ended.noted, ended.hands!.by]).toEqual(['given-up', [], 'Bo']);
  });

  test('a part that was asked for stays on the list, whatever becomes of the work, until it is here or struck out', () => {
    const park = (...toOrder: string[]) => event({ kind: 'parked', reason: 'not in stock', toOrder });
    const order = (part: string, is: (typeof ORDER_STATES)[number]) => event({ kind: 'order', part, is });
    const said = (...events: RunEvent[]) => way(...events).orders.map((o) => orderSaid(o));
    const asked = [park('seal ring', 'hose'), event({ kind: 'resumed' })];
    expect(said(...asked)).toEqual(['seal ring, to order', 'hose, to order']);
    const ordered = [...asked, order('seal ring', 'ordered')];
    // Parked for it once more: it is on its way already.
    expect(said(...ordered, park('seal ring'))).toEqual(['seal ring, ordered', 'hose, to order']);
    const over = [...ordered, event({ kind: 'given-up', reason: 'sold' })];
    expect(said(...over, order('seal ring', 'arrived'), order('hose', 'struck'))).toEqual([
      'seal ring, here',
      'hose, not wanted any more',
    ]);
    // Here, and asked for again: the first one did not fit.
    expect(said(...ordered, order('seal ring', 'arrived'), park('seal ring'))[0]).toBe('seal ring, to order');
    expect(way(...over, order('hose', 'ordered')).noted).toEqual([]);
  });

  test('parked, taken up again; a value is judged against its limits; the source may be named afterwards', () => {
    const parked = way(done('unplug'), event({ kind: 'parked', reason: 'seal not in stock', toOrder: ['seal ring'] }));
    expect([parked.status, parked.parked!.toOrder]).toEqual(['parked', ['seal ring']]);
    const all = [
      done('unplug'),
      event({ kind: 'parked', reason: 'rain', toOrder: [] }),
      event({ kind: 'resumed' }),
      done('out'),
      done('look', { answer: 'bright' }),
      done('in'),
      done('plug'),
    ];
    expect(way(...all).current!.id).toBe('ohms');
    // A measurement without a value is none.
    expect(way(...all, done('ohms')).current!.id).toBe('ohms');
    expect(way(...all, done('ohms', { value: 12 })).results.get('ohms')!.inside).toBe(false);
    const measured = done('ohms', { value: 9 });
    const end = event({ kind: 'ended', left: [], counted: true });
    const s = way(...all, measured, end, event({ kind: 'source', source: 'filter', repaired: true }));
    expect([s.status, s.results.get('ohms')!.inside, s.source!.source]).toEqual(['ended', true, 'filter']);
    // Nothing more is done to one that is over.
    expect(way(...all, end, event({ kind: 'reopened', step: 'in' })).off.every((o) => o.back)).toBe(true);
  });
});

/** xorshift32: the same rubbish every time. */
function random(seed: number) {
  let x = seed;
  const next = () => {
    x ^= x << 13;
    x >>>= 0;
    x ^= x >>> 17;
    x ^= x << 5;
    x >>>= 0;
    return x;
  };
  return { below: (n: number) => next() % n, pick: <T>(list: readonly T[]) => list[next() % list.length]! };
}

/** A procedure of any shape that its own reader accepts. */
function anyProcedure(r: ReturnType<typeof random>): Procedure {
  const n = 2 + r.below(9);
  const id = (i: number) => `s${i}`;
  const steps: ProcedureStep[] = [];
  for (let i = 0; i < n; i++) {
    const step = { id: id(i), text: 'Do it.' };
    const off = steps.filter((s) => s.kind === 'take-off');
    const kind = r.pick(['do', 'take-off', 'look', 'timer', 'measure', off.length > 0 ? 'refit' : 'do'] as const);
    const to = () => (r.below(2) ? { goTo: id(r.below(n)) } : {});
    if (kind === 'look')
      steps.push({
        ...step,
        kind,
        answers: [
          { text: 'a', ...to() },
          { text: 'b', ...to() },
          { text: 'c', stopRule: 'it is broken' },
        ],
      });
    else if (kind === 'timer') steps.push({ ...step, kind, seconds: 1 + r.below(100) });
    else if (kind === 'measure') steps.push({ ...step, kind, quantity: 'x', unit: 'V', low: 1 });
    else if (kind === 'take-off') steps.push({ ...step, kind, item: `part ${i}` });
    else if (kind === 'refit') steps.push({ ...step, kind, item: r.pick([r.pick(off).id, r.pick(off).item!]) });
    else steps.push({ ...step, kind });
  }
  return { ...BASE, steps };
}

function anyEvents(r: ReturnType<typeof random>, p: Procedure): RunEvent[] {
  const step = () => (r.below(12) ? r.pick(p.steps).id : 'nowhere');
  const item = () => r.pick(['s0', 's1', 's2', 'x3', 'x5', 'heat shield']);
  const round = () => (r.below(4) ? 0 : r.below(3));
  const what = (): Happened => {
    switch (r.below(15)) {
      case 14:
        return {
          kind: 'settled',
          dispute: `x${r.below(20)}`,
          keep: r.pick(['stands', 'other']),
          reason: r.pick(['', 'seen']),
        };
      case 12:
        return { kind: 'mishap', step: step(), what: 'a clip', where: 'in the duct', out: r.below(2) === 0 };
      case 13:
        return { kind: 'mishap-out', mishap: `x${r.below(20)}` };
      case 0:
        return { kind: 'skipped', step: step(), round: round(), reason: 'no light' };
      case 1:
        return { kind: 'reopened', step: step() };
      case 2:
        return { kind: 'timer', step: step(), round: round() };
      case 3:
        return { kind: 'took-off', taken: { item: 'heat shield' } };
      case 4:
        return { kind: 'refitted', item: item() };
      case 5:
        return r.below(2)
          ? { kind: 'parked', reason: 'rain', toOrder: r.below(2) ? ['ring'] : [] }
          : r.pick<Happened>([
              { kind: 'took-over' },
              { kind: 'resumed' },
              { kind: 'order', part: 'ring', is: r.pick(ORDER_STATES) },
            ]);
      case 6:
        return {
          kind: 'ended',
          left: r.below(2) ? [] : [{ item: item(), reason: r.pick(['', 'lost']) }],
          counted: true,
        };
      case 7:
        return r.below(4)
          ? { kind: 'caution', caution: 'hot-parts', step: step() }
          : { kind: 'stop', rule: 'it is broken' };
      default:
        return {
          kind: 'done',
          step: step(),
          round: round(),
          answer: r.pick(['a', 'b', 'c', 'z']),
          ...(r.below(2) ? { value: r.below(9) } : {}),
          ...(r.below(3) ? {} : { back: r.below(4), taken: { count: 1 + r.below(4) } }),
          ...(r.below(2) ? { reason: 'dry' } : {}),
        };
    }
  };
  return Array.from({ length: r.below(60) }, (_, i) => ({
    id: `x${i}`,
    // Many at the same moment.
    atMs: 1000 * r.below(40),
    by: r.pick(['Ann', 'Bo']),
    what: what(),
  }));
}

function shuffled<T>(r: ReturnType<typeof random>, list: readonly T[]): T[] {
  const out = [...list];
  for (let i = out.length - 1; i > 0; i--) {
    const k = r.below(i + 1);
    [out[i], out[k]] = [out[k]!, out[i]!];
  }
  return out;
}

describe('whatever happens in whatever order', () => {
  test('a run stands where its events say, not where their order of arrival does', () => {
    const r = random(20261126);
    const kinds = new Set<string>();
    for (let k = 0; k < 600; k++) {
      const p = anyProcedure(r);
      expect(procedureProblems(p)).toEqual([]);
      const events = anyEvents(r, p);
      const s = runState(p, events);
      kinds.add(s.status);
      // Any order, any repeats: two tablets agree.
      expect(runState(p, shuffled(r, [...events, ...events.filter(() => r.below(2))]))).toEqual(s);
      // A part of the events seen first changes nothing about all of them.
      expect(runState(p, [...inOrder(events.slice(0, r.below(events.length + 1))), ...events])).toEqual(s);
      const ids = p.steps.map((x) => x.id);
      expect(new Set(s.way).size).toBe(s.way.length);
      for (const id of [...s.way, ...s.results.keys(), ...s.ahead]) expect(ids).toContain(id);
      if (s.current) expect(s.results.has(s.current.id)).toBe(false);
      // Every step of the way has a result; one that is open again has none.
      for (const id of s.way) expect(s.results.has(id)).toBe(true);
      if (s.ended) {
        const reasons = new Set(s.ended.left.filter((l) => l.reason.trim()).map((l) => l.item));
        // But for what came off, or broke, after it was said to be over: that is noted.
        const late = new Set(s.noted.flatMap((n) => [n.id, ...('step' in n.what ? [n.what.step] : [])]));
        expect(openAtEnd(s).filter((o) => !reasons.has(o.id) && !late.has(o.id))).toEqual([]);
        expect(s.current).toBeNull();
      }
      for (const t of s.timers) expect(t.endsMs).toBeGreaterThan(t.startedMs);
    }
    expect([...kinds].sort()).toEqual(['ended', 'parked', 'running']);
  });
});

describe('two people at one run', () => {
  const by = (who: string, what: Happened, atMs?: number): RunEvent => ({ ...event(what, atMs), by: who });
  const answer = (who: string, text: string, round = 0) => by(who, { kind: 'done', step: 'look', round, answer: text });
  const upToLook = () => [done('unplug'), done('out')];
  const settle = (dispute: string, keep: 'stands' | 'other', reason = 'looked at together'): RunEvent =>
    event({ kind: 'settled', dispute, keep, reason });

  test('the same answer twice is one; another one is kept beside it until somebody says which is right', () => {
    const [first, same, other] = [answer('Ann', 'dirty'), answer('Bo', 'dirty'), answer('Bo', 'bright')];
    expect(way(...upToLook(), first, same).disputes).toEqual([]);
    const s = way(...upToLook(), first, other);
    expect(s.results.get('look')).toMatchObject({ answer: 'dirty', by: 'Ann' });
    expect(s.disputes).toMatchObject([
      {
        id: other.id,
        step: 'look',
        other: { by: 'Bo', answer: 'bright' },
        stands: { by: 'Ann', answer: 'dirty' },
        stops: false,
      },
    ]);
    expect(wordsOf(disputeSaid(CLEAN, s.disputes[0]!), 'metric')).toBe('Look at it. Ann “dirty”, Bo “bright”');
    // Without a reason nothing is settled.
    expect(way(...upToLook(), first, other, settle(other.id, 'other', ' ')).disputes).toHaveLength(1);
    const kept = way(...upToLook(), first, other, settle(other.id, 'stands'));
    expect([kept.disputes, kept.results.get('look')!.answer]).toEqual([[], 'dirty']);
    expect(kept.settled).toMatchObject([{ step: 'look', dropped: { by: 'Bo' }, reason: 'looked at together' }]);
    const turned = way(...upToLook(), first, other, settle(other.id, 'other'));
    // Bright: the way jumps to the refit.
    expect([turned.disputes, turned.current!.id]).toEqual([[], 'in']);
    expect(turned.results.get('look')).toMatchObject({ answer: 'bright', by: 'Bo' });
  });

  test('a stop outweighs whoever said it first, holds against a step opened again, and is lifted with a reason only', () => {
    const harmless = answer('Ann', 'bright');
    const broken = answer('Bo', 'broken');
    for (const events of [
      [harmless, broken],
      [broken, { ...harmless, atMs: clock + 5000 }],
    ]) {
      const s = way(...upToLook(), ...events);
      expect([s.stopped?.if, s.stoppedBy?.by]).toEqual(['it is broken', 'Bo']);
      expect(s.disputes).toMatchObject([{ other: { by: 'Ann', answer: 'bright' }, stops: true }]);
      expect(wordsOf(disputeSaid(CLEAN, s.disputes[0]!), 'metric')).toMatch(/the stop holds$/);
      clock += 20_000;
      const again = event({ kind: 'reopened', step: 'look' });
      expect(way(...upToLook(), ...events, again).stopped?.if).toBe('it is broken');
      const lifted = way(...upToLook(), ...events, again, settle(s.disputes[0]!.id, 'other'));
      expect([lifted.stopped, lifted.current!.id]).toEqual([null, 'in']);
    }
  });

  test('two figures of one step are said in the units of the reader', () => {
    const p = {
      ...CLEAN,
      steps: [{ ...CLEAN.steps.at(-1)!, unit: 'kPa', low: 300, high: 400, role: 'fuel' as const }],
    };
    const read = (who: string, value: number) => by(who, { kind: 'done', step: 'ohms', round: 0, value });
    const [d] = runState(p, [read('Ann', 350), read('Bo', 210)]).disputes;
    expect(wordsOf(disputeSaid(p, d!), 'metric')).toMatch(/Ann 350 kPa, Bo 210 kPa/);
    // NIST SP 811: 1 psi is 6.894757 kPa.
    expect(wordsOf(disputeSaid(p, d!), 'us')).toMatch(/Ann 50\.8 psi, Bo 30\.5 psi/);
  });

  test('an answer to a step that was opened again since is kept as what was seen before', () => {
    const s = way(
      ...upToLook(),
      answer('Ann', 'dirty'),
      by('Ann', { kind: 'reopened', step: 'look' }),
      answer('Bo', 'bright'),
    );
    expect([s.current!.id, s.disputes.map((d) => [d.other.answer, d.stands])]).toEqual(['look', [['bright', null]]]);
    expect(wordsOf(disputeSaid(CLEAN, s.disputes[0]!), 'metric')).toMatch(/before it was opened again$/);
    // Of a stop the same: it holds.
    const stop = way(
      ...upToLook(),
      answer('Ann', 'dirty'),
      by('Ann', { kind: 'reopened', step: 'look' }),
      answer('Bo', 'broken'),
    );
    expect(stop.stopped?.if).toBe('it is broken');
  });

  test('hands that went on after it was given up: what they did stands and is said; it can be taken up again', () => {
    const plug = done('unplug');
    const given = by('Ann', { kind: 'given-up', reason: 'no time' });
    const s = way(plug, given, { ...done('out'), by: 'Bo' }, by('Bo', { kind: 'parked', reason: 'x', toOrder: [] }));
    expect(s.status).toBe('given-up');
    expect(openAtEnd(s).map((o) => o.text)).toEqual(['plug', 'sensor']);
    expect(s.noted.map((n) => wordsOf(notedSaid(CLEAN, n), 'metric'))).toEqual([
      'after its end, Bo: done, at the step “Two screws.”',
      'after its end, Bo: it was parked',
    ]);
    const on = way(plug, given, { ...done('out'), by: 'Bo' }, by('Bo', { kind: 'resumed' }));
    expect([on.status, on.current!.id]).toEqual(['running', 'look']);
    const early = way(done('unplug'), by('Bo', { kind: 'ended', left: [], counted: true }));
    expect(early.noted.map((n) => wordsOf(notedSaid(CLEAN, n), 'metric'))).toEqual([
      'Bo said that it is over, while something was still open',
    ]);
  });

  test('whatever two people answer, in whatever order: nothing is without effect and without a word, a stop holds', () => {
    const r = random(20261203);
    let disputed = 0;
    for (let k = 0; k < 400; k++) {
      const p = anyProcedure(r);
      // Each as far as they got, on a tablet of their own: answers and steps only.
      const events = ['Ann', 'Bo'].flatMap((who, person) =>
        p.steps
          .filter(() => r.below(5) > 0)
          .map(
            (s, i): RunEvent => ({
              id: `${who}${i}`,
              by: who,
              atMs: 1000 * (i * 3 + person * r.below(40)),
              what:
                r.below(8) === 0
                  ? { kind: 'skipped', step: s.id, round: 0, reason: 'no light' }
                  : {
                      ...{ kind: 'done', step: s.id, round: 0, reason: 'dry' },
                      ...(s.answers ? { answer: r.pick(s.answers).text } : {}),
                      ...(s.kind === 'measure' ? { value: r.below(3) } : {}),
                    },
            }),
          ),
      );
      const s = runState(p, events);
      expect(runState(p, shuffled(r, events))).toEqual(s);
      disputed += s.disputes.length;
      const rules = events.filter((e) => e.what.kind === 'done' && e.what.answer === 'c');
      if (rules.length > 0) expect([k, s.stopped?.if]).toEqual([k, 'it is broken']);
      for (const { what } of events) {
        if (what.kind !== 'done' && what.kind !== 'skipped') continue;
        const answered = what.kind === 'done' ? (what.answer ?? null) : null;
        const value = what.kind === 'done' ? (what.value ?? null) : null;
        const same = (w: { kind: string; answer: string | null; value: number | null }) =>
          w.kind === what.kind && w.answer === answered && w.value === value;
        const standing = everyResult(p, events).get(what.step);
        const told = (standing && same(standing)) || s.disputes.some((d) => d.step === what.step && same(d.other));
        // Or a later answer led back over it, and it is to be done again.
        expect([k, what, told || (s.rounds.get(what.step) ?? 0) > 0]).toEqual([k, what, true]);
      }
    }
    expect(disputed).toBeGreaterThan(100);
  });
});

/** Results on and off the way: those off it are known by their step being looked at alone. */
function everyResult(p: Procedure, events: readonly RunEvent[]) {
  const s = runState(p, events);
  const alone = (step: string) =>
    runState(
      {
        ...p,
        steps: p.steps
          .filter((x) => x.id === step)
          .map((x) => ({ ...x, answers: x.answers?.map(({ goTo: _, ...a }) => a) })),
      } as Procedure,
      events,
    ).results.get(step);
  return new Map(
    p.steps.flatMap((x) => {
      const found = s.results.get(x.id) ?? s.early.get(x.id) ?? alone(x.id);
      return found ? [[x.id, found] as const] : [];
    }),
  );
}
