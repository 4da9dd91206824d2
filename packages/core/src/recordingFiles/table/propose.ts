import { isOwnHeader, type Role, roleOf, unitWord } from './headers.ts';
import { type NumberQuestion, type NumberStyle, numberStyles, POINT, quantityOf } from './numbers.ts';
import { type TimeFormat, timeFormatOf } from './times.ts';

/** What stands between the cells of a line. */
export type Separator = ',' | ';' | '\t' | '|';

/** What lines whose clock has stepped back are: of one log that runs on, of a second one, or out of their order. */
export type BackStep = 'runs-on' | 'second-log' | 'unsorted';

/** How a table is to be read: proposed from its first rows, corrected by a person, remembered per header set. */
export interface Mapping {
  layout: 'wide' | 'long';
  /** Line of the header, from 0; null where there is none. The units stand in the line after it. */
  header: number | null;
  units: boolean;
  /** Lines before the first row of data. */
  skip: number;
  style: NumberStyle;
  /** Columns whose numbers are written otherwise. */
  numbers?: Record<number, NumberStyle>;
  timeFormat: TimeFormat;
  /** One role a column. Per-channel clocks: a time column serves the channels after it, up to the next. */
  roles: Role[];
  headers: string[];
  /** What was said of a clock that steps back; until then such lines are put in the order of their times. */
  back?: BackStep;
  /** Long layout: what each channel name is read as; a name not listed is read by its words. */
  names?: Record<string, Role>;
}

/** What a person may say of the layout; what is not said is proposed. */
export interface LayoutChoice {
  header?: number | null;
  units?: boolean;
  style?: NumberStyle;
  timeFormat?: TimeFormat;
}

/** How a table may be read, and what has to be said first. */
export interface Proposal {
  mapping: Mapping;
  /** What has to be said before it can be read; null where nothing is missing. */
  missing: string | null;
  /** Columns whose numbers can be read two ways. */
  asks: NumberQuestion[];
}

/** Separator of a delimited file, from its first lines: the sign that splits them most alike. */
export function separatorOf(lines: readonly string[]): Separator {
  let best: { sign: Separator; score: number } = { sign: ',', score: -1 };
  for (const sign of ['\t', ';', '|', ','] as const) {
    const counts = lines.filter((l) => l.trim() !== '').map((l) => l.split(sign).length - 1);
    const most = Math.max(0, ...counts);
    if (most === 0) continue;
    const alike = counts.filter((c) => c === most).length / counts.length;
    if (alike > best.score + 0.05) best = { sign, score: alike };
  }
  return best.sign;
}

/** Rows in which a header is looked for, and rows that numbers are judged by. */
const HEADER_WITHIN = 30;
const JUDGED = 2000;
const CLOCK_JUDGED = 50;

