import { FUEL_SYSTEM_TEXT } from '../../obd/index.ts';
import { daysOf } from '../../time/index.ts';
import { type NumberStyle, numberOf, plainNumber } from './numbers.ts';

/** Forms of a clock column. A half of the day (AM, PM) may stand behind every form that has hours. */
export const TIME_FORMATS = {
  seconds: 'seconds',
  milliseconds: 'milliseconds',
  microseconds: 'microseconds',
  clock: 'time of day, or minutes and seconds',
  datetime: 'date and time, year first',
  'datetime-dmy': 'date and time, day first',
  'datetime-mdy': 'date and time, month first',
} as const;
/** How a column says its time. */
export type TimeFormat = keyof typeof TIME_FORMATS;

const HALF = String.raw`(?:\s*([ap])\.?\s?m\.?)?`;
const FRACTION = String.raw`(?:[.,](\d{1,9}))?`;
const CLOCK = new RegExp(String.raw`^(\d{1,2}):(\d{2}):(\d{2})(?:[.,:](\d{1,9}))?${HALF}$`, 'i');
const MINUTES = new RegExp(String.raw`^(\d{1,4}):(\d{2})${FRACTION}$`);
/** Hours and minutes with a half of the day: minutes and seconds have none. */
const HOURS = /^(\d{1,2}):(\d{2})\s*([ap])\.?\s?m\.?$/i;
const DATE = new RegExp(
  String.raw`^(\d{1,4})([-./])(\d{1,2})\2(\d{1,4})\.?[T ,]+(\d{1,2}):(\d{2})(?::(\d{2}))?${FRACTION}${HALF}\s*(Z|UTC|[+-]\d{2}:?\d{2})?$`,
  'i',
);

const hours = (h: number, half: string | undefined): number =>
  half === undefined ? h : (h % 12) + (half.toLowerCase() === 'p' ? 12 : 0);

/** How the clock column is written, from its first cells; null when it is no clock. */
export function timeFormatOf(cells: readonly string[], unit: string | null, style: NumberStyle): TimeFormat | null {
  const seen = cells.map((c) => c.trim()).filter((c) => c !== '');
  if (seen.length === 0) return null;
  // A few broken cells are reported later; they do not decide what the column is.
  const mostly = (ok: (c: string) => boolean) => seen.filter(ok).length >= 0.6 * seen.length;
  if (mostly((c) => DATE.test(c))) return dateOrder(seen);
  if (mostly((c) => CLOCK.test(c) || MINUTES.test(c) || HOURS.test(c))) return 'clock';
  if (!mostly((c) => !Number.isNaN(numberOf(c, style)))) return null;
  const numbers = seen.map((c) => numberOf(c, style)).filter((n) => !Number.isNaN(n));
  if (unit === 'ms') return 'milliseconds';
  if (unit === 'µs') return 'microseconds';
  if (unit === 's') return 'seconds';
  // Whole numbers that step by tens: a tool that counts milliseconds; by ten thousands: microseconds.
  const steps = numbers.slice(1).map((n, i) => n - numbers[i]!);
  const whole = numbers.every((n) => Number.isInteger(n));
  const typical = steps.length > 0 ? [...steps].sort((a, b) => a - b)[steps.length >> 1]! : 0;
  if (!whole || typical < 10) return 'seconds';
  return typical >= 10_000 ? 'microseconds' : 'milliseconds';
}

/** Year, day or month first: by what can be a year and what no month, else by what its sign is used for. */
function dateOrder(cells: readonly string[]): TimeFormat {
  const dates = cells.flatMap((c) => DATE.exec(c) ?? []).length > 0 ? cells.map((c) => DATE.exec(c)) : [];
  const parts = dates.filter((d) => d !== null);
  if (parts.some((d) => d[1]!.length === 4)) return 'datetime';
  if (parts.some((d) => Number(d[1]) > 12)) return 'datetime-dmy';
  if (parts.some((d) => Number(d[3]) > 12)) return 'datetime-mdy';
  // Common practice: points and hyphens with the day first; a slash beside AM and PM with the month first.
  return parts.some((d) => d[2] === '/' && d[9] !== undefined) ? 'datetime-mdy' : 'datetime-dmy';
}

/** Seconds east of UTC that a time says of itself (RFC 3339): of `+02:00` 7,200; none said is none. */
function offsetOf(zone: string | undefined): number {
  const z = /^([+-])(\d{2}):?(\d{2})$/.exec(zone ?? '');
  return z ? (z[1] === '-' ? -1 : 1) * (Number(z[2]) * 3600 + Number(z[3]) * 60) : 0;
}

/**
 * Seconds of a clock cell: since midnight, or since 1970 for dates, as they stand or in UTC where they say their offset;
 * NaN when it is none.
 */
export function secondsOf(cell: string, format: TimeFormat, style: NumberStyle): number {
  if (format === 'seconds') {
    const t = plainNumber(cell, style.decimal);
    return Number.isNaN(t) ? numberOf(cell, style) : t;
  }
  if (format === 'milliseconds') return numberOf(cell, style) / 1000;
  if (format === 'microseconds') return numberOf(cell, style) / 1e6;
  const t = cell.trim();
  if (format === 'clock') {
    const c = CLOCK.exec(t);
    if (c) return hours(Number(c[1]), c[5]) * 3600 + Number(c[2]) * 60 + Number(c[3]) + Number(`0.${c[4] ?? 0}`);
    const h = HOURS.exec(t);
    if (h) return hours(Number(h[1]), h[3]) * 3600 + Number(h[2]) * 60;
    const m = MINUTES.exec(t);
    return m ? Number(m[1]) * 60 + Number(m[2]) + Number(`0.${m[3] ?? 0}`) : Number.NaN;
  }
  const d = DATE.exec(t);
  if (!d) return Number.NaN;
  const [first, second, third] = [Number(d[1]), Number(d[3]), Number(d[4])];
  const [y, mo, day] =
    format === 'datetime'
      ? [first, second, third]
      : format === 'datetime-dmy'
        ? [third, second, first]
        : [third, first, second];
  if (mo < 1 || mo > 12 || day < 1 || day > 31) return Number.NaN;
  const days = daysOf(y < 100 ? 2000 + y : y, mo, day);
  return (
    days * 86_400 +
    hours(Number(d[5]), d[9]) * 3600 +
    Number(d[6]) * 60 +
    Number(d[7] ?? 0) +
    Number(`0.${d[8] ?? 0}`) -
    offsetOf(d[10])
  );
}

const LOOP_WORDS = Object.entries(FUEL_SYSTEM_TEXT);

/**
 * Loop state as logs write it: the words of SAE J1979 PID 03 as we have them, its bits (2 and 16 closed, 1, 4 and 8
 * open), other words or short forms; null of anything else.
 */
export function loopOf(cell: string): string | null {
  const t = cell.trim().toLowerCase();
  const exact = LOOP_WORDS.find(([bits, words]) => t === words || (t === bits && bits !== '0'));
  if (exact) return exact[1];
  if (/^(cl\b|closed)/.test(t)) return 'closed loop';
  if (/^(ol\b|open)/.test(t)) return 'open loop';
  return null;
}
