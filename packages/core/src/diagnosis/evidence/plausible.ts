import type { BankKey, Case, Reading } from '../../case/index.ts';
import { displayedTotal } from '../../trims/index.ts';
import { figure, type Said, said } from '../../units/index.ts';

/** What a sound figure may be; outside it is kept on record, said, and left out of the judgement. [house] */
const LIMITS = {
  /** No ECU adds or takes away more, short and long together, %. */
  totalPct: 60,
  coolantC: [-45, 135],
  intakeC: [-45, 130],
  lambda: [0.6, 1.6],
  idleRpm: [300, 2500],
  /** A manifold without a turbocharger stands no further above the air outside, kPa; a biased sensor may. */
  aboveBaroKPa: 15,
} as const;

/** The reading without what cannot be, and a sentence for each figure left out. */
export function plausible(r: Reading, c: Case, baroKPa: number, label: string): { reading: Reading; left: Said[] } {
  const left: Said[] = [];
  const out: Reading = { ...r };
  const drop = (key: keyof Reading, text: Said) => {
    delete out[key];
    left.push(said`${label}: ${text} is not plausible: kept, not judged.`);
  };
  if (r.ectC !== undefined && outside(r.ectC, LIMITS.coolantC)) drop('ectC', said`coolant at ${figure(r.ectC, '°C')}`);
  if (r.iatC !== undefined && outside(r.iatC, LIMITS.intakeC))
    drop('iatC', said`intake air at ${figure(r.iatC, '°C')}`);
  if (r.rpm !== undefined && r.at === 'idle' && outside(r.rpm, LIMITS.idleRpm)) drop('rpm', `an idle at ${r.rpm} rpm`);
  if (r.mapKPa !== undefined && c.vehicle.induction !== 'turbo' && r.mapKPa > baroKPa + LIMITS.aboveBaroKPa)
    drop('mapKPa', said`a manifold at ${figure(r.mapKPa, 'kPa')} with ${figure(baroKPa, 'kPa', 0)} outside`);
  const trims: NonNullable<Reading['trims']> = {};
  for (const [bank, t] of Object.entries(r.trims ?? {}) as [BankKey, NonNullable<Reading['trims']>[BankKey]][]) {
    const total = t ? displayedTotal(t) : undefined;
    if (total !== undefined && Math.abs(total) > LIMITS.totalPct)
      left.push(
        `${label}, bank ${bank.at(-1)}: a total trim of ${total.toFixed(0)} % is not plausible: kept, not judged.`,
      );
    else trims[bank] = t;
  }
  if (r.trims) out.trims = trims;
  const lambda: NonNullable<Reading['lambda']> = {};
  for (const [bank, l] of Object.entries(r.lambda ?? {}) as [BankKey, number][]) {
    if (outside(l, LIMITS.lambda))
      left.push(`${label}, bank ${bank.at(-1)}: λ ${l} is not plausible: kept, not judged.`);
    else lambda[bank] = l;
  }
  if (r.lambda) out.lambda = lambda;
  return { reading: out, left };
}

function outside(v: number, [low, high]: readonly [number, number]): boolean {
  return v < low || v > high;
}
