import { Injectable } from '@nestjs/common';

/** Tries without any waiting. [house] */
const FREE = 5;
/** Longest wait, ms. [house] */
const LONGEST_MS = 300_000;
/** A failure is forgotten after this long without another, ms. [house] */
const FORGET_MS = 3_600_000;
const MAX_KEYS = 20_000;
/** Tries that wait for their turn, of browsers that are known and of others: a second's work each. [house] */
const MAX_QUEUE = 40;

interface Failures {
  count: number;
  lastMs: number;
  /** No try before this. */
  untilMs: number;
}

/**
 * Wrong passwords slow down who guesses, not who knows. Failures count per account and browser where the browser has
 * signed in to that account before, per account and address elsewhere: a stranger's guesses never wait a known browser
 * out. Failures of one address over many accounts only hold its wrong answers back; a right password passes at once.
 * In memory of one server: with several, each counts for itself.
 */
@Injectable()
export class Attempts {
  private readonly failures = new Map<string, Failures>();
  private busy = false;
  private readonly known: (() => void)[] = [];
  private readonly others: (() => void)[] = [];

  /** Ms to wait before this key may try again; 0: now. */
  wait(key: string, nowMs = Date.now()): number {
    const f = this.failures.get(key);
    return f ? Math.max(0, f.untilMs - nowMs) : 0;
  }

  failed(key: string, nowMs = Date.now()): void {
    this.forget(nowMs);
    const before = this.failures.get(key);
    const count = before && nowMs - before.lastMs < FORGET_MS ? before.count + 1 : 1;
    const waitMs = count < FREE ? 0 : Math.min(LONGEST_MS, 1000 * 2 ** (count - FREE));
    this.failures.delete(key);
    this.failures.set(key, { count, lastMs: nowMs, untilMs: nowMs + waitMs });
  }

  succeeded(key: string): void {
    this.failures.delete(key);
  }

  /** How often a key has failed of late. */
  count(key: string): number {
    return this.failures.get(key)?.count ?? 0;
  }

  /** Run a password check in turn, those of known browsers before all others; null when too many wait already. */
  async inTurn<T>(known: boolean, check: () => Promise<T>): Promise<T | null> {
    if (this.busy) {
      const queue = known ? this.known : this.others;
      if (queue.length >= MAX_QUEUE) return null;
      await new Promise<void>((begin) => queue.push(begin));
    }
    this.busy = true;
    try {
      return await check();
    } finally {
      const next = this.known.shift() ?? this.others.shift();
      if (next) next();
      else this.busy = false;
    }
  }

  /** The oldest go first: the map keeps the order of the last failure. */
  private forget(nowMs: number): void {
    for (const [key, f] of this.failures) {
      if (nowMs - f.lastMs < FORGET_MS && this.failures.size < MAX_KEYS) break;
      this.failures.delete(key);
    }
  }
}
