import { randomUUID } from 'node:crypto';
import type { LinkStatus } from '@just-balance/contract';
import { Injectable } from '@nestjs/common';
import { Op, UniqueConstraintError } from 'sequelize';
import { LinkLease } from '../rows/links.ts';

export const TTL_MS = 10_000;
export const RENEW_MS = 3000;

export interface LeaseOwner {
  shopId: string;
  jobId: string;
}

/**
 * Who owns the link to an adapter: a row with a conditional update and expiry; `epoch` is the fencing number. Times are
 * those of the servers' clocks, which are taken to agree within a few seconds.
 */
@Injectable()
export class Leases {
  readonly holder = randomUUID();

  /** Take; null when another live server or shop holds it. The new holder gets the next epoch. */
  async acquire(address: string, owner: LeaseOwner): Promise<number | null> {
    const now = Date.now();
    const fields = { ...owner, holder: this.holder, expiresAt: new Date(now + TTL_MS), status: null };
    const current = await LinkLease.findOne({ where: { address } });
    if (!current) {
      try {
        await LinkLease.create({ address, epoch: 1, ...fields });
        return 1;
      } catch (e) {
        if (e instanceof UniqueConstraintError) return this.acquire(address, owner);
        throw e;
      }
    }
    const epoch = current.epoch + 1;
    const [n] = await LinkLease.update(
      { ...fields, epoch },
      {
        where: {
          address,
          epoch: current.epoch,
          [Op.or]: [{ holder: this.holder }, { expiresAt: { [Op.lt]: new Date(now) } }],
        },
      },
    );
    return n > 0 ? epoch : null;
  }

  /** Keep what is held under this epoch; false when it is not ours any more. Tells other servers how the link is. */
  async renew(address: string, epoch: number, status: LinkStatus): Promise<boolean> {
    const [n] = await LinkLease.update(
      { expiresAt: new Date(Date.now() + TTL_MS), status },
      { where: { address, epoch, holder: this.holder } },
    );
    // Updating to the same values may count as nothing changed.
    return n > 0 || (await LinkLease.count({ where: { address, epoch, holder: this.holder } })) > 0;
  }

  async release(address: string, epoch: number): Promise<void> {
    await LinkLease.update(
      { expiresAt: new Date(0), status: null },
      { where: { address, epoch, holder: this.holder } },
    );
  }

  /** The lease that another server holds for a job now; null when none does. */
  async elsewhere(jobId: string): Promise<LinkLease | null> {
    return LinkLease.findOne({
      where: { jobId, holder: { [Op.ne]: this.holder }, expiresAt: { [Op.gt]: new Date() } },
    });
  }
}
