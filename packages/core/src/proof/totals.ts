import type { Reading } from '../case/index.ts';
import { BY_EYE_SD, displayedTotal } from '../trims/index.ts';
import type { BankReading } from './compare.ts';

/** Totals of a reading per bank. */
export function bankTotals(r: Reading): BankReading[] {
  const out: BankReading[] = [];
  for (const [key, t] of Object.entries(r.trims ?? {})) {
    const total = t && displayedTotal(t);
    if (t && total !== undefined)
      out.push({ at: r.at, bank: key === 'bank2' ? 2 : 1, totalPct: total, sd: t.sd ?? BY_EYE_SD, n: t.n ?? 1 });
  }
  return out.sort((a, b) => a.bank - b.bank);
}
