import { type Case, type TestResult } from '../../case/index.ts';
import { bankNamed, type Measure, NO_EVIDENCE, outcomesOf, TEST_BY_ID } from '../../catalogue/index.ts';
import type { Said } from '../../units/index.ts';
import { detailOf, impliedOutcome, measuredOutcome } from './testValues.ts';
import { type TestEvidence } from './types.ts';

/** Tests that give a figure which is weighed as such, and not as an outcome. */
const FIGURES: readonly (Measure | undefined)[] = ['full-load', 'koeo'];

/** Those figures: full-load airflow over expected, key-on pressure over barometric in kPa. The newest counts. */
export function testedFigures(c: Case): { ratio?: number; koeoKPa?: number } {
  const of = (measure: Measure, key: string) => {
    const v = c.tests?.findLast((t) => TEST_BY_ID.get(t.id)?.measure === measure && !t.outcome)?.values?.[key];
    return typeof v === 'number' ? v : undefined;
  };
  const ratio = of('full-load', 'ratio');
  const koeoKPa = of('koeo', 'differenceKPa');
  return { ...(ratio !== undefined && ratio > 0 ? { ratio } : {}), ...(koeoKPa === undefined ? {} : { koeoKPa }) };
}

/** What names the second bank of an engine that has one is no finding on it: a slip, said and left out. */
export function testEvidence(c: Case, banks: 1 | 2, warnings: Said[]): TestEvidence[] {
  const newest = new Map<string, TestResult>();
  for (const t of c.tests ?? []) newest.set(`${t.id}|${t.bank ?? ''}|${t.part ?? ''}`, t);
  const out: TestEvidence[] = [];
  for (const t of newest.values()) {
    const row = TEST_BY_ID.get(t.id);
    if (!row || row.reading) continue;
    const part = t.part ?? null;
    const values = (t.values ?? {}) as Record<string, number | undefined>;
    const given = [t.outcome ?? impliedOutcome(row, values)].flat().filter((o) => typeof o === 'string');
    const outcomes = given.filter((o) => banks === 2 || bankNamed(o) !== 2);
    if (outcomes.length < given.length) {
      warnings.push(`${row.label}: names bank 2, and the engine has one. Left out.`);
      if (outcomes.length === 0) continue;
    }
    if (outcomes.some((o) => (NO_EVIDENCE as readonly string[]).includes(o))) continue;
    if (outcomes.length > 0) {
      // Beside something that was found, “the rest is in order” is no finding of its own.
      const [normal] = outcomesOf(row);
      for (const o of outcomes.filter((x) => outcomes.length === 1 || x !== normal))
        out.push({
          row,
          outcome: o,
          bank: t.bank ?? bankNamed(o),
          part,
          detail: detailOf(row.id, o, values, t.cylinders),
        });
    } else if (t.values && row.measure) {
      const m = FIGURES.includes(row.measure) ? null : measuredOutcome(row, values, c);
      if (m) out.push({ row, bank: t.bank ?? null, part, ...m });
    }
  }
  return out;
}
