import { convert, type Unit } from './convert.ts';
import { METRIC_TWIN, ROLE_TWIN, type UnitSystem, US_TWIN } from './display.ts';

const NUMBER = String.raw`[-\u2212+]?\d[\d,]*(?:\.\d+)?`;
const BETWEEN = String.raw`\s*(?:\u2013|±|to|of|and|or|under)\s*`;
/** Figures that share the unit behind them: 2.4–3.1 g/s, 62 of 80 °C, 5 ± 1 kPa. Longer units before their beginnings. */
const figuresIn = (units: string) =>
  new RegExp(String.raw`(?<![\w.,])(${NUMBER}(?:${BETWEEN}${NUMBER})*)(\s?)(${units})(?![\w/²³])`, 'g');
const METRIC = figuresIn(String.raw`kPa|°C|g\/s|km\/h|km|N·m|mm²|mm|cm|mL|K`);
const US = figuresIn(String.raw`psi|inHg|°F|lb\/min|mph|mi|ft|lbf·ft`);
const EACH = new RegExp(String.raw`(±\s*)?(${NUMBER})`, 'g');

/** A sentence about fuel or about a charger gives its pressures in psi; any other in inHg. Common practice, no source. */
const IN_PSI = /\b(?:fuel|rail|pump|regulator|injector|boost|charge|turbo|backpressure|compression)/i;

/**
 * A sentence with figures as a reader of these units expects it: every figure with a unit of the other system is
 * converted, the words stay. Differences (K, and what stands behind ±) are converted as differences.
 */
export function sentenceIn(text: string, system: UnitSystem): string {
  const psi = IN_PSI.test(text);
  return text.replace(system === 'us' ? METRIC : US, (_, figures: string, space: string, written: string) => {
    const kelvin = written === 'K';
    const from = (kelvin ? '°C' : written) as Unit;
    const twin = system === 'metric' ? METRIC_TWIN[from]! : from === 'kPa' && psi ? ROLE_TWIN.fuel : US_TWIN[from]!;
    const zero = from === '°C' || from === '°F' ? convert(0, from, twin.unit) : 0;
    const shown = figures.replace(EACH, (__, plusMinus: string | undefined, number: string) => {
      const v = Number(number.replace('\u2212', '-').replaceAll(',', ''));
      const difference = kelvin || plusMinus !== undefined;
      const c = convert(v, from, twin.unit) - (difference ? zero : 0);
      const digits = Math.abs(c) >= 1000 ? 0 : twin.digits;
      const size = Math.abs(c).toLocaleString('en-US', {
        minimumFractionDigits: digits,
        maximumFractionDigits: digits,
      });
      const sign =
        Number(c.toFixed(digits)) < 0 ? (number.startsWith('-') ? '-' : '\u2212') : number.startsWith('+') ? '+' : '';
      return `${plusMinus ?? ''}${sign}${size}`;
    });
    return `${shown}${space}${twin.unit}`;
  });
}

/** Every text of a value as its reader expects it: the same shape with other sentences. */
export function saidIn<T>(value: T, system: UnitSystem): T {
  const said = (v: unknown): unknown => {
    if (typeof v === 'string') return sentenceIn(v, system);
    if (Array.isArray(v)) return v.map(said);
    if (v === null || typeof v !== 'object' || Object.getPrototypeOf(v) !== Object.prototype) return v;
    return Object.fromEntries(Object.entries(v).map(([k, x]) => [k, said(x)]));
  };
  return said(value) as T;
}
