import { Injectable } from '@nestjs/common';
import { Op, UniqueConstraintError } from 'sequelize';
import { LinkLease } from '../rows/links.ts';

/** A simulated bay stays with the shop that drove it last for this long, ms. [house] */
const HOLD_MS = 600_000;

/** Which shop a simulated bay stands in: one drives it at a time, and no other shop's link reads it meanwhile. */
@Injectable()
export class BayHolds {
  /** The bay is this shop's from now on; false while it is another's, by driving it or by a link to it. */
  async take(bay: number, shopId: string): Promise<boolean> {
    const now = new Date();
    const link = await LinkLease.findOne({ where: { address: `sim:${bay}`, expiresAt: { [Op.gt]: now } } });
    if (link && link.shopId !== shopId) return false;
    const address = `bay:${bay}`;
    const fields = {
      shopId,
      holder: '',
      epoch: 1,
      expiresAt: new Date(now.getTime() + HOLD_MS),
      jobId: null,
      status: null,
    };
    const [n] = await LinkLease.update(fields, {
      where: { address, [Op.or]: [{ shopId }, { expiresAt: { [Op.lt]: now } }] },
    });
    if (n > 0) return true;
    try {
      await LinkLease.create({ address, ...fields });
      return true;
    } catch (e) {
      if (!(e instanceof UniqueConstraintError)) throw e;
      return (await LinkLease.count({ where: { address, shopId } })) > 0;
    }
  }

  /** Whether another shop drives it now. */
  async takenByOther(bay: number, shopId: string): Promise<boolean> {
    return (
      (await LinkLease.count({
        where: { address: `bay:${bay}`, shopId: { [Op.ne]: shopId }, expiresAt: { [Op.gt]: new Date() } },
      })) > 0
    );
  }
}
