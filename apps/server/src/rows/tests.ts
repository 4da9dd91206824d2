import { type TestResult } from '@just-balance/core/case';
import { type Define, flag, id, json, Owned, rev, shopId, text, uuid } from './columns.ts';

export class TestRow extends Owned {
  declare jobId: string;
  declare rev: number;
  declare undone: boolean;
  declare phase: 'before' | 'after';
  declare by: string;
  declare data: TestResult;
}

export function defineTests(define: Define): void {
  define(TestRow, 'test_result', {
    id,
    shopId,
    jobId: uuid,
    rev,
    undone: flag,
    phase: { ...text(8), defaultValue: 'before' },
    by: text(120),
    data: json,
  });
}
