import { useSyncExternalStore } from 'react';
import { newId } from './api.ts';
import { showAnswer } from './job.ts';
import { namesOf } from './names.ts';
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

/** Whose entries those are, as far as this device knows their names. */
export function useOthersNames(): string[] {
  return namesOf(useSyncExternalStore(outbox.subscribe, outbox.othersIds).split(' '));
}

export function queue(writes: readonly NewWrite[]) {
  return outbox.queue(writes);
}

if (typeof window !== 'undefined') window.addEventListener('online', () => void outbox.flush());
