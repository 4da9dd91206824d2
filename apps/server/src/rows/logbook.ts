import { Model } from 'sequelize';
import { type Define, id, Owned, shopId, text, time, uuid } from './columns.ts';

/** One thing a job can be found by: a word of its texts, a code, a cause, a part, a person. */
export class JobTag extends Model {
  declare jobId: string;
  declare kind: string;
  declare value: string;
  declare shopId: string;
  declare createdAt: Date;
}

/** Each word that stands in any job of the shop, once: how a beginning finds its endings. */
export class ShopWord extends Model {
  declare shopId: string;
  declare word: string;
}

export class SavedView extends Owned {
  declare accountId: string;
  declare name: string;
  declare query: string;
}

export function defineLogbook(define: Define): void {
  define(
    JobTag,
    'job_tag',
    {
      jobId: { ...uuid, primaryKey: true },
      kind: { ...text(10), primaryKey: true },
      value: { ...text(120), primaryKey: true },
      shopId,
      createdAt: time,
    },
    false,
  );
  define(
    ShopWord,
    'shop_word',
    { shopId: { ...shopId, primaryKey: true }, word: { ...text(120), primaryKey: true } },
    false,
  );
  define(SavedView, 'saved_view', { id, shopId, accountId: uuid, name: text(80), query: text(1000) });
}
