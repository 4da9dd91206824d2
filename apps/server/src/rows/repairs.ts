import type { RepairWork } from '@just-balance/core/procedures';
import { type Define, flag, id, json, Owned, rev, shopId, text, uuid } from './columns.ts';

export class Repair extends Owned {
  declare jobId: string;
  declare rev: number;
  declare undone: boolean;
  declare by: string;
  declare data: {
    text: string;
    fault: string | null;
    part: string | null;
    work?: RepairWork;
    run?: string;
    adaptation: 'relearn' | 'reset';
    /** See `RepairView`. */
    guessed?: boolean;
  };
}

export function defineRepairs(define: Define): void {
  define(Repair, 'repair', { id, shopId, jobId: uuid, rev, undone: flag, by: text(120), data: json });
}
