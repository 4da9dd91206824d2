import { type Settings } from '@just-balance/core/diagnosis';
import { type LearningChoice } from '@just-balance/core/shop';
import { DataTypes, Model } from 'sequelize';
import { type Define, id, json, Owned, rev, shopId, text } from './columns.ts';
import { type StoredLearning } from './learning.ts';

export class Shop extends Model {
  declare id: string;
  declare name: string;
  declare settings: Settings & { learning?: LearningChoice };
  declare learned: StoredLearning | null;
  declare rev: number;
}

/** Who changed what of the shop: settings, people, what is learned from. Never changed. */
export class ShopChange extends Owned {
  declare accountId: string | null;
  declare by: string;
  declare kind: string;
  declare data: Record<string, unknown>;
}

export function defineShop(define: Define): void {
  define(Shop, 'shop', { id, name: text(120), settings: json, learned: { type: DataTypes.JSON }, rev });
  define(ShopChange, 'shop_change', {
    id,
    shopId,
    accountId: { type: DataTypes.CHAR(36) },
    by: text(120),
    kind: text(40),
    data: json,
  });
}
