import { useSyncExternalStore } from 'react';
import { newId } from './api.ts';
import { lookAgain } from './job.ts';
import type { OfflineRecording } from './offlineTypes.ts';
import { partsOfBrowser, sendOne } from './sending.ts';
import { store } from './store.ts';
import { type OfflineStore, Uploader } from './Uploader.ts';

export const offlineStore: OfflineStore = {
  recordings: async () => (await store()).getAll('spools'),
  add: async (recording) => {
    await (await store()).put('spools', recording);
  },
  async update(id, change) {
    const tx = (await store()).transaction('spools', 'readwrite');
    const now = await tx.store.get(id);
    if (now) await tx.store.put({ ...now, ...change(now) });
    await tx.done;
  },
  async keep(id, second) {
    const tx = (await store()).transaction(['spools', 'seconds'], 'readwrite', { durability: 'strict' });
    const now = await tx.objectStore('spools').get(id);
    if (now) {
      await tx.objectStore('seconds').put({ spool: id, seq: now.seconds, ...second });
      await tx.objectStore('spools').put({ ...now, seconds: now.seconds + 1 });
    }
    await tx.done;
  },
  seconds: async (id, from, most) =>
    (await store()).getAll('seconds', IDBKeyRange.bound([id, from], [id, Number.MAX_SAFE_INTEGER]), most),
  async remove(id) {
    const tx = (await store()).transaction(['spools', 'seconds'], 'readwrite');
    await tx.objectStore('spools').delete(id);
    await tx.objectStore('seconds').delete(IDBKeyRange.bound([id, 0], [id, Number.MAX_SAFE_INTEGER]));
    await tx.done;
  },
};

/** This browser's recordings on their way to the shop. */
export const uploader = new Uploader({
  ...partsOfBrowser('jb-spools'),
  store: offlineStore,
  post: (accountId, { path }, body) =>
    sendOne({ accountId, method: 'POST', path, body: JSON.stringify(body), idempotencyKey: newId() }),
  arrived: (s) => void lookAgain(s.jobId, null),
});

export function useOfflineRecordings(): readonly OfflineRecording[] {
  return useSyncExternalStore(uploader.subscribe, uploader.waiting);
}

/** How many recordings of other accounts wait on this device. */
export function useOthersOfflineRecordings(): number {
  return useSyncExternalStore(uploader.subscribe, uploader.ofOthers);
}

if (typeof window !== 'undefined') window.addEventListener('online', () => void uploader.flush());
