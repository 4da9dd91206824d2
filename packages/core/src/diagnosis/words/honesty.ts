import { faultLabel, testLabel } from '../../catalogue/index.ts';
import type { Weighed } from '../model/weighed.ts';
import { worthDoing } from '../next/rankTests.ts';
import type { Diagnosis } from '../types.ts';

/** What these readings cannot decide, and the test that can. */
export function honesty(ranked: readonly Weighed[], tests: Diagnosis['nextTests'], apart: string[][]): string[] {
  const out: string[] = [];
  const best = tests[0];
  const worth = worthDoing(best);
  for (const group of apart) {
    const names = group.map((g) => faultLabel(g).toLowerCase()).join(', ');
    out.push(
      worth
        ? `These readings cannot tell apart: ${names}. The test “${testLabel(best!.test).toLowerCase()}” can.`
        : `These cannot be told apart here: ${names}.`,
    );
  }
  if (!worth && ranked[0]?.row.id === 'balanced') out.push('No test left is worth its minutes: call it balanced.');
  return out;
}
