import { type LayoutView } from '@just-balance/contract';
import { Model } from 'sequelize';
import { type Define, hash, json, shopId, text } from './columns.ts';

/** How tables with one set of headers are read in a shop. */
export class TableLayout extends Model {
  declare shopId: string;
  declare headersHash: string;
  declare by: string;
  declare data: Pick<LayoutView, 'layout' | 'roles'>;
}

export function defineRecordings(define: Define): void {
  define(
    TableLayout,
    'table_layout',
    { shopId: { ...shopId, primaryKey: true }, headersHash: hash, by: text(120), data: json },
    false,
  );
}
