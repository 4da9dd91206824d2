import { DataTypes, Model } from 'sequelize';
import { type Define, hash, id, Owned, rev, shopId, text, time, uuid } from './columns.ts';
import { Shop } from './shop.ts';

export class Account extends Owned {
  declare rev: number;
  declare email: string;
  declare name: string;
  /** One of `ROLES`; any other has no rights. */
  declare role: string;
  /** Empty until the first password is set. */
  declare passwordHash: string;
  declare disabledAt: Date | null;
  /** Where it was asked for with `include`. */
  declare shop?: Shop;
}

export class Session extends Model {
  /** SHA-256 of the cookie's token: a stolen database signs nobody in. */
  declare id: string;
  declare accountId: string;
  declare expiresAt: Date;
  declare createdAt: Date;
  /** What the browser calls itself, for the list of sessions. */
  declare device: string;
  declare seenAt: Date | null;
}

/** A one-time link by which a person sets a password; kept by the hash of its token. */
export class Invitation extends Model {
  declare id: string;
  declare accountId: string;
  declare expiresAt: Date;
}

/** A browser that an account has signed in from before, by the hash of its cookie. */
export class KnownDevice extends Model {
  declare id: string;
  declare accountId: string;
}

export function defineAccounts(define: Define): void {
  define(Account, 'account', {
    id,
    shopId,
    rev,
    email: text(200),
    name: text(120),
    role: text(20),
    passwordHash: { ...text(200), defaultValue: '' },
    disabledAt: { type: DataTypes.DATE(3) },
  });
  define(Session, 'session', {
    id: hash,
    accountId: uuid,
    expiresAt: time,
    device: { ...text(200), defaultValue: '' },
    seenAt: { type: DataTypes.DATE(3) },
  });
  define(Invitation, 'invitation', { id: hash, accountId: uuid, expiresAt: time });
  define(KnownDevice, 'known_device', { id: hash, accountId: { ...uuid, primaryKey: true } });
  Account.belongsTo(Shop, { as: 'shop', foreignKey: 'shopId', constraints: false });
}
