import { type Case } from '../../case/index.ts';
export const bankNumber = (k: string): 1 | 2 => (k === 'bank2' ? 2 : 1);

/** Resolve the number of banks: given, else 2 if anything names bank 2. */
export function resolveBanks(c: Case): 1 | 2 {
  if (c.vehicle.banks) return c.vehicle.banks;
  const inReadings = (c.readings ?? []).some(
    (r) =>
      r.trims?.bank2 ?? r.lambda?.bank2 ?? r.o2V?.bank2 ?? Object.keys(r.o2 ?? {}).some((k) => k.startsWith('bank2')),
  );
  const inCodes = (c.codes ?? []).some((x) => /^P(0174|0175|015\d|016\d|0430|2179|2180|2189|2190)$/.test(x.code));
  const inTests = (c.tests ?? []).some((t) => t.bank === 2 || [t.outcome].flat().some((o) => o?.includes('bank2')));
  return inReadings || inCodes || inTests ? 2 : 1;
}
