import { type OwnKind } from '@just-balance/contract/service';
import { DataTypes } from 'sequelize';
import { type Define, flag, id, json, Owned, rev, shopId, text } from './columns.ts';

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
}
