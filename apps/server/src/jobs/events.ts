import type { Transaction } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import type { Actor } from '../common/request.ts';
import { JobEvent } from '../database/models.ts';

/** Append one line to a job's history, inside the transaction that did the thing. */
export async function appendEvent(
  who: Pick<Actor, 'shopId' | 'name'> & { accountId: string | null },
  jobId: string,
  kind: string,
  data: Record<string, unknown>,
  transaction: Transaction,
): Promise<void> {
  await JobEvent.create(
    { id: uuidv7(), shopId: who.shopId, jobId, accountId: who.accountId, by: who.name, kind, data },
    { transaction },
  );
}
