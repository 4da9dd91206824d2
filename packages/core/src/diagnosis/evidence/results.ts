import { type Case, type TestResult } from '../../case/index.ts';
import { bankNamed, NO_EVIDENCE, TEST_BY_ID } from '../../catalogue/index.ts';
import { detailOf, impliedOutcome, measuredOutcome } from './testValues.ts';
import { type TestEvidence } from './types.ts';
export function testEvidence(c: Case, hasFullLoad: boolean): TestEvidence[] {
  const newest = new Map<string, TestResult>();
  for (const t of c.tests ?? []) newest.set(`${t.id}|${t.bank ?? ''}|${t.part ?? ''}`, t);
  const out: TestEvidence[] = [];
  for (const t of newest.values()) {
    const row = TEST_BY_ID.get(t.id);
    if (!row || row.reading) continue;
    if (t.id === 'full-load-airflow' && hasFullLoad) continue;
    const part = t.part ?? null;
    const values = (t.values ?? {}) as Record<string, number | undefined>;
    const outcomes = [t.outcome ?? impliedOutcome(row, values)].flat().filter((o) => typeof o === 'string');
    if (outcomes.some((o) => (NO_EVIDENCE as readonly string[]).includes(o))) continue;
    if (outcomes.length > 0) {
      for (const o of outcomes)
        out.push({
          row,
          outcome: o,
          bank: t.bank ?? bankNamed(o),
          part,
          detail: detailOf(o, values, t.cylinders),
        });
    } else if (t.values && row.measure) {
      const m = measuredOutcome(row, values, c);
      if (m) out.push({ row, outcome: m.outcome, bank: t.bank ?? null, part, detail: m.detail });
    }
  }
  return out;
}
