import { QUANTUM } from '../../obd/index.ts';
import { ChannelBuilder, type Series } from '../../series/index.ts';
import { convert, type Unit } from '../../units/index.ts';
import { loopOf, numberOf, secondsOf, type TimeFormat, timeFormatOf } from './cells.ts';
import { convertible, type Role, roleOf, unitOfChannel, unitWord } from './headers.ts';

/** How a table is to be read: proposed from its first rows, corrected by a person, remembered per header set. */
export interface Mapping {
  layout: 'wide' | 'long';
  /** Lines before the first row of data, header and unit row included. */
  skip: number;
  comma: boolean;
  timeFormat: TimeFormat;
  /** One role a column. Per-channel clocks: a time column serves the channels after it, up to the next. */
  roles: Role[];
  headers: string[];
  /** Long layout: what each channel name is read as; a name not listed is read by its words. */
  names?: Record<string, Role>;
}

export type Proposal = { ok: true; mapping: Mapping } | { ok: false; message: string };

/** Separator of a delimited file, from its first lines: the sign that splits them most alike. */
export function separatorOf(lines: readonly string[]): ',' | ';' | '\t' {
  let best: { sign: ',' | ';' | '\t'; score: number } = { sign: ',', score: -1 };
  for (const sign of ['\t', ';', ','] as const) {
    const counts = lines.filter((l) => l.trim() !== '').map((l) => l.split(sign).length - 1);
    const most = Math.max(0, ...counts);
    if (most === 0) continue;
    const alike = counts.filter((c) => c === most).length / counts.length;
    if (alike > best.score + 0.05) best = { sign, score: alike };
  }
  return best.sign;
}

/** Propose a mapping from the first rows (cells as text). */
export function propose(rows: readonly (readonly string[])[]): Proposal {
  const head = rows.slice(0, 30).findIndex((r) => {
    const roles = r.map((c) => roleOf(c));
    return roles.some((x) => x.kind === 'time') && roles.some((x) => x.kind === 'channel' || x.kind === 'name');
  });
  if (head < 0)
    return { ok: false, message: 'no header row: a column called time and one of a known parameter are needed' };
  const headers = rows[head]!.map((h) => h.trim().replace(/^\uFEFF/, ''));
  const next = rows[head + 1] ?? [];
  const unitRow =
    next.some((c) => unitWord(c) !== null) &&
    next.every((c) => c.trim() === '' || Number.isNaN(Number(c.replace(',', '.'))));
  const roles = headers.map((h, i) => roleOf(h, unitRow ? next[i] : undefined));
  const skip = head + 1 + (unitRow ? 1 : 0);
  const sample = rows.slice(skip, skip + 50);
  const comma = sample.some((r) => r.some((c) => /^\s*[-−+]?\d+,\d+\s*$/.test(c)));
  const clock = roles.findIndex((r) => r.kind === 'time');
  const clockUnit = unitRow
    ? unitWord(next[clock] ?? '')
    : unitWord(/[([]([^)\]]*)[)\]]/.exec(headers[clock]!)?.[1] ?? '');
  const timeFormat = timeFormatOf(
    sample.map((r) => r[clock] ?? ''),
    clockUnit,
    comma,
  );
  if (timeFormat === null)
    return { ok: false, message: `column "${headers[clock]}": not a time in any form known here` };
  const layout = roles.some((r) => r.kind === 'name') && roles.some((r) => r.kind === 'value') ? 'long' : 'wide';
  const mapping: Mapping = { layout, skip, comma, timeFormat, roles, headers };
  if (layout === 'long') mapping.names = namesOf(rows.slice(skip), roles);
  return { ok: true, mapping };
}

/** Channel names of the long layout, each with the unit it is first written in. */
function namesOf(rows: readonly (readonly string[])[], roles: readonly Role[]): Record<string, Role> {
  const name = roles.findIndex((r) => r.kind === 'name');
  const unit = roles.findIndex((r) => r.kind === 'unit');
  const out: Record<string, Role> = {};
  for (const r of rows) {
    const n = r[name];
    if (n && !Object.hasOwn(out, n)) out[n] = roleOf(n, unit < 0 ? undefined : r[unit]);
  }
  return out;
}

