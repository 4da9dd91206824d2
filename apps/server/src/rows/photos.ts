import { DataTypes } from 'sequelize';
import { type Define, flag, id, Owned, rev, shopId, text, uuid } from './columns.ts';

export class Photo extends Owned {
  declare jobId: string;
  declare rev: number;
  declare undone: boolean;
  declare by: string;
  declare runId: string | null;
  declare step: string | null;
  declare label: string;
  declare good: boolean;
  declare width: number;
  declare height: number;
  declare bytes: number;
  /** JPEG, and the same small. */
  declare image: Buffer;
  declare small: Buffer;
}

export function definePhotos(define: Define): void {
  const ofJob = { id, shopId, jobId: uuid, by: text(120) };
  const pixels = { type: DataTypes.INTEGER, allowNull: false };
  define(Photo, 'photo', {
    ...ofJob,
    rev,
    undone: flag,
    runId: { type: DataTypes.CHAR(36) },
    step: { type: DataTypes.STRING(60) },
    label: { ...text(120), defaultValue: '' },
    good: flag,
    width: pixels,
    height: pixels,
    bytes: pixels,
    image: { type: DataTypes.BLOB('medium'), allowNull: false },
    small: { type: DataTypes.BLOB, allowNull: false },
  });
}
