import { pointLabel } from '../../case/index.ts';
import { faultLabel, outcomeLabel, outcomesOf, speaksFor } from '../../catalogue/index.ts';
import { isSaid, midSentence, percent, type Said, said } from '../../units/index.ts';
import type { Evidence, TestEvidence } from '../evidence/types.ts';
import { trimDeviations } from '../model/likelihood.ts';
import { resultProbability } from '../model/resultProbability.ts';
import type { Weighed } from '../model/weighed.ts';

/** A trim this many standard deviations from what the first cause predicts is a contradiction. [house] */
const MISFIT = 3;
/** A result less likely than this under the first cause speaks against it. [house] */
const UNLIKELY = 0.12;

/** Evidence that does not go together: codes against trims, and what the first cause leaves unexplained. */
export function contradictions(first: Weighed, ev: Evidence): Said[] {
  const out: Said[] = [];
  for (const [code, bank, sign, word] of FUEL_CODES) {
    if (!ev.codes?.some((k) => k.code === code)) continue;
    const totals = ev.trims.filter((t) => t.bank === bank).map((t) => t.totalPct * sign);
    if (totals.length > 0 && Math.max(...totals) < 0)
      out.push(
        `${code} says ${word}, the trims of bank ${bank} say the opposite now: an old code, or a fault that comes and goes.`,
      );
  }
  for (const t of ev.trims) {
    const predicted = first.expected[t.point]!.trimPct[t.bank - 1]!;
    const off = trimDeviations(t, predicted);
    if (Math.abs(off) <= MISFIT) continue;
    const where = `${pointLabel(t.at)}${ev.banks === 2 ? `, bank ${t.bank}` : ''}`;
    out.push(
      said`${where}: ${percent(t.totalPct)} does not go with ${midSentence(faultLabel(first.row.id))} (${percent(predicted)} predicted). Read it again; two faults at once are possible.`,
    );
  }
  for (const t of ev.tests) {
    if (!speaksAgainst(t, first.row.id)) continue;
    if (resultProbability(t, first.row.id, first.bank, ev.banks) >= UNLIKELY) continue;
    const what = isSaid(t.detail) ? t.detail : outcomeLabel(t.row.id, t.outcome);
    out.push(
      said`${t.row.label}: “${what}” does not go with ${midSentence(faultLabel(first.row.id))}. Repeat it before trusting either.`,
    );
  }
  return out;
}

/** Outcomes that cannot both be so. */
const OPPOSITE: Readonly<Record<string, string>> = {
  low: 'high',
  high: 'low',
  lean: 'rich',
  rich: 'lean',
  'biased-lean': 'biased-rich',
  'biased-rich': 'biased-lean',
};

/**
 * Whether a result cannot stand together with a cause: nothing was found where the cause shows, or its opposite. Another
 * finding is one more fault, or goes with it: a damaged element that reads low, a spent catalyst that is sooted too.
 */
function speaksAgainst(t: TestEvidence, fault: string): boolean {
  const outcomes = outcomesOf(t.row);
  const shows = outcomes.filter((o) => speaksFor(t.row, o).includes(fault));
  if (shows.length === 0 || shows.includes(t.outcome)) return false;
  return t.outcome === outcomes[0] || shows.includes(OPPOSITE[t.outcome] ?? '');
}

const FUEL_CODES: readonly (readonly [string, 1 | 2, 1 | -1, string])[] = [
  ['P0171', 1, 1, 'lean'],
  ['P0174', 2, 1, 'lean'],
  ['P0172', 1, -1, 'rich'],
  ['P0175', 2, -1, 'rich'],
];
