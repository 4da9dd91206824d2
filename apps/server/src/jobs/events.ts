import type { Transaction } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { JobEvent } from '../rows/jobs.ts';

/** Who does something to a job: a person, or the server itself. */
export interface Author {
  shopId: string;
  name: string;
  accountId: string | null;
  /** The page that asked, by the id it gave itself; it is not told what it knows. */
  screen?: string | null;
}

/** Append one line to a job's history, inside the transaction that did the thing. */
export async function appendEvent(
  who: Author,
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
