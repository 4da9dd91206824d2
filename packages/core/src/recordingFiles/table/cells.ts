/** A number as logs write it; NaN of anything else. `comma`: the decimal sign is a comma. */
export function numberOf(cell: string, comma: boolean): number {
  if (!comma) {
    const plain = +cell;
    // An empty cell is 0 to the language; to a log it is nothing.
    if (plain !== 0 && !Number.isNaN(plain)) return plain;
  }
  let t = cell.trim();
  if (t === '') return Number.NaN;
  if (t.charCodeAt(0) === 0x2212) t = `-${t.slice(1)}`;
  if (comma) t = t.replace(',', '.');
  return Number(t);
}

export type TimeFormat = 'seconds' | 'milliseconds' | 'clock' | 'datetime';

const CLOCK = /^(\d{1,2}):(\d{2}):(\d{2})(?:[.,:](\d{1,6}))?$/;
const MINUTES = /^(\d{1,3}):(\d{2})(?:[.,](\d{1,6}))?$/;
const DATE = /^(\d{4})-(\d{2})-(\d{2})[T ](\d{2}):(\d{2}):(\d{2})(?:[.,](\d{1,6}))?(?:Z|[+-]\d{2}:?\d{2})?$/;

/** How the clock column is written, from its first cells; null when it is no clock. */
export function timeFormatOf(cells: readonly string[], unit: string | null, comma: boolean): TimeFormat | null {
  const seen = cells.map((c) => c.trim()).filter((c) => c !== '');
  if (seen.length === 0) return null;
  // A few broken cells are reported later; they do not decide what the column is.
  const mostly = (ok: (c: string) => boolean) => seen.filter(ok).length >= 0.6 * seen.length;
  if (mostly((c) => DATE.test(c))) return 'datetime';
  if (mostly((c) => CLOCK.test(c) || MINUTES.test(c))) return 'clock';
  if (!mostly((c) => !Number.isNaN(numberOf(c, comma)))) return null;
  const numbers = seen.map((c) => numberOf(c, comma)).filter((n) => !Number.isNaN(n));
  if (unit === 'ms') return 'milliseconds';
  if (unit === 's') return 'seconds';
  // Whole numbers that step by tens: a tool that counts milliseconds.
  const steps = numbers.slice(1).map((n, i) => n - numbers[i]!);
  const whole = numbers.every((n) => Number.isInteger(n));
  const typical = steps.length > 0 ? [...steps].sort((a, b) => a - b)[steps.length >> 1]! : 0;
  return whole && typical >= 10 ? 'milliseconds' : 'seconds';
}

/** Seconds of a clock cell: since midnight, or of the day count for dates; NaN when it is none. */
export function secondsOf(cell: string, format: TimeFormat, comma: boolean): number {
  const t = cell.trim();
  if (format === 'seconds') return numberOf(t, comma);
  if (format === 'milliseconds') return numberOf(t, comma) / 1000;
  if (format === 'clock') {
    const c = CLOCK.exec(t);
    if (c) return Number(c[1]) * 3600 + Number(c[2]) * 60 + Number(c[3]) + Number(`0.${c[4] ?? 0}`);
    const m = MINUTES.exec(t);
    return m ? Number(m[1]) * 60 + Number(m[2]) + Number(`0.${m[3] ?? 0}`) : Number.NaN;
  }
  const d = DATE.exec(t);
  if (!d) return Number.NaN;
  const [y, mo, day, h, mi, s] = d.slice(1, 7).map(Number) as [number, number, number, number, number, number];
  // Days since 1970 by the civil calendar; the offset of the zone falls out of the differences.
  const yy = mo <= 2 ? y - 1 : y;
  const era = Math.floor(yy / 400);
  const yoe = yy - era * 400;
  const doy = Math.floor((153 * (mo + (mo > 2 ? -3 : 9)) + 2) / 5) + day - 1;
  const days = era * 146_097 + yoe * 365 + Math.floor(yoe / 4) - Math.floor(yoe / 100) + doy - 719_468;
  return days * 86_400 + h * 3600 + mi * 60 + s + Number(`0.${d[7] ?? 0}`);
}

/** Loop state as logs write it: words, short forms, or the bits of SAE J1979 PID 03 (2 and 16 closed, 1, 4 and 8 open). */
export function loopOf(cell: string): 'closed loop' | 'open loop' | null {
  const t = cell.trim().toLowerCase();
  if (/^(cl\b|closed|2$|16$)/.test(t)) return 'closed loop';
  if (/^(ol\b|open|1$|4$|8$)/.test(t)) return 'open loop';
  return null;
}
