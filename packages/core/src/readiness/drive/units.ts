import { convert, UNITS, type Unit } from '../../units/index.ts';

/** Ways people write a unit. */
const ALSO: Readonly<Record<string, string>> = {
  F: '°F',
  degF: '°F',
  C: '°C',
  degC: '°C',
  kph: 'km/h',
  'km/hr': 'km/h',
  feet: 'ft',
  hours: 'h',
  hr: 'h',
};
const HOURS: Readonly<Record<string, number>> = { h: 1, min: 1 / 60, s: 1 / 3600 };

const known = (u: string): u is Unit => u in UNITS;
/** A unit by the name it has here. */
export const plainUnit = (u: string): string => ALSO[u] ?? u;

export function canConvert(from: string, to: string): boolean {
  const [a, b] = [plainUnit(from), plainUnit(to)];
  if (a === b || (a in HOURS && b in HOURS)) return true;
  return known(a) && known(b) && UNITS[a].quantity === UNITS[b].quantity;
}

/** A figure in another unit of its quantity. `difference`: of two temperatures, their zero does not matter. */
export function inUnit(value: number, from: string, to: string, difference = false): number {
  const [a, b] = [plainUnit(from), plainUnit(to)];
  if (a === b) return value;
  if (a in HOURS && b in HOURS) return (value * HOURS[a]!) / HOURS[b]!;
  if (!known(a) || !known(b)) return value;
  return difference ? convert(value, a, b) - convert(0, a, b) : convert(value, a, b);
}

/** The bounds of a band in the unit its channel came in; null is open. */
export function bandInOwnUnit(
  band: { low?: number; high?: number; unit: string },
  unit: string,
): { low: number | null; high: number | null } {
  const to = (v: number | undefined) => (v === undefined ? null : inUnit(v, band.unit, unit));
  return { low: to(band.low), high: to(band.high) };
}
