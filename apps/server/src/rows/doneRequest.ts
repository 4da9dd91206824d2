import { DataTypes, Model } from 'sequelize';
import { type Define, hash, text, uuid } from './columns.ts';

/** A write that was done under an idempotency key, stored in the transaction of the work itself. */
export class DoneRequest extends Model {
  declare accountId: string;
  declare keyHash: string;
  declare request: string;
  declare bodyHash: string;
  declare status: number;
  declare response: unknown;
  declare createdAt: Date;
}

export function defineDoneRequest(define: Define): void {
  define(DoneRequest, 'done_request', {
    accountId: { ...uuid, primaryKey: true },
    keyHash: hash,
    request: text(300),
    bodyHash: { type: DataTypes.CHAR(64), allowNull: false },
    status: { type: DataTypes.SMALLINT, allowNull: false },
    response: { type: DataTypes.JSON },
  });
}
