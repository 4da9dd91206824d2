import { v7 as uuidv7 } from 'uuid';
import { ShopChange } from '../rows/shop.ts';

/** Write into the shop's history what became of an account: sign-ins, failures, sessions ended, passwords. */
export async function noteAccount(
  account: { id: string; shopId: string; name: string },
  kind: 'signed-in' | 'sign-in-failed' | 'signed-out' | 'session-ended' | 'password',
  data: Record<string, unknown>,
): Promise<void> {
  const { id: accountId, shopId, name: by } = account;
  await ShopChange.create({ id: uuidv7(), shopId, accountId, by, kind, data });
}
