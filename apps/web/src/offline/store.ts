import { type DBSchema, type IDBPDatabase, openDB } from 'idb';

/** A write that waits on this device for its turn. */
export interface Waiting {
  /** Order of entry; made by the database. */
  seq?: number;
  /** Who wrote it: it goes up under no other account. */
  accountId: string;
  jobId: string;
  /** Writes that only make sense one after the other: a refusal holds the rest of its group back, nobody else's. */
  group: string;
  /** What a person calls it. */
  label: string;
  method: 'POST' | 'PUT';
  path: string;
  body: string | ArrayBuffer;
  idempotencyKey: string;
  /** Why the server refused it; null while it only waits. */
  refused: string | null;
}

interface Kept extends DBSchema {
  outbox: { key: number; value: Waiting };
  mappings: { key: string; value: { headers: string; mapping: unknown; at: number } };
}

let opened: Promise<IDBPDatabase<Kept>> | null = null;

/** What this device keeps: writes on their way, and how files with the same headers were read last time. */
export function store(): Promise<IDBPDatabase<Kept>> {
  opened ??= openDB<Kept>('just-balance', 1, {
    upgrade(db) {
      db.createObjectStore('outbox', { keyPath: 'seq', autoIncrement: true });
      db.createObjectStore('mappings');
    },
  });
  return opened;
}
