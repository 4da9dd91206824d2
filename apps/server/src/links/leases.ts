import { randomUUID } from 'node:crypto';
import { Injectable } from '@nestjs/common';
import { Op, UniqueConstraintError } from 'sequelize';
import { LinkLease } from '../database/models.ts';

const TTL_MS = 10_000;
export const RENEW_MS = 3000;

/** Who owns the link to an adapter: a row with a conditional update and expiry; `epoch` is the fencing number. */
@Injectable()
export class Leases {
  readonly holder = randomUUID();

  /** Take or renew; null when another live instance or shop holds it. A new holder gets the next epoch. */
  async acquire(address: string, shopId: string, fresh: boolean): Promise<number | null> {
    const now = Date.now();
    const expiresAt = new Date(now + TTL_MS);
    const current = await LinkLease.findOne({ where: { address } });
    if (!current) {
      try {
        await LinkLease.create({ address, shopId, holder: this.holder, epoch: 1, expiresAt });
        return 1;
      } catch (e) {
        if (e instanceof UniqueConstraintError) return this.acquire(address, shopId, fresh);
        throw e;
      }
    }
    const mine = current.holder === this.holder && current.shopId === shopId;
    const epoch = mine && !fresh ? current.epoch : current.epoch + 1;
    const [n] = await LinkLease.update(
      { shopId, holder: this.holder, epoch, expiresAt },
      {
        where: {
          address,
          epoch: current.epoch,
          [Op.or]: [{ holder: this.holder, shopId }, { expiresAt: { [Op.lt]: new Date(now) } }],
        },
      },
    );
    return n > 0 ? epoch : null;
  }

  async release(address: string): Promise<void> {
    await LinkLease.update({ expiresAt: new Date(0) }, { where: { address, holder: this.holder } });
  }
}
