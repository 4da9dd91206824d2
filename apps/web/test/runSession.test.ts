import { describe, expect, test } from '@jest/globals';
import type { RunView } from '@just-balance/contract';
import { type Happened, SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { RunSession } from '../src/sessions/RunSession.ts';

const run = (procedure: string, ...what: Happened[]): RunView => ({
  id: 'r1',
  at: '2026-05-04T08:00:00Z',
  by: 'x',
  procedure: SHIPPED_PROCEDURES.find((p) => p.id === procedure)!,
  events: what.map((w, i) => ({ id: `e${i}`, atMs: 1000 * i, by: 'x', what: w })),
});
type Write = { label: string; path: string; body: { events?: { id: string; atMs: number; what: Happened }[] } };

function made(view: RunView, queue: (w: readonly Write[]) => Promise<unknown> = async () => {}) {
  const writes: Write[][] = [];
  let ids = 0;
  const clock = { ms: 50_000 };
  const session = new RunSession(view, {
    jobId: 'j1',
    queue: async (list) => {
      const read = list.map(({ label, path, body }): Write => ({ label, path, body: JSON.parse(body as string) }));
      writes.push(read);
      return queue(read);
    },
    newId: () => `n${++ids}`,
    nowMs: () => clock.ms,
    troubleOf: (e) => ({ message: (e as Error).message, errors: [], conflict: null }),
  });
  const said = () => writes.flat().flatMap((w) => (w.body.events ?? []).map((e) => e.what));
  return { session, writes, said, clock };
}
const CAUTION: Happened = { kind: 'caution', caution: 'hot-parts', step: 'route' };

describe('a run under a hand', () => {
  test('every word is an event of its own, of one moment, to the address of the run', async () => {
    const { session, writes } = made(run('crankcase-valve-and-hose'));
    await session.say(CAUTION, { kind: 'took-off', taken: { item: 'a bracket' } });
    expect(writes).toEqual([
      [
        {
          label: 'Service: caution',
          path: '/jobs/j1/runs/r1/events',
          body: {
            events: [
              { id: 'n1', atMs: 50_000, what: CAUTION },
              { id: 'n2', atMs: 50_000, what: { kind: 'took-off', taken: { item: 'a bracket' } } },
            ],
          },
        },
      ],
    ]);
  });

  test('a step with a caution is not done before it is read', async () => {
    const guarded = (s: (typeof SHIPPED_PROCEDURES)[number]['steps'][number]) => s.kind === 'do' && s.caution;
    const procedure = SHIPPED_PROCEDURES.find((p) => p.steps.some(guarded))!;
    const step = procedure.steps.find(guarded)!;
    const way = procedure.steps
      .slice(0, procedure.steps.indexOf(step))
      .map((s): Happened => ({ kind: 'skipped', step: s.id, round: 0, reason: 'seen' }));
    const { session, said } = made(run(procedure.id, ...way));
    expect([session.now().state.current, session.hasDone, session.doneFromMs]).toEqual([step, true, null]);
    session.pressDone();
    expect(said()).toEqual([]);
    session.take(run(procedure.id, ...way, { kind: 'caution', caution: step.caution!, step: step.id }));
    session.pressDone();
    expect(said()).toEqual([{ kind: 'done', step: step.id, round: 0 }]);
  });

  test('a wait is done from its end on, not before, and never where it was not begun', async () => {
    const procedure = SHIPPED_PROCEDURES.find((p) => p.id === 'airflow-sensor-clean')!;
    const before = procedure.steps.slice(
      0,
      procedure.steps.findIndex((s) => s.kind === 'timer'),
    );
    const way = before.map((s): Happened => ({ kind: 'skipped', step: s.id, round: 0, reason: 'seen' }));
    const waiting = run('airflow-sensor-clean', ...way);
    const dry = made(waiting);
    expect(dry.session.now().state.current!.kind).toBe('timer');
    expect([dry.session.hasDone, dry.session.doneFromMs]).toEqual([true, null]);
    const step = dry.session.now().state.current!;
    dry.session.take({
      ...waiting,
      events: [...waiting.events, { id: 't', atMs: 50_000, by: 'x', what: { kind: 'timer', step: step.id, round: 0 } }],
    });
    expect(dry.session.doneFromMs).toBe(50_000 + 1000 * step.seconds!);
    dry.session.pressDone();
    expect(dry.said()).toEqual([]);
    dry.clock.ms = dry.session.doneFromMs!;
    dry.session.pressDone();
    await Promise.resolve();
    expect(dry.said()).toMatchObject([{ kind: 'done', step: step.id }]);
  });

  test('nothing more is pressed while a word is on its way; what is refused is said', async () => {
    let refuse = (_: Error) => {};
    const waits = new Promise((_, no) => {
      refuse = no;
    });
    const { session, said } = made(run('crankcase-valve-and-hose', CAUTION), () => waits);
    const going = session.done();
    expect([session.now().busy, session.doneFromMs]).toEqual([true, null]);
    session.pressDone();
    expect(said()).toHaveLength(1);
    refuse(new Error('the run is over'));
    await going;
    expect(session.now()).toMatchObject({ busy: false, trouble: { message: 'the run is over' } });
  });

  test('back opens the step before; at the first there is none', async () => {
    const first = made(run('crankcase-valve-and-hose'));
    await first.session.back();
    expect(first.said()).toEqual([]);
    const second = made(run('crankcase-valve-and-hose', CAUTION, { kind: 'done', step: 'route', round: 0 }));
    await second.session.back();
    expect(second.said()).toEqual([{ kind: 'reopened', step: 'route' }]);
  });

  test('looked at again: done again from there, or left', async () => {
    const { session, said } = made(run('crankcase-valve-and-hose', CAUTION, { kind: 'done', step: 'route', round: 0 }));
    await session.again();
    expect(said()).toEqual([]);
    session.look('route');
    expect(session.now().looked?.id).toBe('route');
    await session.again();
    expect([said(), session.now().looked]).toEqual([[{ kind: 'reopened', step: 'route' }], null]);
    session.look('no such step');
    expect(session.now().looked).toBeNull();
  });

  test('asked twice it is not asked; at another step a skip is gone, and parking is not', () => {
    const { session } = made(run('crankcase-valve-and-hose', CAUTION));
    session.ask('skip');
    session.ask('skip');
    expect(session.now().asking).toBeNull();
    const later = run('crankcase-valve-and-hose', CAUTION, { kind: 'skipped', step: 'route', round: 0, reason: 'x' });
    session.ask('skip');
    session.look('route');
    session.take(later);
    expect([session.now().asking, session.now().looked]).toEqual([null, null]);
    session.ask('park');
    session.take(run('crankcase-valve-and-hose', CAUTION));
    expect(session.now().asking).toBe('park');
  });

  test('tells who looks only what has changed', () => {
    const view = run('crankcase-valve-and-hose');
    const { session } = made(view);
    let told = 0;
    const stop = session.subscribe(() => told++);
    session.take(view);
    expect(told).toBe(0);
    session.ask('park');
    expect(told).toBe(1);
    stop();
    session.ask('park');
    expect(told).toBe(1);
  });
});

describe('stopped by a rule', () => {
  test('goes on with the new part: this run ends, that one begins, what is off is off there too', async () => {
    const { session, writes } = made(
      run(
        'airflow-sensor-clean',
        { kind: 'took-off', taken: { item: 'a bracket' } },
        { kind: 'stop', rule: 'the housing is cracked' },
      ),
    );
    const next = session.withNewPart!;
    expect(next.kind).toBe('replace');
    await session.goOnWithNewPart();
    const [all] = writes;
    expect(all!.map((w) => w.path).slice(0, 2)).toEqual(['/jobs/j1/runs/r1/events', '/jobs/j1/runs']);
    expect(all![0]!.body.events![0]!.what).toMatchObject({
      kind: 'ended',
      counted: false,
      left: [{ reason: `goes on with “${next.title}”` }],
    });
    expect(all![1]!.body).toMatchObject({ procedure: { id: next.id } });
  });

  test('there is no new part to a run that fits one already', async () => {
    const { session, writes } = made(run(SHIPPED_PROCEDURES.find((p) => p.kind === 'replace')!.id));
    expect(session.withNewPart).toBeUndefined();
    await session.goOnWithNewPart();
    expect(writes).toEqual([]);
  });
});
