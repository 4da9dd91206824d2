import { AsyncLocalStorage } from 'node:async_hooks';
import { Inject, Injectable } from '@nestjs/common';
import { type DatabaseError, type Sequelize, Transaction, UniqueConstraintError } from 'sequelize';
import { DoneRequest } from '../rows/doneRequest.ts';
import { SEQUELIZE } from './connect.ts';

/** The write under way, as its sender named it. */
export interface NamedRequest {
  accountId: string;
  keyHash: string;
  /** Method and path. */
  request: string;
  bodyHash: string;
  status: number;
  /** Set once the request's transaction has taken the key. */
  taken: boolean;
}

/** The key of this request was used before, by a write that is through. */
export class DoneBefore extends Error {}

/** Deadlock, lock wait: the whole transaction is rolled back and tried again. */
const AGAIN = new Set([1213, 1205]);
const TRIES = 6;
/** An answer larger than this is not kept: a repeat is then told to look. Bytes of JSON. [house] */
const MAX_ANSWER = 16_384;

/**
 * Transactions. The first one of a request that carries an idempotency key takes the key and keeps the answer, in the
 * same transaction as the work: either all of it is there after a crash, or none. What `f` returns is that answer.
 */
@Injectable()
export class Work {
  static readonly named = new AsyncLocalStorage<NamedRequest>();

  constructor(@Inject(SEQUELIZE) private readonly db: Sequelize) {}

  async run<T>(f: (t: Transaction) => Promise<T>): Promise<T> {
    const named = Work.named.getStore();
    const key = named && !named.taken ? named : null;
    for (let attempt = 1; ; attempt++) {
      try {
        return await this.db.transaction(async (transaction) => {
          if (key) await take(key, transaction);
          const answer = await f(transaction);
          if (key) await keep(key, answer, transaction);
          return answer;
        });
      } catch (e) {
        if (key) key.taken = false;
        if (!AGAIN.has(errnoOf(e) ?? 0) || attempt === TRIES) throw e;
        await new Promise((r) => setTimeout(r, 10 * 2 ** attempt));
      }
    }
  }

  /** Reads that belong together: they see one moment, whatever is written between them. */
  async read<T>(f: (t: Transaction) => Promise<T>): Promise<T> {
    return this.db.transaction({ isolationLevel: Transaction.ISOLATION_LEVELS.REPEATABLE_READ }, f);
  }
}

export function errnoOf(e: unknown): number | undefined {
  return (e as Partial<DatabaseError> & { original?: { errno?: number } }).original?.errno;
}

/** A twin under way holds the key: this waits for its end, then either the key is free or the work is done. */
async function take(key: NamedRequest, transaction: Transaction): Promise<void> {
  const { accountId, keyHash, request, bodyHash, status } = key;
  try {
    await DoneRequest.create({ accountId, keyHash, request, bodyHash, status, response: null }, { transaction });
  } catch (e) {
    if (e instanceof UniqueConstraintError) throw new DoneBefore();
    throw e;
  }
  key.taken = true;
}

async function keep(key: NamedRequest, answer: unknown, transaction: Transaction): Promise<void> {
  if (answer === undefined || JSON.stringify(answer).length > MAX_ANSWER) return;
  await DoneRequest.update(
    { response: answer },
    { where: { accountId: key.accountId, keyHash: key.keyHash }, transaction },
  );
}
