import { type KnownFigure } from '@just-balance/core/expected';
import { type Define, flag, id, json, Owned, rev, shopId, text, uuid } from './columns.ts';

/** A figure that beats physics; see KnownFigure in core's expected. */
export class KnownFigureRow extends Owned {
  declare jobId: string;
  declare rev: number;
  declare undone: boolean;
  declare by: string;
  declare vehicleId: string;
  declare family: string;
  declare layer: KnownFigure['layer'];
  declare data: Omit<KnownFigure, 'layer'>;
}

export function defineKnown(define: Define): void {
  define(KnownFigureRow, 'known_figure', {
    id,
    shopId,
    jobId: uuid,
    rev,
    undone: flag,
    by: text(120),
    vehicleId: uuid,
    family: text(120),
    layer: text(8),
    data: json,
  });
}
