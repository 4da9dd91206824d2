const VALUES: Record<string, number> = {};
for (const [i, c] of [...'ABCDEFGH'].entries()) VALUES[c] = i + 1;
for (const [i, c] of [...'JKLMN'].entries()) VALUES[c] = i + 1;
VALUES.P = 7;
VALUES.R = 9;
for (const [i, c] of [...'STUVWXYZ'].entries()) VALUES[c] = i + 2;
for (let i = 0; i <= 9; i++) VALUES[i] = i;
const WEIGHTS = [8, 7, 6, 5, 4, 3, 2, 10, 0, 9, 8, 7, 6, 5, 4, 3, 2];

/** Seventeen characters without I, O, Q. ISO 3779. */
export function isVin(text: string): boolean {
  return /^[A-HJ-NPR-Z0-9]{17}$/.test(text);
}

/** Check digit of position 9: 0–9 or X. 49 CFR 565.15(c). NaN-safe: null when the text is not a VIN. */
export function vinCheckDigit(vin: string): string | null {
  if (!isVin(vin)) return null;
  let sum = 0;
  for (let i = 0; i < 17; i++) sum += VALUES[vin[i]!]! * WEIGHTS[i]!;
  const r = sum % 11;
  return r === 10 ? 'X' : String(r);
}
