/** How numbers are written: the decimal sign, and the sign between thousands where there is one. */
export interface NumberStyle {
  decimal: '.' | ',';
  thousands: '' | '.' | ',' | ' ' | "'";
}

/** 1,234.5 */
export const POINT: NumberStyle = { decimal: '.', thousands: '' };
/** 1.234,5 */
export const COMMA: NumberStyle = { decimal: ',', thousands: '' };

/** Cells in which a tool says that it has nothing. */
const NOTHING = /^(?:[-–—.*?]*|#?n\/?a|nan|null|none|nil|no ?data|not available|undef(?:ined)?|inf(?:inity)?)$/i;

/** Whether a cell says nothing: no number, and no fault of the file either. */
export function isNothing(cell: string): boolean {
  return NOTHING.test(cell.trim());
}

const SPACES = /[\u00a0\u202f]/g;
const SIGN = /^[\u2212\u2013]/;
/** A number and what stands behind it. */
const SPLIT = /^([-+]?[\d.,' ]*\d(?:[eE][-+]?\d+)?)\s*([^\d\s].*)?$/;

function plainSigns(cell: string): string {
  const t = cell.trim().replace(SPACES, ' ');
  return SIGN.test(t) ? `-${t.slice(1)}` : t;
}

/** Digits grouped by `thousands` and cut by `decimal`, as a number; NaN where the groups are not of three. */
function grouped(digits: string, { decimal, thousands }: NumberStyle): number {
  let t = digits;
  if (thousands !== '' && t.includes(thousands)) {
    const cut = t.lastIndexOf(decimal);
    const whole = cut < 0 ? t : t.slice(0, cut);
    const groups = whole.replace(/^[-+]/, '').split(thousands);
    if (groups[0]!.length > 3 || groups[0] === '' || groups.slice(1).some((g) => !/^\d{3}$/.test(g))) return Number.NaN;
    t = whole.replaceAll(thousands, '') + (cut < 0 ? '' : t.slice(cut));
  }
  if (decimal === ',') {
    if (t.includes('.')) return Number.NaN;
    t = t.replace(',', '.');
  }
  return /^[-+]?(?:\d+\.?\d*|\.\d+)(?:[eE][-+]?\d+)?$/.test(t) ? Number(t) : Number.NaN;
}

/** A number as logs write it, with the unit that stands behind it in the cell; NaN of anything else. */
export function quantityOf(cell: string, style: NumberStyle): { value: number; unit: string } {
  const m = SPLIT.exec(plainSigns(cell));
  return m ? { value: grouped(m[1]!.trim(), style), unit: m[2] ?? '' } : { value: Number.NaN, unit: '' };
}

/** A number as logs write it; NaN of anything else, a unit behind it included. */
export function numberOf(cell: string, style: NumberStyle): number {
  const { value, unit } = quantityOf(cell, style);
  return unit === '' ? value : Number.NaN;
}

const POWERS = Array.from({ length: 16 }, (_, i) => 10 ** i);
/** Digits that a double holds exactly, whatever they are. */
const EXACT_DIGITS = 15;
const MINUS = 45;
const ZERO = 48;
const NINE = 57;

/**
 * A number of digits and a decimal sign, as nearly all cells of a log are; NaN of everything else, which is then looked
 * at by `quantityOf`. Exact: digits and power of ten are both whole doubles, so their quotient is rounded once
 * (W. D. Clinger, How to read floating point numbers accurately, PLDI 1990, the short way).
 */
export function plainNumber(cell: string, decimal: NumberStyle['decimal']): number {
  const { length } = cell;
  const sign = decimal.charCodeAt(0);
  const negative = length > 0 && cell.charCodeAt(0) === MINUS;
  let [digits, cut] = [0, -1];
  let whole = 0;
  for (let i = negative ? 1 : 0; i < length; i++) {
    const c = cell.charCodeAt(i);
    if (c >= ZERO && c <= NINE) {
      whole = whole * 10 + c - ZERO;
      digits++;
    } else if (c === sign && cut < 0) cut = i;
    else return Number.NaN;
  }
  if (digits === 0 || digits > EXACT_DIGITS) return Number.NaN;
  const v = cut < 0 ? whole : whole / POWERS[length - 1 - cut]!;
  return negative ? -v : v;
}

/** What one cell says of how numbers are written. */
type Vote =
  | { kind: 'plain'; large: boolean }
  /** The decimal sign is certain; perhaps the thousands too. */
  | { kind: 'decimal'; decimal: '.' | ','; thousands: NumberStyle['thousands'] }
  /** Thousands by this sign, no decimals to be seen. */
  | { kind: 'thousands'; thousands: NumberStyle['thousands'] }
  /** One sign with three digits behind it: either. */
  | { kind: 'either'; sign: '.' | ',' };

function voteOf(cell: string): Vote | null {
  const m = SPLIT.exec(plainSigns(cell));
  if (!m) return null;
  const t = m[1]!
    .trim()
    .replace(/^[-+]/, '')
    .replace(/[eE][-+]?\d+$/, '');
  const spaced = /^\d{1,3}([ '])\d{3}(?:\1\d{3})*(?:([.,])\d+)?$/.exec(t);
  if (spaced) {
    const thousands = spaced[1] as ' ' | "'";
    return spaced[2]
      ? { kind: 'decimal', decimal: spaced[2] as '.' | ',', thousands }
      : { kind: 'thousands', thousands };
  }
  if (/^\d+$/.test(t)) return { kind: 'plain', large: t.length > 3 };
  if (!/^[\d.,]+$/.test(t)) return null;
  const [points, commas] = [t.split('.').length - 1, t.split(',').length - 1];
  if (points > 0 && commas > 0) {
    const decimal = t.lastIndexOf('.') > t.lastIndexOf(',') ? '.' : ',';
    return { kind: 'decimal', decimal, thousands: decimal === '.' ? ',' : '.' };
  }
  const sign = points > 0 ? '.' : ',';
  if (points + commas > 1) return { kind: 'thousands', thousands: sign };
  const [before, behind] = t.split(sign) as [string, string];
  if (behind.length !== 3 || before.length > 3 || before === '' || before.startsWith('0'))
    return { kind: 'decimal', decimal: sign, thousands: '' };
  return { kind: 'either', sign };
}

/** A column whose numbers can be read two ways: which, a person has to say. */
export interface NumberQuestion {
  column: number;
  /** A cell of it, and the two things it may mean. */
  cell: string;
  styles: [NumberStyle, NumberStyle];
}

const other = (sign: '.' | ','): '.' | ',' => (sign === '.' ? ',' : '.');

/**
 * How numbers are written in a table of sample rows: the style of the table, columns that differ, and columns of which
 * only a person can say. `2.513` beside decimal commas is two thousand five hundred and thirteen where other cells of its
 * column agree (they are whole, or have a comma); where none does, it is asked.
 */
export function numberStyles(
  rows: readonly (readonly string[])[],
  columns: readonly number[],
): { style: NumberStyle; numbers: Record<number, NumberStyle>; asks: NumberQuestion[] } {
  const votes = new Map(columns.map((c) => [c, rows.flatMap((r) => voteOf(r[c] ?? '') ?? [])] as const));
  const all = [...votes.values()].flat();
  const decimals = (list: readonly Vote[]) =>
    new Set(
      list.flatMap((v) => (v.kind === 'decimal' ? [v.decimal] : v.kind === 'thousands' ? otherOf(v.thousands) : [])),
    );
  const count = (sign: '.' | ',') => all.filter((v) => v.kind === 'decimal' && v.decimal === sign).length;
  const seen = decimals(all);
  const decimal = seen.size === 1 ? [...seen][0]! : count(',') > count('.') ? ',' : '.';
  const spaces = all.find((v) => 'thousands' in v && (v.thousands === ' ' || v.thousands === "'"));
  const style: NumberStyle = {
    decimal,
    thousands: spaces && 'thousands' in spaces ? spaces.thousands : '',
  };
  const numbers: Record<number, NumberStyle> = {};
  const asks: NumberQuestion[] = [];
  for (const [column, list] of votes) {
    const own = decimals(list);
    const either = list.filter((v) => v.kind === 'either');
    const grouping = list.find((v) => 'thousands' in v && v.thousands !== '');
    const mine: NumberStyle = {
      decimal: own.size === 1 ? [...own][0]! : decimal,
      thousands: grouping && 'thousands' in grouping ? grouping.thousands : style.thousands,
    };
    const odd = either.find((v) => v.sign !== mine.decimal);
    const question = (): NumberQuestion => ({
      column,
      cell: rows.map((r) => r[column] ?? '').find((c) => voteOf(c)?.kind === 'either')!,
      styles: [
        { decimal, thousands: other(decimal) },
        { decimal: other(decimal), thousands: '' },
      ],
    });
    if (own.size > 1 && odd) asks.push(question());
    else if (own.size > 1)
      asks.push({ ...question(), cell: rows.map((r) => r[column] ?? '').find((c) => voteOf(c)?.kind === 'decimal')! });
    else if (odd) {
      // Beside its decimal sign, the other one can only group, if the rest agrees: whole below a thousand, none above.
      const wholes = list.filter((v) => v.kind === 'plain');
      const agrees =
        (own.size === 1 || wholes.length > 0) &&
        !wholes.some((v) => v.large) &&
        (mine.thousands === '' || mine.thousands === odd.sign);
      if (agrees) mine.thousands = odd.sign;
      else if (seen.size > 0) asks.push(question());
      else mine.decimal = odd.sign;
    } else if (either.length > 0 && own.size === 0 && seen.has(other(either[0]!.sign))) asks.push(question());
    if (mine.decimal !== style.decimal || mine.thousands !== style.thousands) numbers[column] = mine;
  }
  return { style, numbers, asks };
}

function otherOf(thousands: NumberStyle['thousands']): ('.' | ',')[] {
  return thousands === '.' ? [','] : thousands === ',' ? ['.'] : [];
}
