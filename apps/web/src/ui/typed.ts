/** Digits with a point, and perhaps a power of ten: nothing that only programs write, as 0x10. */
const DECIMAL = /^[+-]?(\d+\.?\d*|\.\d+)(e[+-]?\d{1,3})?$/i;

/** What a person typed as JavaScript reads it: a minus is a minus, a decimal comma a point; what is no number is `NaN`. */
export function typed(text: string): string {
  const t = text.trim().replace('−', '-').replace(',', '.');
  return t === '' || DECIMAL.test(t) ? t : 'NaN';
}
