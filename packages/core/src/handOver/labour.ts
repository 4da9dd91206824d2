import { TEST_BY_ID } from '../catalogue/index.ts';
import { runState } from '../procedures/index.ts';
import { counted } from '../units/index.ts';
import { standing } from './facts.ts';
import type { HandOverInput } from './input.ts';

/**
 * The minutes that tests and procedures of a job are advised to take, and what they come to at the shop's rate. Waiting
 * (soaking, drying) is not work and is not counted; a procedure that was given up is not either.
 */
export function labourOf(
  job: HandOverInput['job'],
  minutes: Readonly<Record<string, number>> = {},
): { tests: number; procedures: number } {
  const tests = job.tests
    .filter((t) => !t.undone)
    .reduce((sum, { test }) => sum + (minutes[test.id] ?? TEST_BY_ID.get(test.id)?.minutes ?? 0), 0);
  const procedures = job.runs
    .filter((r) => runState(r.procedure, r.events).status === 'ended')
    .reduce((sum, r) => sum + r.procedure.minutes, 0);
  return { tests, procedures };
}

/** As one sentence; null where the shop has no rate or nothing was done yet. */
export function labourInWords({ job, labour, minutes }: HandOverInput): string | null {
  const { tests, procedures } = labourOf(job, minutes);
  const all = tests + procedures;
  if (!labour || all === 0) return null;
  const cost = ((all / 60) * labour.perHour).toFixed(2);
  return `Labour as advised, without waiting: tests ${counted(tests, 'minute')}, procedures ${counted(procedures, 'minute')}; at ${labour.perHour.toFixed(2)} ${labour.currency} an hour ${cost} ${labour.currency}. A figure to start a bill from, not the bill.`;
}

/** What the parts of a job come to by the shop's own list, as one sentence; null where the list has none of them. */
export function partsInWords({ job, labour }: HandOverInput): string | null {
  const prices = labour?.parts;
  if (!labour || !prices) return null;
  const named = [
    ...standing<{ name: string }>(job, 'part').map((p) => p.name),
    ...job.repairs.filter((r) => !r.undone).flatMap((r) => r.part ?? []),
  ].map((n) => n.trim().toLowerCase());
  const parts = [...new Set(named)];
  const priced = parts.filter((n) => prices[n] !== undefined);
  if (priced.length === 0) return null;
  const sum = priced.reduce((n, p) => n + prices[p]!, 0);
  const unpriced = parts.filter((n) => prices[n] === undefined);
  const each = priced.map((p) => `${p} ${prices[p]!.toFixed(2)}`).join(', ');
  return `Parts by the shop’s list, one of each: ${each}; together ${sum.toFixed(2)} ${labour.currency}.${unpriced.length > 0 ? ` Without a price there: ${unpriced.join(', ')}.` : ''}`;
}
