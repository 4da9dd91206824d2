import { describe, expect, test } from '@jest/globals';
import {
  type Happened,
  inOrder,
  type Placed,
  placeOf,
  type RunEvent,
  runState,
  SHIPPED_PROCEDURES,
  timerLeftS,
} from '@just-balance/core/procedures';
import fc from 'fast-check';
import { ShopClock } from '../src/data/shopClock.ts';

/*
 * Two tablets whose clocks are wrong by up to a day, on networks that answer late, at one work: what each writes is put
 * right by what it heard of the shop's clock, arrives in any order, and is cut to the moment it arrives at.
 */
const START = 1_700_000_000_000;
const procedure = SHIPPED_PROCEDURES.find((p) => p.id === 'airflow-sensor-clean')!;
const timer = procedure.steps.find((s) => s.kind === 'timer')!;

/** What one of them does: after so many ms of the true time, and how long it takes to the shop. */
interface Act {
  tablet: 0 | 1;
  afterMs: number;
  lateMs: number;
  what: Happened;
}
/** There and back in at most two seconds, each way for itself. */
const way = fc.tuple(fc.nat(995), fc.nat(995));
const acts = fc.array(
  fc.record<Act>({
    tablet: fc.constantFrom<0 | 1>(0, 1),
    afterMs: fc.integer({ min: 100, max: 600_000 }),
    lateMs: fc.integer({ min: 5, max: 7_200_000 }),
    what: fc.oneof(
      fc.constantFrom(...procedure.steps).chain((s) =>
        fc.record({
          kind: fc.constant('done' as const),
          step: fc.constant(s.id),
          round: fc.nat(1),
          ...(s.answers ? { answer: fc.constantFrom(...s.answers.map((x) => x.text)) } : {}),
        }),
      ),
      fc.constantFrom<Happened>(
        { kind: 'timer', step: timer.id, round: 0 },
        { kind: 'parked', reason: 'rain', toOrder: ['seal ring'] },
        { kind: 'resumed' },
        { kind: 'took-over' },
        { kind: 'order', part: 'seal ring', is: 'ordered' },
        { kind: 'given-up', reason: 'sold' },
      ),
    ) as fc.Arbitrary<Happened>,
  }),
  { minLength: 1, maxLength: 25 },
);

function played(behind: readonly [number, number], ways: readonly [number, number][], doing: readonly Act[]) {
  let trueMs = START;
  const clocks = behind.map((b) => new ShopClock(() => trueMs - b, null));
  // Each has asked the shop something before.
  for (const [i, clock] of clocks.entries())
    for (const [there, back] of ways) {
      const sent = trueMs - behind[i]!;
      trueMs += there;
      const server = trueMs;
      trueMs += back;
      clock.heard(sent, server);
    }
  const last = [0, 0];
  const events = doing.map((d, i) => {
    trueMs += d.afterMs;
    const said = clocks[d.tablet]!.nowMs();
    // A tablet sends one after the other.
    const arrivesMs = Math.max(trueMs + d.lateMs, last[d.tablet]! + 1);
    last[d.tablet] = arrivesMs;
    const event: RunEvent = { id: `e${i}`, atMs: Math.min(said, arrivesMs), by: `${d.tablet}`, what: d.what };
    return { event, trueMs, arrivesMs };
  });
  // The shop gives each its place as it comes.
  const there: Placed[] = [];
  for (const e of [...events].sort((a, b) => a.arrivesMs - b.arrivesMs)) {
    const orderMs = placeOf(e.event, e.arrivesMs, there);
    there.push({ ...e.event, orderMs });
    if (orderMs !== null) e.event = { ...e.event, orderMs };
  }
  return { events, clocks, now: () => trueMs };
}

describe('two tablets, their clocks up to a day off', () => {
  test('the same run on both in whatever order it arrives, every event in it; a timer ends within two seconds of when it should', () => {
    const day = fc.integer({ min: -86_400_000, max: 86_400_000 });
    fc.assert(
      fc.property(
        fc.tuple(day, day),
        fc.array(way, { minLength: 1, maxLength: 6 }),
        acts,
        fc.nat(),
        (off, ways, doing, seed) => {
          const { events } = played(off, ways, doing);
          const arrived = [...events].sort((a, b) => a.arrivesMs - b.arrivesMs).map((e) => e.event);
          const mixed = arrived
            .map((e, i) => ({ e, at: (i * 7919 + seed) % 101 }))
            .sort((a, b) => a.at - b.at)
            .flatMap(({ e }) => [e, e]);
          const [here, there] = [runState(procedure, arrived), runState(procedure, mixed)];
          expect(JSON.stringify([...here.results, here.way, here.orders, here.hands, here.status])).toBe(
            JSON.stringify([...there.results, there.way, there.orders, there.hands, there.status]),
          );
          expect(here.disputes.map((d) => d.id).sort()).toEqual(there.disputes.map((d) => d.id).sort());
          // What a tablet did one after the other stays so; what came at once stands as it came.
          const order = inOrder(arrived);
          const placeIn = (e: RunEvent) => order.findIndex((x) => x.id === e.id);
          for (const tablet of ['0', '1']) {
            const mine = events.map((e) => e.event).filter((e) => e.by === tablet);
            expect(mine.map(placeIn)).toEqual(mine.map(placeIn).sort((a, b) => a - b));
          }
          const atOnce = events
            .filter((e) => e.arrivesMs - e.event.atMs <= 2000)
            .sort((a, b) => a.arrivesMs - b.arrivesMs)
            .map((e) => placeIn(e.event));
          expect(atOnce).toEqual([...atOnce].sort((a, b) => a - b));
          // The moment each was written is the true one within half of the way there and back.
          const most = Math.min(...ways.map(([a, b]) => (a + b) / 2)) + 5;
          for (const e of events) expect(Math.abs(e.event.atMs - e.trueMs)).toBeLessThanOrEqual(most);
        },
      ),
      { seed: 20261201, numRuns: 150 },
    );
  });

  test('a wait begun on one ends on the other within two seconds of when it should', () => {
    const day = fc.integer({ min: -86_400_000, max: 86_400_000 });
    fc.assert(
      fc.property(fc.tuple(day, day), fc.array(way, { minLength: 1, maxLength: 6 }), (off, ways) => {
        const begin: Act = { tablet: 0, afterMs: 1000, lateMs: 50, what: { kind: 'timer', step: timer.id, round: 0 } };
        const { events, clocks, now } = played(off, ways, [begin]);
        const [t] = runState(procedure, [events[0]!.event]).timers;
        const shouldEnd = events[0]!.trueMs + timer.seconds! * 1000;
        expect(Math.abs(t!.endsMs - shouldEnd)).toBeLessThanOrEqual(2000);
        // On the other tablet, by its own idea of the shop's time.
        const left = timerLeftS(t!, clocks[1]!.nowMs());
        expect(Math.abs(left * 1000 - (shouldEnd - now()))).toBeLessThanOrEqual(2000);
      }),
      { seed: 20261201, numRuns: 200 },
    );
  });
});