const KEPT_PROBLEMS = 50;

export interface ImportSummary {
  rows: number;
  problems: { line: number; message: string }[];
  problemCount: number;
  /** Columns or names that were left out. */
  leftOut: string[];
}

/** Takes rows (after the separator's work) one by one, by a mapping; gives a series. Line numbers count from 1. */
export class TableReader {
  private readonly builders = new Map<string, ChannelBuilder>();
  private readonly units = new Map<string, string>();
  private readonly problems: ImportSummary['problems'] = [];
  private readonly leftOut: Set<string>;
  private readonly clockOf: number[];
  private readonly readers: { column: number; clock: number; builder: ChannelBuilder; from: Unit | null; to: Unit }[] =
    [];
  private readonly loops: { column: number; clock: number; id: string; time: number[]; value: string[] }[] = [];
  private problemCount = 0;
  private rows = 0;
  private line = 0;
  private day = 0;
  private lastClock = Number.NEGATIVE_INFINITY;

  constructor(private readonly m: Mapping) {
    this.leftOut = new Set(
      m.roles.flatMap((r, i) => (r.kind === 'ignore' && m.headers[i] !== '' ? [m.headers[i]!] : [])),
    );
    let clock = m.roles.findIndex((r) => r.kind === 'time');
    const first = clock;
    this.clockOf = m.roles.map((r, i) => {
      if (r.kind === 'time') clock = i;
      return i < first ? first : clock;
    });
    if (m.layout === 'wide') {
      m.roles.forEach((r, column) => {
        if (r.kind === 'loop' && !this.loops.some((l) => l.id === r.id))
          this.loops.push({ column, clock: this.clockOf[column]!, id: r.id, time: [], value: [] });
        if (r.kind !== 'channel') return;
        if (this.builders.has(r.id)) {
          this.leftOut.add(m.headers[column]!);
          return;
        }
        this.readers.push({
          column,
          clock: this.clockOf[column]!,
          builder: this.builder(r.id, r.unit),
          from: convertible(r.from, r.unit) ? r.from : null,
          to: r.unit as Unit,
        });
      });
    }
  }

  private builder(id: string, unit: string): ChannelBuilder {
    let b = this.builders.get(id);
    if (!b) {
      b = new ChannelBuilder(id, unit, QUANTUM.get(id));
      this.builders.set(id, b);
    }
    return b;
  }

  private problem(message: string) {
    this.problemCount++;
    if (this.problems.length < KEPT_PROBLEMS) this.problems.push({ line: this.line, message });
  }

  row(cells: readonly string[]): void {
    this.line++;
    if (this.line <= this.m.skip || (cells.length === 1 && cells[0]!.trim() === '')) return;
    this.rows++;
    if (this.m.layout === 'long') this.longRow(cells);
    else this.wideRow(cells);
  }

  /** Seconds of the clock cell, midnight stepped over; null where it cannot be read. */
  private seconds(cell: string, mainClock: boolean): number | null {
    let t = secondsOf(cell, this.m.timeFormat, this.m.comma);
    if (!Number.isFinite(t)) return null;
    if (this.m.timeFormat === 'clock' && mainClock) {
      if (t + this.day < this.lastClock - 43_200) this.day += 86_400;
      t += this.day;
      this.lastClock = t;
    } else if (this.m.timeFormat === 'clock') t += this.day;
    return t;
  }

