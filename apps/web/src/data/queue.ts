import { useSyncExternalStore } from 'react';
import { newId } from './api.ts';
import { showAnswer } from './job.ts';
import { type NewWrite, Outbox, type Waiting } from './Outbox.ts';
import { partsOfBrowser, sendOne } from './sending.ts';
import { outboxStore } from './store.ts';

/** This browser's outbox. */
export const outbox = new Outbox({
  ...partsOfBrowser('jb-outbox'),
  store: outboxStore,
  send: sendOne,
  newId,
  sent: (w, answer) => void showAnswer(w.jobId, w.path.slice(`/jobs/${w.jobId}`.length), answer),
});

/** What waits on this device for the signed-in account. */
export function useWaiting(): readonly Waiting[] {
  return useSyncExternalStore(outbox.subscribe, outbox.waiting);
}

/** How many entries of other accounts wait on this device. */
export function useOthersWaiting(): number {
  return useSyncExternalStore(outbox.subscribe, outbox.ofOthers);
}

export function queue(writes: readonly NewWrite[]) {
  return outbox.queue(writes);
}

/** One write of JSON, kept here first. Throws what the server refuses it for; it is then not kept. */
export async function queuePost(jobId: string, label: string, path: string, body: unknown): Promise<boolean> {
  const text = JSON.stringify(body);
  const r = await outbox.queue([{ jobId, label, method: 'POST', path, body: text }]);
  if (r.refused === null) return r.sent;
  const mine = outbox.waiting().find((w) => w.path === path && w.body === text && w.refused !== null);
  if (mine) await outbox.drop(mine);
  throw new Error(r.refused);
}

if (typeof window !== 'undefined') window.addEventListener('online', () => void outbox.flush());
