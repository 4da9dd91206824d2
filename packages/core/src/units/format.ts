import { convert, type Unit } from './convert.ts';
import { twinOf, type UnitSystem } from './display.ts';
import type { Figure } from './figure.ts';

/** One formatter for each number of digits: made anew for every figure it cost more than the judgement. */
const formatters = new Map<number | undefined, Intl.NumberFormat>();
function formatterOf(digits: number | undefined): Intl.NumberFormat {
  const known = formatters.get(digits);
  if (known) return known;
  const made = new Intl.NumberFormat('en-US', {
    minimumFractionDigits: digits ?? 0,
    maximumFractionDigits: digits ?? 6,
  });
  formatters.set(digits, made);
  return made;
}

/** A number for a reader: thousands, a real minus, so many digits behind the point; absent: as many as it has. */
export function numberText(v: number, digits?: number): string {
  if (!Number.isFinite(v)) return '—';
  const size = formatterOf(digits).format(Math.abs(v));
  return v < 0 && Number(size.replaceAll(',', '')) !== 0 ? `−${size}` : size;
}

/** So many significant digits, never with an exponent: 110, 1.1, 0.011. */
export function significant(v: number, digits: number): string {
  if (v === 0 || !Number.isFinite(v)) return numberText(v);
  const behind = Math.max(0, digits - 1 - Math.floor(Math.log10(Math.abs(v))));
  return numberText(Number(v.toPrecision(digits)), Math.min(behind, 8));
}

/** The unit a figure is shown in, how its values get there, and the digits there. */
function shownAs(
  f: Figure,
  system: UnitSystem | 'own',
): { unit: string; digits?: number; of(v: number, difference: boolean): number } {
  const kelvin = f.unit === 'K';
  const own = (kelvin ? '°C' : f.unit) as Unit;
  const twin = system === 'own' ? undefined : twinOf(own, system, f.role);
  if (!twin) return { unit: f.unit, ...(f.digits === undefined ? {} : { digits: f.digits }), of: (v) => v };
  const zero = convert(0, own, twin.unit);
  return {
    unit: twin.unit,
    digits: twin.digits,
    of: (v, difference) => convert(v, own, twin.unit) - (difference || kelvin ? zero : 0),
  };
}

/** A figure with its unit as a reader of these units has it. */
export function figureText(f: Figure, system: UnitSystem | 'own'): string {
  const { unit, digits, of } = shownAs(f, system);
  const between = f.between ?? '–';
  const spread = between.includes('±');
  const values = f.values.map((v, i) => {
    const c = of(v, f.difference === true || (spread && i > 0));
    const d = unit !== f.unit && Math.abs(c) >= 1000 ? 0 : digits;
    const size = f.significant === undefined ? numberText(c, d) : significant(c, f.significant);
    return f.signed && c >= 0 ? `+${size}` : size;
  });
  return `${values.join(between)}${unit === '' ? '' : unit === '°' ? '°' : ` ${unit}`}`;
}