  private wideRow(cells: readonly string[]) {
    this.loopCells(cells);
    let clock = -1;
    let t: number | null = null;
    for (const r of this.readers) {
      const cell = cells[r.column];
      if (cell === undefined || cell === '') continue;
      if (r.clock !== clock) {
        clock = r.clock;
        t = this.seconds(cells[clock] ?? '', r.clock === this.readers[0]!.clock);
        if (t === null) this.problem(`time "${(cells[clock] ?? '').slice(0, 30)}" cannot be read`);
      }
      if (t === null) continue;
      const v = numberOf(cell, this.m.comma);
      if (Number.isNaN(v)) {
        if (cell.trim() !== '') this.problem(`${this.m.headers[r.column]}: "${cell.slice(0, 30)}" is not a number`);
        continue;
      }
      if (!Number.isFinite(v)) {
        this.problem(`${this.m.headers[r.column]}: not a finite number`);
        continue;
      }
      r.builder.push(t, r.from ? convert(v, r.from, r.to) : v);
    }
  }

  private loopCells(cells: readonly string[]) {
    for (const l of this.loops) {
      const cell = cells[l.column];
      const t = cell ? this.seconds(cells[l.clock] ?? '', false) : null;
      if (!cell || t === null) continue;
      const state = loopOf(cell);
      if (state === null)
        this.problem(`${this.m.headers[l.column]}: "${cell.slice(0, 30)}" is neither open nor closed loop`);
      else {
        l.time.push(t);
        l.value.push(state);
      }
    }
  }

  private longRow(cells: readonly string[]) {
    const at = (kind: Role['kind']) => this.m.roles.findIndex((r) => r.kind === kind);
    const t = this.seconds(cells[at('time')] ?? '', true);
    if (t === null) return this.problem(`time "${(cells[at('time')] ?? '').slice(0, 30)}" cannot be read`);
    const name = cells[at('name')] ?? '';
    const unit = at('unit');
    const told = this.m.names && Object.hasOwn(this.m.names, name) ? this.m.names[name] : undefined;
    const role = told ?? roleOf(name, unit < 0 ? undefined : cells[unit]);
    if (role.kind === 'loop') {
      const state = loopOf(cells[at('value')] ?? '');
      if (state === null) return this.problem(`${name}: neither open nor closed loop`);
      let l = this.loops.find((x) => x.id === role.id);
      if (!l) {
        l = { column: -1, clock: -1, id: role.id, time: [], value: [] };
        this.loops.push(l);
      }
      l.time.push(t);
      l.value.push(state);
      return undefined;
    }
    if (role.kind !== 'channel') {
      this.leftOut.add(name);
      return undefined;
    }
    const v = numberOf(cells[at('value')] ?? '', this.m.comma);
    if (!Number.isFinite(v))
      return this.problem(`${name}: "${(cells[at('value')] ?? '').slice(0, 30)}" is not a number`);
    this.units.set(role.id, role.unit);
    this.builder(role.id, role.unit || unitOfChannel(role.id)).push(
      t,
      convertible(role.from, role.unit) ? convert(v, role.from, role.unit as Unit) : v,
    );
    return undefined;
  }

  summary(): ImportSummary {
    return { rows: this.rows, problems: this.problems, problemCount: this.problemCount, leftOut: [...this.leftOut] };
  }

  /** Times from the first sample of any channel. Channels without a sample are dropped. */
  finish(): Series {
    const full = [...this.builders.values()].filter((b) => b.length > 0).map((b) => b.finish());
    const first = Math.min(...full.map((c) => c.time[0]!));
    const shift = this.m.timeFormat === 'seconds' || this.m.timeFormat === 'milliseconds' ? 0 : first;
    for (const c of full)
      for (let i = 0; shift !== 0 && i < c.time.length; i++) c.time[i] = Math.round((c.time[i]! - shift) * 1e6) / 1e6;
    const texts = this.loops
      .filter((l) => l.time.length > 0)
      .map((l) => ({
        id: l.id,
        time: Float64Array.from(l.time, (t) => Math.round((t - shift) * 1e6) / 1e6),
        value: l.value,
      }));
    return { startedAt: null, channels: full, ...(texts.length > 0 ? { texts } : {}), marks: [] };
  }
}
