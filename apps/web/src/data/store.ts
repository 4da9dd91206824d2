import { type DBSchema, type IDBPDatabase, openDB } from 'idb';
import type { OutboxStore, Waiting } from './Outbox.ts';
import type { KeptSecond, OfflineRecording } from './offlineTypes.ts';

interface Kept extends DBSchema {
  outbox: { key: number; value: Waiting };
  /** Recordings of this device's own link, and their seconds, until all of one is in the shop. */
  spools: { key: string; value: OfflineRecording };
  seconds: { key: [string, number]; value: KeptSecond };
  mappings: { key: string; value: { headers: string; mapping: unknown; at: number } };
}

let opened: Promise<IDBPDatabase<Kept>> | null = null;

/** What this device keeps: writes on their way, and how files with the same headers were read last time. */
export function store(): Promise<IDBPDatabase<Kept>> {
  opened ??= openDB<Kept>('just-balance', 2, {
    upgrade(db, from) {
      if (from < 1) {
        db.createObjectStore('outbox', { keyPath: 'seq', autoIncrement: true });
        db.createObjectStore('mappings');
      }
      if (from < 2) {
        db.createObjectStore('spools', { keyPath: 'id' });
        db.createObjectStore('seconds', { keyPath: ['spool', 'seq'] });
      }
    },
  });
  return opened;
}

export const outboxStore: OutboxStore = {
  all: async () => (await store()).getAll('outbox'),
  async add(entries) {
    const tx = (await store()).transaction('outbox', 'readwrite', { durability: 'strict' });
    const adds: Promise<number>[] = [];
    try {
      for (const w of entries) adds.push(tx.store.add(w));
      const seqs = await Promise.all(adds);
      await tx.done;
      return seqs;
    } catch (e) {
      // What cannot be stored at all is refused before the database sees it: those beside it are taken back here.
      for (const p of [tx.done, ...adds]) p.catch(() => {});
      try {
        tx.abort();
      } catch {
        // The database has taken it back by itself.
      }
      throw e;
    }
  },
  async put(entry) {
    await (await store()).put('outbox', entry);
  },
  async remove(seqs) {
    const tx = (await store()).transaction('outbox', 'readwrite');
    await Promise.all(seqs.map((s) => tx.store.delete(s)));
    await tx.done;
  },
};
