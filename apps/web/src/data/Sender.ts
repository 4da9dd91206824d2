/** What became of one attempt to send. */
export type SendResult =
  | { kind: 'done'; answer: unknown }
  /** Nobody answered, or not now: the same again later. */
  | { kind: 'later' }
  /** This entry will not go up as it is: refused, or the server breaks on it. */
  | { kind: 'refused'; reason: string };

/** What any sender is given of the browser. */
export interface SenderParts {
  /** Calls `f` once after `ms`; returns what stops it. */
  later(f: () => void, ms: number): () => void;
  /** Runs `f` in one tab of this browser at a time. */
  alone(f: () => Promise<void>): Promise<void>;
}

const RETRY_MS = [1000, 3000, 3000, 10_000];

/**
 * Takes what is kept on this device up to the shop: by itself, one run at a time in all tabs, again after a while where
 * nobody answered. What one account wrote goes up under no other, and nobody sees another's.
 */
export abstract class Sender<T extends { accountId: string }, P extends SenderParts> {
  /** All that is kept, whoever wrote it. */
  protected entries: readonly T[] = [];
  protected accountId: string | null = null;
  private shown: readonly T[] = [];
  private readonly listeners = new Set<() => void>();
  private stopTimer: (() => void) | null = null;
  private flying: Promise<void> | null = null;
  private again = false;
  private tries = 0;

  constructor(protected readonly parts: P) {}

  /** All that is kept, in the order in which it goes up. */
  protected abstract kept(): Promise<readonly T[]>;
  /** Send what waits; `later`: nobody answers now. */
  protected abstract run(): Promise<'done' | 'later'>;

  /** What waits for the account that is signed in. The same list until something changes. */
  waiting = (): readonly T[] => this.shown;

  /** How many entries wait for other accounts to sign in here. */
  ofOthers = (): number => this.entries.length - this.shown.length;

  /** Whose those are: account ids, each once, with a blank between; the same text until it changes. */
  othersIds = (): string =>
    [...new Set(this.entries.map((e) => e.accountId))].filter((id) => id !== this.accountId).join(' ');

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

  /** Send what waits. What is put down meanwhile goes out in the same run or the one right after it. */
  async flush(): Promise<void> {
    if (this.flying) {
      this.again = true;
      return this.flying;
    }
    this.stopTimer?.();
    this.stopTimer = null;
    this.flying = this.parts
      .alone(async () => {
        do {
          this.again = false;
          await this.once();
        } while (this.again);
      })
      .finally(() => {
        this.flying = null;
        // Put down after the last look and before this line.
        return this.again ? this.flush() : undefined;
      });
    return this.flying;
  }

  /** The server has answered: the next wait is short again. */
  protected reached(): void {
    this.tries = 0;
  }

  async refresh(): Promise<void> {
    this.entries = await this.kept();
    this.shown = this.entries.filter((e) => e.accountId === this.accountId);
    for (const f of this.listeners) f();
  }

  private async once(): Promise<void> {
    try {
      if ((await this.run()) === 'done') return;
      this.stopTimer?.();
      const wait = RETRY_MS[Math.min(this.tries++, RETRY_MS.length - 1)]!;
      this.stopTimer = this.parts.later(() => void this.flush(), wait);
    } finally {
      await this.refresh();
    }
  }
}

/** One write as it goes out. */
export interface Write {
  accountId: string;
  method: 'POST' | 'PUT';
  path: string;
  body: string | ArrayBuffer;
  idempotencyKey: string;
}

/** How often in a row the server may break on one address before what goes there is set aside. [house] */
const BREAKS = 3;

/** Sends writes and reads the answers: what is a refusal, what only has to wait. */
export function answers<W extends Write>(
  post: (w: W) => Promise<unknown>,
  statusOf: (e: unknown) => { status: number; reason: string },
): (w: W) => Promise<SendResult> {
  const broke = new Map<string, number>();
  return async (w) => {
    const address = `${w.method} ${w.path}`;
    try {
      const answer = await post(w);
      broke.delete(address);
      return { kind: 'done', answer };
    } catch (e) {
      const { status, reason } = statusOf(e);
      // Nobody there; a proxy before a server that is down; the database away or full; signed out, or somebody else in;
      // too fast.
      if ([0, 401, 408, 412, 429, 502, 503, 504].includes(status)) return { kind: 'later' };
      if (status >= 500) {
        const n = (broke.get(address) ?? 0) + 1;
        broke.set(address, n);
        if (n < BREAKS) return { kind: 'later' };
      }
      broke.delete(address);
      return { kind: 'refused', reason };
    }
  };
}
