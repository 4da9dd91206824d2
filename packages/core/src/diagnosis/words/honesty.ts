import { faultLabel, testLabel } from '../../catalogue/index.ts';
import { midSentence } from '../../units/index.ts';
import type { Weighed } from '../model/weighed.ts';
import { type candidates, separates, worthDoing } from '../next/rankTests.ts';
import type { Diagnosis } from '../types.ts';

/** What these readings cannot decide, and the test that can, be it slow. */
export function honesty(
  ranked: readonly Weighed[],
  tests: Diagnosis['nextTests'],
  apart: string[][],
  found: ReturnType<typeof candidates>,
): string[] {
  const out: string[] = [];
  for (const group of apart) {
    const names = group.map((g) => midSentence(faultLabel(g))).join(', ');
    const test = separates(found, group);
    out.push(
      test
        ? `These readings cannot tell apart: ${names}. The test “${midSentence(testLabel(test))}” can.`
        : `These cannot be told apart here: ${names}.`,
    );
  }
  if (!worthDoing(tests[0]) && ranked[0]?.row.id === 'balanced')
    out.push('No test left is worth its minutes: call it balanced.');
  return out;
}
