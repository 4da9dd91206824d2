import { type LinkStatus } from '@just-balance/contract';
import { DataTypes, Model } from 'sequelize';
import { type Define, shopId, text, time } from './columns.ts';

export class LinkLease extends Model {
  declare address: string;
  declare shopId: string;
  declare holder: string;
  declare epoch: number;
  declare expiresAt: Date;
  declare jobId: string | null;
  declare status: LinkStatus | null;
}

export function defineLinks(define: Define): void {
  define(
    LinkLease,
    'link_lease',
    {
      address: { ...text(120), primaryKey: true },
      shopId,
      holder: text(64),
      epoch: { type: DataTypes.INTEGER, allowNull: false },
      expiresAt: time,
      jobId: { type: DataTypes.CHAR(36) },
      status: { type: DataTypes.JSON },
    },
    false,
  );
}
