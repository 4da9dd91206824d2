import { type Reading } from '@just-balance/core/case';
import { DataTypes } from 'sequelize';
import { type Define, flag, id, json, Owned, rev, shopId, text, uuid } from './columns.ts';

export class ReadingRow extends Owned {
  declare jobId: string;
  declare rev: number;
  declare phase: 'before' | 'after';
  declare source: 'capture' | 'hand' | 'import';
  declare captureId: string | null;
  declare doubtful: string | null;
  /** Taken back: neither shown nor weighed. */
  declare undone: boolean;
  declare data: Reading;
}

export function defineReadings(define: Define): void {
  define(ReadingRow, 'reading', {
    id,
    shopId,
    jobId: uuid,
    rev,
    phase: text(8),
    source: text(8),
    captureId: { type: DataTypes.CHAR(36) },
    doubtful: { type: DataTypes.STRING(200) },
    undone: flag,
    data: json,
  });
}
