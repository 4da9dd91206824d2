import type { Reading } from '../case/index.ts';
import { compareTrims, proofOf } from './compare.ts';
import { bankTotals } from './totals.ts';

/** Short-term trim this far against the long-term one: the memory still settles, percentage points. [house] */
const SETTLING_PCT = 3;

/** The proof in words: what the readings after the repair say beside those before it. */
export function proofVerdict(
  before: readonly Reading[],
  after: readonly Reading[],
  bandPct: number,
): { title: string; why: string } {
  const proof = proofOf(compareTrims(before.flatMap(bankTotals), after.flatMap(bankTotals), bandPct), bandPct);
  if (proof === 'proven') {
    return {
      title: 'Proven by the trims',
      why: `Back inside ±${bandPct} % at every point. No pending code after two trips is the other half.`,
    };
  }
  const settling = after.some((r) =>
    Object.values(r.trims ?? {}).some(
      (t) => t && Math.abs(t.stft ?? 0) >= SETTLING_PCT && (t.stft ?? 0) * (t.ltft ?? 0) < 0,
    ),
  );
  return {
    title: proof === 'better, not proven' ? 'Better, not proven yet' : 'Not proven',
    why: settling
      ? 'Short-term runs against long-term: the memory still settles. Drive a few minutes and take them again.'
      : 'A point is still outside the band. A second fault may be there.',
  };
}
