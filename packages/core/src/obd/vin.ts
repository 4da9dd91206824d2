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

/** Letters and digits of position 10, from 1980 on, thirty years a round. 49 CFR 565.15 table VII (from memory). */
const YEARS = 'ABCDEFGHJKLMNPRSTVWXY123456789';

/**
 * Model year from a VIN's tenth character; position 7 tells the round: a digit 1980–2009, a letter 2010–2039. That holds
 * for passenger cars and light trucks sold in North America; elsewhere the character may mean something else. A year after
 * `latest` is of the round before. Null where it is none.
 */
export function modelYear(vin: string, latest: number): number | null {
  const code = YEARS.indexOf(vin[9] ?? '');
  if (!isVin(vin) || code < 0) return null;
  const year = (/[A-Z]/.test(vin[6]!) ? 2010 : 1980) + code;
  return year > latest ? year - 30 : year;
}
