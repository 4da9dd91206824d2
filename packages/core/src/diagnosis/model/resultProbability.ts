import { bankNamed, outcomesOf, RELIABILITY, SWAP_PARTS, TESTS, type TestRow } from '../../catalogue/index.ts';

/** By test, then fault, then bank (0: none). */
const TABLE = new Map<string, Map<string, (readonly number[] | undefined)[]>>(TESTS.map((t) => [t.id, new Map()]));

/**
 * P(outcome | fault on this bank): faults the outcome speaks for get the hit rate, all others the false-alarm rate. An
 * outcome that names a bank belongs to a per-bank fault on that bank only.
 */
export function outcomeProbability(test: TestRow, outcome: string, faultId: string, bank: 1 | 2 | null = null): number {
  return outcomeRow(test, faultId, bank)[outcomesOf(test).indexOf(outcome)] ?? 0;
}

/** The same for every outcome, in their order. */
export function outcomeRow(test: TestRow, faultId: string, bank: 1 | 2 | null): readonly number[] {
  const faults = TABLE.get(test.id)!;
  let rows = faults.get(faultId);
  if (!rows) {
    rows = [];
    faults.set(faultId, rows);
  }
  let row = rows[bank ?? 0];
  if (!row) {
    row = workOutRow(test, faultId, bank);
    rows[bank ?? 0] = row;
  }
  return row;
}

function workOutRow(test: TestRow, faultId: string, bank: 1 | 2 | null): number[] {
  const { falseAlarm, hit: usual } = RELIABILITY[test.reliability];
  const hit = test.hits?.find((h) => h.faults.includes(faultId))?.hit ?? usual;
  const abnormal = Object.keys(test.speaks);
  const mine = abnormal.filter(
    (o) => test.speaks[o]!.includes(faultId) && (bank === null || bankNamed(o) === null || bankNamed(o) === bank),
  );
  const others = abnormal.length - mine.length;
  if (mine.length === 0) return [1 - falseAlarm, ...abnormal.map(() => falseAlarm / Math.max(others, 1))];
  // A miss mostly looks normal; a little goes to the wrong abnormal outcome.
  const wrong = others > 0 ? Math.min((1 - hit) * 0.2, falseAlarm) : 0;
  return [1 - hit - wrong, ...abnormal.map((o) => (mine.includes(o) ? hit / mine.length : wrong / others))];
}

/** P(what a test showed | fault on this bank). A test aimed at one bank says nothing of a per-bank fault on the other. */
export function resultProbability(
  t: { row: TestRow; outcome: string; bank: 1 | 2 | null; part: string | null },
  faultId: string,
  bank: 1 | 2 | null,
): number {
  if (t.row.id === 'known-good-swap' && t.part !== null) return swapProbability(t.outcome, faultId, t.part);
  const relevant = t.bank === null || bank === null || t.bank === bank;
  return outcomeProbability(t.row, t.outcome, relevant ? faultId : 'balanced', relevant ? bank : null);
}

/** P(a proven part fixes it | fault): only a fault that goes with the part. */
export function swapProbability(outcome: string, faultId: string, part: string): number {
  const key = Object.keys(SWAP_PARTS).find((k) => part.startsWith(k));
  const goes = key ? SWAP_PARTS[key]!.includes(faultId) : false;
  const { hit, falseAlarm } = RELIABILITY.physical;
  const fixed = goes ? hit : falseAlarm;
  return outcome === 'fixed' ? fixed : 1 - fixed;
}