const clean = (h: string) => h.trim().replace(/^\uFEFF/, '');
const numeric = (c: string) => /^[-+\u2212]?[\d.,' ]*\d\s*\S{0,6}$/.test(c.trim());

/** The line that names the columns: one with a clock and a known channel, else the last of words before figures. */
function headerOf(rows: readonly (readonly string[])[]): number | null {
  const known = rows.slice(0, HEADER_WITHIN).findIndex((r) => {
    const roles = r.map((c) => roleOf(c));
    return roles.some((x) => x.kind === 'time') && roles.some((x) => x.kind === 'channel' || x.kind === 'name');
  });
  if (known >= 0) return known;
  const words = (r: readonly string[]) => r.filter((c) => c.trim() !== '' && !numeric(c)).length;
  const first = rows
    .slice(0, HEADER_WITHIN)
    .findIndex((r) => r.length > 1 && words(r) < r.filter((c) => c.trim()).length / 2);
  for (let i = first - 1; i >= 0; i--) {
    const r = rows[i]!;
    if (r.length === rows[first]!.length && words(r) === r.filter((c) => c.trim()).length && words(r) > 0)
      return i > 0 && r.every((c) => c.trim() === '' || unitWord(c) !== null) ? i - 1 : i;
  }
  return null;
}

function isUnitRow(row: readonly string[]): boolean {
  return row.some((c) => unitWord(c) !== null) && row.every((c) => c.trim() === '' || !numeric(c));
}

/** Propose a mapping from the first rows (cells as text), with what a person has said of the layout. */
export function propose(rows: readonly (readonly string[])[], said: LayoutChoice = {}): Proposal {
  const header = said.header === undefined ? headerOf(rows) : said.header;
  const below = header === null ? [] : (rows[header + 1] ?? []);
  const units = header !== null && (said.units ?? isUnitRow(below));
  const skip = header === null ? 0 : header + 1 + (units ? 1 : 0);
  const width = Math.max(0, ...rows.slice(skip, skip + CLOCK_JUDGED).map((r) => r.length));
  const named = header === null ? [] : rows[header]!.map(clean);
  const headers = Array.from({ length: Math.max(width, named.length) }, (_, i) => named[i] ?? `column ${i + 1}`);
  // A cut line may be longer than its header: what has no name is not asked about.
  while (header !== null && headers.length > named.length) headers.pop();
  const data = rows.slice(skip, skip + JUDGED);
  const roles = headers.map((h, i): Role => {
    if (header === null) return { kind: 'ignore' };
    const role = roleOf(h, units ? below[i] : undefined);
    return role.kind === 'channel' ? withCellUnit(role, h, data, i) : role;
  });
  if (header !== null && !roles.some((r) => r.kind === 'time')) {
    const own = clockByItsCells(roles, data);
    if (own >= 0) roles[own] = { kind: 'time' };
  }
  const layout = roles.some((r) => r.kind === 'name') && roles.some((r) => r.kind === 'value') ? 'long' : 'wide';
  const counted = roles.flatMap((r, i) =>
    r.kind === 'channel' || r.kind === 'value' || (r.kind === 'time' && countsPlainly(data, i)) ? [i] : [],
  );
  const found = numberStyles(data, counted.length > 0 ? counted : headers.map((_, i) => i));
  const ours = isOwnHeader(headers);
  const style = said.style ?? (ours ? POINT : found.style);
  const clock = roles.findIndex((r) => r.kind === 'time');
  const clockUnit =
    clock < 0 ? null : unitWord((units ? below[clock] : /[([{]([^)\]}]*)[)\]}]/.exec(headers[clock]!)?.[1]) ?? '');
  const cells = clock < 0 ? [] : data.slice(0, CLOCK_JUDGED).map((r) => r[clock] ?? '');
  const timeFormat = said.timeFormat ?? (ours ? 'seconds' : timeFormatOf(cells, clockUnit, style));
  const mapping: Mapping = {
    layout,
    header,
    units,
    skip,
    style,
    ...(said.style === undefined && !ours && Object.keys(found.numbers).length > 0 ? { numbers: found.numbers } : {}),
    timeFormat: timeFormat ?? 'seconds',
    roles,
    headers,
  };
  if (layout === 'long') mapping.names = namesOf(data, roles);
  const missing = missingOf(mapping, timeFormat);
  return { mapping, missing, asks: said.style === undefined && !ours ? found.asks : [] };
}

/** Whether a clock is a count with at most one sign in it: it shows too how numbers are written. */
const countsPlainly = (data: readonly (readonly string[])[], column: number) =>
  data.slice(0, CLOCK_JUDGED).every((r) => /^-?\d*[.,]?\d*$/.test((r[column] ?? '').trim()));

/** A column of a name that says nothing, whose cells are times of day or dates with one: the clock. −1 where none is. */
function clockByItsCells(roles: readonly Role[], data: readonly (readonly string[])[]): number {
  return roles.findIndex((r, i) => {
    if (r.kind !== 'ignore') return false;
    const cells = data.slice(0, CLOCK_JUDGED).map((row) => row[i] ?? '');
    const format = timeFormatOf(cells, null, POINT);
    return format !== null && !format.endsWith('seconds');
  });
}

/** A unit that stands in the cells counts where the header names none. */
function withCellUnit(
  role: Extract<Role, { kind: 'channel' }>,
  header: string,
  data: readonly (readonly string[])[],
  column: number,
): Role {
  if (role.from !== role.unit) return role;
  const cell = data.find((r) => r[column]?.trim())?.[column] ?? '';
  const unit = unitWord(quantityOf(cell, POINT).unit);
  return unit === null ? role : roleOf(header, unit);
}

/** What of a mapping has to be said before anything can be read by it; null where nothing is missing. */
export function missingOf(m: Mapping, timeFormat: TimeFormat | null = m.timeFormat): string | null {
  const clock = m.roles.findIndex((r) => r.kind === 'time');
  if (clock < 0)
    return 'no header row with a column called time: say which line names the columns, or which column is the time';
  if (timeFormat === null) return `column "${m.headers[clock]}": not a time in any form known here`;
  const read = m.layout === 'long' ? Object.values(m.names ?? {}) : m.roles;
  if (!read.some((r) => r.kind === 'channel' || r.kind === 'loop'))
    return 'no column has a name known here: say what at least one of them is';
  return null;
}

/** Channel names of the long layout, each with the unit it is first written in. */
export function namesOf(rows: readonly (readonly string[])[], roles: readonly Role[]): Record<string, Role> {
  const name = roles.findIndex((r) => r.kind === 'name');
  const unit = roles.findIndex((r) => r.kind === 'unit');
  const out: Record<string, Role> = {};
  for (const r of rows) {
    const n = r[name];
    if (n && !Object.hasOwn(out, n)) out[n] = roleOf(n, unit < 0 ? undefined : r[unit]);
  }
  return out;
}
