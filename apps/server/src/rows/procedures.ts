import { type OwnKind } from '@just-balance/contract/service';
import { DataTypes } from 'sequelize';
import { type Define, flag, id, json, Owned, rev, shopId, text, uuid } from './columns.ts';

export class OwnProcedure extends Owned {
  declare rev: number;
  declare undone: boolean;
  declare by: string;
  /** The procedure's own id. */
  declare slug: string;
  declare kind: OwnKind;
  declare copiedFrom: string | null;
  declare data: { id: string; title: string };
}

/** What one of them said up to a change; `rev` and `by` are those it had then, `createdAt` when it was replaced. */
export class OwnVersion extends Owned {
  declare ownId: string;
  declare rev: number;
  declare by: string;
  declare data: OwnProcedure['data'];
}

export function defineProcedures(define: Define): void {
  define(OwnProcedure, 'own_procedure', {
    id,
    shopId,
    by: text(120),
    rev,
    undone: flag,
    slug: text(60),
    kind: { type: DataTypes.STRING(12), allowNull: false, defaultValue: 'service' },
    copiedFrom: { type: DataTypes.STRING(60) },
    data: json,
  });
  define(OwnVersion, 'own_version', { id, shopId, ownId: uuid, rev, by: text(120), data: json });
}
