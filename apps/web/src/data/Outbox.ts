/** A write that waits on this device for its turn. */
export interface Waiting {
  /** Order of entry; made by the store. */
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
  /** Why it was set aside; null while it only waits. */
  refused: string | null;
}

export type NewWrite = Pick<Waiting, 'jobId' | 'label' | 'method' | 'path' | 'body'>;

/** What became of one attempt to send. */
export type SendResult =
  | { kind: 'done'; answer: unknown }
  /** Nobody answered, or not now: the same again later. */
  | { kind: 'later' }
  /** This entry will not go up as it is: refused, or the server breaks on it. */
  | { kind: 'refused'; reason: string };

export interface OutboxStore {
  all(): Promise<Waiting[]>;
  /** All of them or none. Resolves with their places once they are on disk. */
  add(entries: readonly Waiting[]): Promise<number[]>;
  put(entry: Waiting): Promise<void>;
  remove(seqs: readonly number[]): Promise<void>;
}

interface Deps {
  store: OutboxStore;
  send(w: Waiting): Promise<SendResult>;
  newId(): string;
  /** Calls `f` once after `ms`; returns what stops it. */
  later(f: () => void, ms: number): () => void;
  /** Runs `f` in one tab of this browser at a time. */
  alone(f: () => Promise<void>): Promise<void>;
  /** Reached the server, which answered. */
  sent(w: Waiting, answer: unknown): void;
}

const RETRY_MS = [1000, 3000, 3000, 10_000];

/**
 * The order in which writes of this device go up: once each, oldest first, by themselves. An entry that is refused, or
 * that the server breaks on, is set aside with its reason and those behind it go on. Nothing goes away unless it has
 * reached the server or a person drops it.
 */
export class Outbox {
  private entries: readonly Waiting[] = [];
  private shown: readonly Waiting[] = [];
  private accountId: string | null = null;
  private readonly listeners = new Set<() => void>();
  private stopTimer: (() => void) | null = null;
  private flying: Promise<void> | null = null;
  private again = false;
  private tries = 0;

  constructor(private readonly deps: Deps) {}

  /** What waits for the account that is signed in; nobody sees another's. The same list until something changes. */
  waiting = (): readonly Waiting[] => this.shown;

  /** How many entries wait for other accounts to sign in here. */
  ofOthers = (): number => this.entries.length - this.shown.length;

  subscribe = (f: () => void): (() => void) => {
    this.listeners.add(f);
    return () => this.listeners.delete(f);
  };

  /** From sign-in on: take up what was left. Null on sign-out: it stays, and waits for its author. */
  async useAccount(accountId: string | null): Promise<void> {
    this.accountId = accountId;
    await this.refresh();
    await this.flush();
  }

  /** Put writes down, all or none; then send what waits. Resolves with whether they reached the server meanwhile. */
  async queue(writes: readonly NewWrite[]): Promise<{ sent: boolean; refused: string | null }> {
    const { accountId } = this;
    if (accountId === null) throw new Error('Sign in first.');
    const group = this.deps.newId();
    const seqs = await this.deps.store.add(
      writes.map((w) => ({ ...w, accountId, group, idempotencyKey: this.deps.newId(), refused: null })),
    );
    await this.refresh();
    await this.flush();
    const left = this.entries.filter((w) => seqs.includes(w.seq!));
    return { sent: left.length === 0, refused: left.find((w) => w.refused !== null)?.refused ?? null };
  }

  /** Drop an entry and what only makes sense after it. */
  async drop(w: Waiting): Promise<void> {
    await this.deps.store.remove(this.entries.filter((e) => e.group === w.group).map((e) => e.seq!));
    await this.refresh();
  }

  /** The same entry again, with another body where a person has corrected it: then it is another write. */
  async tryAgain(w: Waiting, body?: string): Promise<void> {
    const changed = body !== undefined && body !== w.body;
    await this.deps.store.put({
      ...w,
      refused: null,
      ...(changed ? { body, idempotencyKey: this.deps.newId() } : {}),
    });
    await this.refresh();
    await this.flush();
  }

  /** Send what waits, in order. A write queued while this runs goes out in the same run or the one right after it. */
  async flush(): Promise<void> {
    if (this.flying) {
      this.again = true;
      return this.flying;
    }
    this.stopTimer?.();
    this.stopTimer = null;
    this.flying = this.deps
      .alone(async () => {
        do {
          this.again = false;
          await this.run();
        } while (this.again);
      })
      .finally(() => {
        this.flying = null;
        // Queued after the last look and before this line.
        if (this.again) return this.flush();
        return undefined;
      });
    return this.flying;
  }

  private async run(): Promise<void> {
    try {
      for (let next = await this.next(); next; next = await this.next()) {
        const result = await this.deps.send(next);
        if (result.kind === 'later') {
          this.stopTimer?.();
          const wait = RETRY_MS[Math.min(this.tries++, RETRY_MS.length - 1)]!;
          this.stopTimer = this.deps.later(() => void this.flush(), wait);
          return;
        }
        this.tries = 0;
        if (result.kind === 'done') {
          await this.deps.store.remove([next.seq!]);
          // Before it leaves the list of what waits: on no screen it is missing for a moment.
          this.deps.sent(next, result.answer);
        } else await this.deps.store.put({ ...next, refused: result.reason });
      }
    } finally {
      await this.refresh();
    }
  }

  private async next(): Promise<Waiting | undefined> {
    await this.refresh();
    const held = new Set(this.entries.filter((w) => w.refused !== null).map((w) => w.group));
    return this.entries.find((w) => w.accountId === this.accountId && !held.has(w.group));
  }

  private async refresh(): Promise<void> {
    this.entries = await this.deps.store.all();
    this.shown = this.entries.filter((w) => w.accountId === this.accountId);
    for (const f of this.listeners) f();
  }
}

/** How often the server may break on one entry before it is set aside. [house] */
const BREAKS = 3;

/** Sends entries and reads the answers: what is a refusal, what only has to wait. */
export function sender(
  post: (w: Waiting) => Promise<unknown>,
  statusOf: (e: unknown) => { status: number; reason: string },
) {
  const broke = new Map<string, number>();
  return async (w: Waiting): Promise<SendResult> => {
    try {
      const answer = await post(w);
      broke.delete(w.idempotencyKey);
      return { kind: 'done', answer };
    } catch (e) {
      const { status, reason } = statusOf(e);
      // Nobody there; a proxy before a server that is down; the database away or full; signed out, or somebody else in;
      // too fast.
      if ([0, 401, 408, 412, 429, 502, 503, 504].includes(status)) return { kind: 'later' };
      if (status >= 500) {
        const n = (broke.get(w.idempotencyKey) ?? 0) + 1;
        broke.set(w.idempotencyKey, n);
        if (n < BREAKS) return { kind: 'later' };
        broke.delete(w.idempotencyKey);
      }
      return { kind: 'refused', reason };
    }
  };
}
