import type { Write } from '@just-balance/contract';
import { api } from './api.ts';
import { showAnswer } from './job.ts';
import { type NewWrite, placeOf, waits } from './Outbox.ts';
import { outbox } from './queue.ts';

/** One write, now. What it answers stands on every screen that shows its job once it is through. */
export async function write<B, A>(w: Write<B, A>, body: B): Promise<A> {
  const answer = await api.send(w, body);
  const place = placeOf(w.path);
  if (place) await showAnswer(place.job, place.below, answer);
  return answer;
}

/** Several that belong together, in order: all are kept or none, and what is refused holds back what follows. */
export async function queueAll(writes: readonly NewWrite[]): Promise<void> {
  const { refused } = await outbox.queue(writes);
  if (refused !== null) throw new Error(refused);
}

/**
 * One write of JSON, kept on this device first, sent and shown when the server answers.
 *
 * @returns Whether it has reached the server.
 * @throws What the server refuses it for; it is then not kept.
 */
export async function queueWrite<B, A>(label: string, w: Write<B, A>, body: B): Promise<boolean> {
  const one = waits(label, w, body);
  const r = await outbox.queue([one]);
  if (r.refused === null) return r.sent;
  const mine = outbox.waiting().find((x) => x.path === one.path && x.body === one.body && x.refused !== null);
  if (mine) await outbox.drop(mine);
  throw new Error(r.refused);
}
