import { useSyncExternalStore } from 'react';
import { mutate } from 'swr';
import { ApiFailure, newId, said, send } from '../shared/api.ts';
import { store, type Waiting } from './store.ts';

/** The order in which writes of this device go up: once each, oldest first, by themselves. */
const RETRY_MS = 3000;

let waiting: readonly Waiting[] = [];
let accountId: string | null = null;
const listeners = new Set<() => void>();
let timer: ReturnType<typeof setTimeout> | undefined;
let busy: Promise<void> | null = null;

async function refresh() {
  waiting = await (await store()).getAll('outbox');
  for (const l of listeners) l();
}

/** Everything that waits on this device for the signed-in account. */
export function useWaiting(): readonly Waiting[] {
  const all = useSyncExternalStore(
    (f) => {
      listeners.add(f);
      return () => listeners.delete(f);
    },
    () => waiting,
  );
  return all;
}

/** From sign-in on: take up what was left. Null on sign-out: it stays, and waits for its author. */
export function outboxFor(account: string | null): void {
  accountId = account;
  void refresh().then(flush, () => {});
}

/**
 * Put writes down on this device, all or none; then send what waits. Resolves once they are on disk here, with whether
 * they have reached the server meanwhile.
 */
export async function queue(
  writes: readonly Pick<Waiting, 'jobId' | 'label' | 'method' | 'path' | 'body'>[],
): Promise<{ sent: boolean; refused: string | null }> {
  if (accountId === null) throw new Error('sign in first');
  const db = await store();
  const group = newId();
  const tx = db.transaction('outbox', 'readwrite', { durability: 'strict' });
  const mine = accountId;
  const keys = await Promise.all(
    writes.map((w) => tx.store.add({ ...w, accountId: mine, group, idempotencyKey: newId(), refused: null })),
  );
  await tx.done;
  await refresh();
  await flush();
  const left = waiting.filter((w) => keys.includes(w.seq!));
  return { sent: left.length === 0, refused: left.find((w) => w.refused !== null)?.refused ?? null };
}

/** One write of JSON, kept here first. Throws what the server refuses it for; it is then not kept. */
export async function queuePost(jobId: string, label: string, path: string, body: unknown): Promise<boolean> {
  const before = new Set(waiting.map((w) => w.seq));
  const r = await queue([{ jobId, label, method: 'POST', path, body: JSON.stringify(body) }]);
  if (r.refused === null) return r.sent;
  const mine = waiting.filter((w) => !before.has(w.seq) && w.refused !== null && w.path === path);
  for (const w of mine) await discard(w);
  throw new Error(r.refused);
}

export async function discard(w: Waiting): Promise<void> {
  const db = await store();
  for (const other of waiting) if (other.group === w.group) await db.delete('outbox', other.seq!);
  await refresh();
}

export async function tryAgain(w: Waiting): Promise<void> {
  const db = await store();
  await db.put('outbox', { ...w, refused: null });
  await refresh();
  await flush();
}

/** Send what waits, in order. One tab at a time where the browser can arrange it. */
function flush(): Promise<void> {
  busy ??= (navigator.locks ? navigator.locks.request('jb-outbox', run) : run()).finally(() => {
    busy = null;
  });
  return busy;
}

async function run(): Promise<void> {
  clearTimeout(timer);
  const touched = new Set<string>();
  for (;;) {
    await refresh();
    const held = new Set(waiting.filter((w) => w.refused !== null).map((w) => w.group));
    const next = waiting.find((w) => w.accountId === accountId && !held.has(w.group));
    if (!next) break;
    try {
      await send(next.method, next.path, next.body, next.idempotencyKey);
      await (await store()).delete('outbox', next.seq!);
      touched.add(next.jobId);
    } catch (e) {
      if (!(e instanceof ApiFailure) || e.status === 0 || e.status === 401 || e.status === 429 || e.status >= 500) {
        timer = setTimeout(() => void flush(), RETRY_MS);
        break;
      }
      await (await store()).put('outbox', { ...next, refused: said(e) });
    }
  }
  await refresh();
  for (const id of touched) void mutate(`/jobs/${id}`);
}

if (typeof window !== 'undefined') window.addEventListener('online', () => void flush());
