import { PIDS_PER_REQUEST, type PollingPlan, planRequests } from './plan.ts';

/** For so long a group is asked one parameter at a time before it is tried together again, and at most, µs. [house] */
const APART_US = 30_000_000;
const LONGEST_APART_US = 600_000_000;
/** Unanswered so often in a row, a group is asked apart; the link may not be quiet altogether before that. [house] */
const MISSES = 2;

interface Group {
  pids: readonly number[];
  misses: number;
  /** How often it had to be taken apart, since it last worked. */
  times: number;
  apartUntilUs: number;
}

/** Why parameters are asked one at a time. */
export type Apart = 'refused' | 'unanswered';

/**
 * The rounds of a polling plan: every fast group, then one of the slow. A group that a unit refuses or does not answer is
 * asked one parameter at a time, for a while: the others stay together.
 */
export class Rounds {
  private readonly fast: readonly Group[];
  private readonly slow: readonly Group[];
  private queue: (readonly number[])[] = [];
  private slowQueue: (readonly number[])[] = [];
  private slowAt = 0;
  private why: Apart | null = null;

  constructor(plan: PollingPlan, supported: ReadonlySet<number>) {
    const { fast, slow } = planRequests(plan, supported, PIDS_PER_REQUEST);
    const group = (pids: readonly number[]): Group => ({ pids, misses: 0, times: 0, apartUntilUs: 0 });
    this.fast = fast.map(group);
    this.slow = slow.map(group);
  }

  /** What is asked next; null where the plan has nothing this unit knows. */
  next(atUs: number): readonly number[] | null {
    if (this.queue.length === 0) {
      this.queue = this.fast.flatMap((g) => questions(g, atUs));
      if (this.slowQueue.length === 0 && this.slow.length > 0)
        this.slowQueue = questions(this.slow[this.slowAt++ % this.slow.length]!, atUs);
      const slow = this.slowQueue.shift();
      if (slow) this.queue.push(slow);
    }
    return this.queue.shift() ?? null;
  }

  /** A question was answered. */
  answered(pids: readonly number[]): void {
    const g = this.together(pids);
    if (!g) return;
    g.misses = 0;
    g.times = 0;
  }

  /** Several in one question were refused. */
  refused(pids: readonly number[], atUs: number): void {
    const g = this.together(pids);
    if (g) this.takeApart(g, 'refused', atUs);
  }

  /** A question was not answered; `inARow`: how many of the link now, with this one. */
  missed(pids: readonly number[], inARow: number, atUs: number): void {
    const g = this.together(pids);
    if (!g) return;
    g.misses++;
    for (const x of [...this.fast, ...this.slow])
      if (x.misses >= MISSES || (inARow >= MISSES && x.misses > 0)) this.takeApart(x, 'unanswered', atUs);
  }

  /** Why some parameters are asked one at a time now; null where none are. */
  apart(atUs: number): Apart | null {
    return [...this.fast, ...this.slow].some((g) => g.apartUntilUs > atUs) ? this.why : null;
  }

  private together(pids: readonly number[]): Group | undefined {
    return pids.length < 2 ? undefined : [...this.fast, ...this.slow].find((g) => g.pids === pids);
  }

  private takeApart(g: Group, why: Apart, atUs: number): void {
    g.misses = 0;
    g.apartUntilUs = atUs + Math.min(LONGEST_APART_US, APART_US * 2 ** g.times);
    g.times++;
    this.why = why;
  }
}

function questions(g: Group, atUs: number): (readonly number[])[] {
  return g.apartUntilUs > atUs ? g.pids.map((p) => [p]) : [g.pids];
}
