import { bankNamed, MOST_ODDS, outcomesOf, RESULTS, SWAP_PARTS, type TestRow } from '../../catalogue/index.ts';
import type { Settings } from '../types.ts';

/** Rows by test and number of banks, then fault and bank (0: none). */
const TABLE = new Map<string, Map<string, readonly number[]>>();

/** What happens apart from the fault is at least this likely: no result is impossible. [house] */
const FLOOR = 0.002;

/** P(outcome | fault on this bank), by catalogue and bounded. */
export function outcomeProbability(
  test: TestRow,
  outcome: string,
  faultId: string,
  bank: 1 | 2 | null = null,
  banks: 1 | 2 = 2,
): number {
  return outcomeRow(test, faultId, bank, banks)[outcomesOf(test).indexOf(outcome)] ?? 0;
}

/** The same for every outcome, in their order; they sum to 1. */
export function outcomeRow(test: TestRow, faultId: string, bank: 1 | 2 | null, banks: 1 | 2): readonly number[] {
  const key = keyOf(test, banks);
  let rows = TABLE.get(key);
  if (!rows) {
    rows = new Map();
    TABLE.set(key, rows);
  }
  const at = `${faultId}|${bank ?? 0}`;
  let row = rows.get(at);
  if (!row) {
    row = bounded(test, plainRow(test, faultId, bank, banks), banks);
    rows.set(at, row);
  }
  return row;
}

const keyOf = (test: TestRow, banks: 1 | 2) =>
  `${test.id}|${banks}${test.learned ? `|${test.learned.hits}|${test.learned.alarms}` : ''}`;

/** The test with what a shop's own results say of it. */
export function asLearned(test: TestRow, reliability: Settings['reliability']): TestRow {
  const learned = reliability && Object.hasOwn(reliability, test.id) ? reliability[test.id] : undefined;
  return learned ? { ...test, learned } : test;
}

/** However good or bad a test has been, its outcomes of one kind are no surer than this together. [house] */
const SUREST = { shown: 0.99, anyway: 0.6 };

/** Chances times a factor; together no more than `most`. */
function scaled(chances: number[], factor: number, most: number): number[] {
  if (factor === 1) return chances;
  const sum = factor * chances.reduce((a, b) => a + b, 0);
  const by = sum > most ? (factor * most) / sum : factor;
  return chances.map((p) => p * by);
}

/** By the table alone. An outcome that names a bank belongs to a per-bank fault on that bank only. */
function plainRow(test: TestRow, faultId: string, bank: 1 | 2 | null, banks: 1 | 2): number[] {
  const { shows, anyway } = RESULTS[test.id]!;
  const abnormal = Object.keys(shows);
  const { hits, alarms } = test.learned ?? { hits: 1, alarms: 1 };
  const shown = scaled(
    abnormal.map((o) => {
      const p = shows[o]![faultId] ?? 0;
      return bank === null || bankNamed(o) === null || bankNamed(o) === bank ? p : 0;
    }),
    hits,
    SUREST.shown,
  );
  const always = scaled(
    abnormal.map((o) => Math.max(anyway[o] ?? 0, FLOOR)),
    alarms,
    SUREST.anyway,
  );
  const sum = shown.reduce((a, b) => a + b, 0);
  // Where its own outcome does not come, what comes anyway does.
  const row = abnormal.map((_, i) => shown[i]! + (1 - sum) * always[i]!);
  if (banks === 1)
    abnormal.forEach((o, i) => {
      if (bankNamed(o) !== 2) return;
      const first = abnormal.indexOf(o.replace('bank2', 'bank1'));
      // A fault without a bank of its own is shared out by the table; one with a bank stands in the first already.
      if (first >= 0) row[first]! += row[i]!;
      row[i] = 0;
    });
  return [1 - row.reduce((a, b) => a + b, 0), ...row];
}

/** What is likeliest to be seen, whatever the fault: where wrong looks and slips go. By test and banks. */
const WRONG = new Map<string, { likeliest: number[]; sum: number }>();

function bounded(test: TestRow, row: readonly number[], banks: 1 | 2): number[] {
  const key = keyOf(test, banks);
  let wrong = WRONG.get(key);
  if (!wrong) {
    const faults = new Set(Object.values(RESULTS[test.id]!.shows).flatMap((f) => Object.keys(f)));
    const rows = ['balanced', ...faults].map((f) => plainRow(test, f, null, banks));
    const likeliest = outcomesOf(test).map((_, o) => Math.max(...rows.map((r) => r[o]!)));
    wrong = { likeliest, sum: likeliest.reduce((a, b) => a + b, 0) };
    WRONG.set(key, wrong);
  }
  // With a share e of wrong results spread like `likeliest`, no result weighs more than sum / e to 1.
  const { likeliest, sum } = wrong;
  const e = sum / (MOST_ODDS[test.reliability] + sum);
  return row.map((p, o) => (1 - e) * p + (e * likeliest[o]!) / sum);
}

interface Result {
  row: TestRow;
  outcome: string;
  bank: 1 | 2 | null;
  part: string | null;
}

/** P(every outcome of a test that was done | fault on this bank). Aimed at one bank it says nothing of the other. */
export function resultRow(t: Result, faultId: string, bank: 1 | 2 | null, banks: 1 | 2): readonly number[] {
  if (t.row.swaps && t.part !== null) {
    const { part } = t;
    return outcomesOf(t.row).map((o) => swapProbability(o, faultId, part));
  }
  const relevant = t.bank === null || bank === null || t.bank === bank;
  return outcomeRow(t.row, relevant ? faultId : 'balanced', relevant ? bank : null, banks);
}

/** P(what a test showed | fault on this bank). */
export function resultProbability(t: Result, faultId: string, bank: 1 | 2 | null, banks: 1 | 2): number {
  return resultRow(t, faultId, bank, banks)[outcomesOf(t.row).indexOf(t.outcome)] ?? 0;
}

/** P(a proven part fixes it | fault): only a fault that goes with the part. [house] */
const FIXES = { goes: 0.88, other: 0.06 };

export function swapProbability(outcome: string, faultId: string, part: string): number {
  const key = Object.keys(SWAP_PARTS).find((k) => part.startsWith(k));
  const goes = key ? SWAP_PARTS[key]!.includes(faultId) : false;
  const fixed = goes ? FIXES.goes : FIXES.other;
  return outcome === 'fixed' ? fixed : 1 - fixed;
}
