import { convert, type Unit } from './convert.ts';
import { ROLE_TWIN, type UnitSystem, US_TWIN } from './display.ts';

const NUMBER = String.raw`[-\u2212+]?\d[\d,]*(?:\.\d+)?`;
const BETWEEN = String.raw`\s*(?:\u2013|±|to|of|and|or|under)\s*`;
/** Figures that share the unit behind them: 2.4–3.1 g/s, 62 of 80 °C, 5 ± 1 kPa. Longer units before their beginnings. */
const FIGURES = new RegExp(
  String.raw`(?<![\w.,])(${NUMBER}(?:${BETWEEN}${NUMBER})*)(\s?)(kPa|°C|g\/s|km\/h|km|N·m|mm²|mm|cm|mL|K)(?![\w/²³])`,
  'g',
);
const EACH = new RegExp(String.raw`(±\s*)?(${NUMBER})`, 'g');

/** A sentence about fuel or about a charger gives its pressures in psi; any other in inHg. Common practice, no source. */
const IN_PSI = /\b(?:fuel|rail|pump|regulator|injector|boost|charge|turbo|backpressure|compression)/i;

/**
 * A sentence with metric figures as a reader of these units expects it: every figure with its unit is converted, the words
 * stay. Differences (K, and what stands behind ±) are converted as differences. Metric passes through.
 */
export function sentenceIn(text: string, system: UnitSystem): string {
  if (system === 'metric') return text;
  const psi = IN_PSI.test(text);
  return text.replace(FIGURES, (_, figures: string, space: string, written: string) => {
    const kelvin = written === 'K';
    const from = (kelvin ? '°C' : written) as Unit;
    const twin = from === 'kPa' && psi ? ROLE_TWIN.fuel : US_TWIN[from]!;
    const zero = from === '°C' ? convert(0, from, twin.unit) : 0;
    const shown = figures.replace(EACH, (__, plusMinus: string | undefined, number: string) => {
      const v = Number(number.replace('\u2212', '-').replaceAll(',', ''));
      const difference = kelvin || plusMinus !== undefined;
      const c = convert(v, from, twin.unit) - (difference ? zero : 0);
      const sign =
        /^[-\u2212]/.test(number) && c < 0 ? number[0]! : number.startsWith('+') && c > 0 ? '+' : c < 0 ? '\u2212' : '';
      const digits = Math.max(0, twin.digits - (Math.abs(c) >= 1000 ? 9 : 0));
      const plain = Math.abs(c).toLocaleString('en-US', {
        minimumFractionDigits: digits,
        maximumFractionDigits: digits,
      });
      return `${plusMinus ?? ''}${sign}${plain}`;
    });
    return `${shown}${space}${twin.unit}`;
  });
}
