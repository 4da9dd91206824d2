import type { Write as TypedWrite } from '@just-balance/contract';
import { deviceRefuses, whyNotKept } from './room.ts';
import { Sender, type SenderParts, type SendResult, type Write } from './Sender.ts';

/** A write that waits on this device for its turn. */
export interface Waiting extends Write {
  /** Order of entry; made by the store. */
  seq?: number;
  jobId: string;
  /** Writes that only make sense one after the other: a refusal holds the rest of its group back, nobody else's. */
  group: string;
  /** What a person calls it. */
  label: string;
  /** Why it was set aside; null while it only waits. */
  refused: string | null;
}

export type NewWrite = Pick<Waiting, 'jobId' | 'label' | 'method' | 'path' | 'body'>;

/** The job a write is of, and the address below it. */
export function placeOf(path: string): { job: string; below: string } | null {
  const [, job, below] = /^\/jobs\/([^/?]+)(.*)$/.exec(path) ?? [];
  return job === undefined ? null : { job: decodeURIComponent(job), below: below ?? '' };
}

/** A write into a job as it waits on this device. `label`: what a person calls it. */
export function waits<B, A>(label: string, w: TypedWrite<B, A>, body: B): NewWrite {
  const { method, path } = w;
  if (method !== 'POST' && method !== 'PUT') throw new Error(`${method} ${path}: cannot wait`);
  return {
    jobId: placeOf(path)?.job ?? '',
    label,
    method,
    path,
    body: body instanceof ArrayBuffer ? body : JSON.stringify(body),
  };
}

export interface OutboxStore {
  all(): Promise<Waiting[]>;
  /** All of them or none. Resolves with their places once they are on disk. */
  add(entries: readonly Waiting[]): Promise<number[]>;
  put(entry: Waiting): Promise<void>;
  remove(seqs: readonly number[]): Promise<void>;
}

interface Parts extends SenderParts {
  store: OutboxStore;
  send(w: Waiting): Promise<SendResult>;
  newId(): string;
  /** Reached the server, which answered. */
  sent(w: Waiting, answer: unknown): void;
}

/** So long the answer to a press is waited for; then it waits on this device, ms. [house] */
const PATIENCE_MS = 1500;
/** How often the rest of what belongs together is sent again where the device cannot keep it. [house] */
const TRIES = 5;

/**
 * The order in which writes of this device go up: once each, oldest first. An entry that is refused, or that the server
 * breaks on, is set aside with its reason and those behind it go on. Nothing goes away unless it has reached the server
 * or a person drops it.
 */
export class Outbox extends Sender<Waiting, Parts> {
  protected kept(): Promise<readonly Waiting[]> {
    return this.parts.store.all();
  }

  /**
   * Put writes down, all or none; then send what waits. Resolves with whether they reached the server meanwhile, at once
   * where it answers, else after a moment: what is kept is kept, and is refused later where it has to be.
   */
  async queue(writes: readonly NewWrite[]): Promise<{ sent: boolean; refused: string | null }> {
    const { accountId, parts } = this;
    if (accountId === null) throw new Error('Sign in first.');
    const group = parts.newId();
    const entries = writes.map((w) => ({ ...w, accountId, group, idempotencyKey: parts.newId(), refused: null }));
    let seqs: number[];
    try {
      seqs = await parts.store.add(entries);
    } catch (e) {
      if (!deviceRefuses(e)) throw e;
      return this.straight(entries, e);
    }
    await this.refresh();
    // Kept it is; the answer is waited for a moment only: at the edge of a network it may take very long.
    let stop = () => {};
    const moment = new Promise<void>((resolve) => {
      stop = parts.later(resolve, PATIENCE_MS);
    });
    await Promise.race([this.flush(), moment]);
    stop();
    const left = this.entries.filter((w) => seqs.includes(w.seq!));
    return { sent: left.length === 0, refused: left.find((w) => w.refused !== null)?.refused ?? null };
  }

  /** The device keeps nothing more: straight to the server, behind what waits; or it is said that nothing was kept. */
  private async straight(
    entries: readonly Waiting[],
    why: unknown,
  ): Promise<{ sent: boolean; refused: string | null }> {
    const { parts } = this;
    const part = (i: number) => `Only the first of it is in the shop (${i} of ${entries.length})`;
    const nothing = (kept: string) =>
      new Error(`${kept}: ${whyNotKept(why)}, or go where the server answers; then press it once more.`);
    await this.flush();
    if (this.entries.some((w) => w.accountId === this.accountId && w.refused === null))
      throw nothing('Nothing of this was kept, and what waits here goes up first');
    for (const [i, w] of entries.entries()) {
      let result = await parts.send(w);
      // What belongs together is in the shop in part: the same again, it counts once.
      for (let tries = 0; result.kind === 'later' && i > 0 && tries < TRIES; tries++) {
        await new Promise<void>((done) => parts.later(done, PATIENCE_MS));
        result = await parts.send(w);
      }
      if (result.kind === 'later') throw nothing(i === 0 ? 'Nothing of this was kept' : part(i));
      if (result.kind === 'refused')
        return { sent: false, refused: i === 0 ? result.reason : `${part(i)}, the rest was refused: ${result.reason}` };
      parts.sent(w, result.answer);
    }
    return { sent: true, refused: null };
  }

  /** Drop an entry and what only makes sense after it. */
  async drop(w: Waiting): Promise<void> {
    await this.parts.store.remove(this.entries.filter((e) => e.group === w.group).map((e) => e.seq!));
    await this.refresh();
  }

  /** The same entry again, with another body where a person has corrected it: then it is another write. */
  async tryAgain(w: Waiting, body?: string): Promise<void> {
    const changed = body !== undefined && body !== w.body;
    await this.parts.store.put({
      ...w,
      refused: null,
      ...(changed ? { body, idempotencyKey: this.parts.newId() } : {}),
    });
    await this.refresh();
    await this.flush();
  }

  protected async run(): Promise<'done' | 'later'> {
    for (let next = await this.next(); next; next = await this.next()) {
      const result = await this.parts.send(next);
      if (result.kind === 'later') return 'later';
      this.reached();
      if (result.kind === 'done') {
        await this.parts.store.remove([next.seq!]);
        // Before it leaves the list of what waits: on no screen it is missing for a moment.
        this.parts.sent(next, result.answer);
      } else await this.parts.store.put({ ...next, refused: result.reason });
    }
    return 'done';
  }

  private async next(): Promise<Waiting | undefined> {
    await this.refresh();
    const held = new Set(this.entries.filter((w) => w.refused !== null).map((w) => w.group));
    return this.entries.find((w) => w.accountId === this.accountId && !held.has(w.group));
  }
}
