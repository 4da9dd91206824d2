import { QUANTUM } from '../../obd/index.ts';
import { ChannelBuilder, Clock, type Series, TextBuilder } from '../../series/index.ts';
import { convert, type Unit } from '../../units/index.ts';
import { convertible, type Role, roleOf, unitOfChannel, unitWord } from './headers.ts';
import { isNothing, type NumberStyle, numberOf, plainNumber, quantityOf } from './numbers.ts';
import type { Mapping } from './propose.ts';
import { loopOf, secondsOf } from './times.ts';

const KEPT_PROBLEMS = 50;
const NOT_KNOWN = 'not known here';
/** A clock that counts further than this counts since 1970, s. */
const SINCE_1970_S = 3e8;

const DAY_S = 86_400;
const HALF_A_DAY_S = DAY_S / 2;
/** Neighbouring rows of several units come a little out of order. [house] */
const STEP_BACK_S = 1;

interface ColumnReader {
  id: string;
  column: number;
  clock: number;
  builder: ChannelBuilder;
  unit: string;
  /** The unit the column is written in; `from` where it has to be converted. */
  written: string;
  from: Unit | null;
  style: NumberStyle;
}

/** Where the clock steps back, and by how much, s. */
export interface StepBack {
  line: number;
  byS: number;
}

/** What was read of a table, and what was left out. */
export interface ImportSummary {
  rows: number;
  /** The first fifty places where the clock steps back, and how many there are. */
  stepsBack: StepBack[];
  stepsBackCount: number;
  problems: { line: number; message: string }[];
  problemCount: number;
  /** Columns or names that were left out, each with why. */
  leftOut: { name: string; why: string }[];
}

/** Takes rows (after the separator's work) one by one, by a mapping; gives a series. Line numbers count from 1. */
export class TableReader {
  private readonly builders = new Map<string, ChannelBuilder>();
  private readonly units = new Map<string, string>();
  private readonly problems: ImportSummary['problems'] = [];
  private readonly leftOut = new Map<string, string>();
  private readonly clockOf: number[];
  /** Moments by their column: channels that have a value in every row share them. */
  private readonly clocks = new Map<number, Clock>();
  private readonly readers: ColumnReader[] = [];
  private readonly words: { column: number; clock: number; builder: TextBuilder }[] = [];
  private problemCount = 0;
  private rows = 0;
  private line = 0;
  private day = 0;
  private lastClock = Number.NEGATIVE_INFINITY;
  private readonly stepsBack: StepBack[] = [];
  private stepsBackCount = 0;
  /** What is added to a clock that was set back, s, and the newest step it made forwards. */
  private offset = 0;
  private step = 0;
  /** The first line of a second log, which is not read. */
  private secondLog: number | null = null;

  constructor(private readonly m: Mapping) {
    m.roles.forEach((r, i) => {
      if (r.kind === 'ignore' && m.headers[i] !== '') this.leave(m.headers[i]!, r.why ?? NOT_KNOWN);
    });
    let clock = m.roles.findIndex((r) => r.kind === 'time');
    const first = clock;
    this.clockOf = m.roles.map((r, i) => {
      if (r.kind === 'time') clock = i;
      return i < first ? first : clock;
    });
    if (m.layout === 'wide') {
      m.roles.forEach((r, column) => {
        if (r.kind === 'loop' && !this.words.some((w) => w.builder.id === r.id))
          this.words.push({ column, clock: this.clockOf[column]!, builder: new TextBuilder(r.id) });
        if (r.kind !== 'channel') return;
        const first = this.readers.find((x) => x.id === r.id);
        if (first) {
          this.leave(m.headers[column]!, `the same channel as “${m.headers[first.column]}”`);
          return;
        }
        const style = m.numbers?.[column] ?? m.style;
        this.readers.push({
          id: r.id,
          column,
          clock: this.clockOf[column]!,
          builder: this.builder(r.id, r.unit),
          unit: r.unit,
          written: r.from,
          from: convertible(r.from, r.unit) ? r.from : null,
          style,
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

  private leave(name: string, why: string) {
    if (!this.leftOut.has(name)) this.leftOut.set(name, why);
  }

  private problem(message: string) {
    this.problemCount++;
    if (this.problems.length < KEPT_PROBLEMS) this.problems.push({ line: this.line, message });
  }

  row(cells: readonly string[]): void {
    this.line++;
    if (this.secondLog !== null || this.line <= this.m.skip || (cells.length === 1 && cells[0]!.trim() === '')) return;
    this.rows++;
    if (this.m.layout === 'long') this.longRow(cells);
    else {
      // Before anything of the line is taken it is known whether it is.
      if (this.m.back !== undefined && this.main !== undefined) this.seconds(cells[this.main] ?? '', true);
      if (this.secondLog !== null) return;
      this.wordCells(cells);
      this.wideRow(cells);
    }
  }

  /** The clock that carries the table: past midnight, and on where it was set back. */
  private get main(): number | undefined {
    return this.readers[0]?.clock ?? this.words[0]?.clock;
  }

  /** Seconds of the clock cell, midnight stepped over; null where it cannot be read. */
  private seconds(cell: string, mainClock: boolean): number | null {
    let t = secondsOf(cell, this.m.timeFormat, this.m.style) + this.offset;
    if (!Number.isFinite(t)) return null;
    if (this.m.timeFormat === 'clock') {
      if (mainClock && t + this.day < this.lastClock - HALF_A_DAY_S) this.day += DAY_S;
      t += this.day;
    }
    return mainClock ? this.onward(t) : t;
  }

  /** The main clock's next moment, with what was said of one that steps back. */
  private onward(t: number): number {
    let now = t;
    const byS = this.lastClock - t;
    if (byS > STEP_BACK_S) {
      this.stepsBackCount++;
      if (this.stepsBack.length < KEPT_PROBLEMS) this.stepsBack.push({ line: this.line, byS });
      if (this.m.back === 'second-log') this.secondLog ??= this.line;
      if (this.m.back === 'runs-on') {
        this.offset += byS + this.step;
        now += byS + this.step;
      }
    } else if (byS < 0 && Number.isFinite(byS)) this.step = -byS;
    this.lastClock = now;
    return now;
  }

  private wideRow(cells: readonly string[]) {
    let clock = -1;
    let now: Clock | null = null;
    const { readers } = this;
    for (let k = 0; k < readers.length; k++) {
      const r = readers[k]!;
      const cell = cells[r.column];
      if (cell === undefined || cell === '') continue;
      if (r.clock !== clock) {
        clock = r.clock;
        now = this.tick(cells[clock] ?? '', clock, clock === readers[0]!.clock);
        if (now === null) this.problem(`time "${(cells[clock] ?? '').slice(0, 30)}" cannot be read`);
      }
      if (now === null) continue;
      // Most cells are plain numbers: they are not looked at twice.
      let v = plainNumber(cell, r.style.decimal);
      if (Number.isNaN(v)) v = this.slowly(cell, r);
      else if (r.from) v = convert(v, r.from, r.unit as Unit);
      if (!Number.isNaN(v)) r.builder.pushOn(now, v);
    }
  }

  /** The clock of a column with this row's moment on it; null where it cannot be read. */
  private tick(cell: string, column: number, mainClock: boolean): Clock | null {
    const t = this.seconds(cell, mainClock);
    if (t === null) return null;
    let clock = this.clocks.get(column);
    if (!clock) {
      clock = new Clock();
      this.clocks.set(column, clock);
    }
    clock.tick(t);
    return clock;
  }

  /** A cell that is no plain number: thousands, a unit behind it, nothing; NaN, and said, where it cannot be read. */
  private slowly(cell: string, r: ColumnReader): number {
    if (isNothing(cell)) return Number.NaN;
    const { value, unit } = quantityOf(cell, r.style);
    if (!Number.isFinite(value)) {
      this.problem(`${this.m.headers[r.column]}: "${cell.slice(0, 30)}" is not a number`);
      return Number.NaN;
    }
    if (unit === '') return r.from ? convert(value, r.from, r.unit as Unit) : value;
    const written = unitWord(unit);
    if (written === r.written) return r.from ? convert(value, r.from, r.unit as Unit) : value;
    if (written === r.unit) return value;
    if (written !== null && convertible(written, r.unit)) return convert(value, written, r.unit as Unit);
    this.problem(`${this.m.headers[r.column]}: "${cell.slice(0, 30)}" is not in ${r.written || 'a unit known here'}`);
    return Number.NaN;
  }

  private wordCells(cells: readonly string[]) {
    for (const { column, clock, builder } of this.words) {
      const cell = cells[column];
      const t = cell ? this.seconds(cells[clock] ?? '', clock === this.main) : null;
      if (!cell || t === null || isNothing(cell)) continue;
      const word = wordOf(builder.id, cell);
      if (word === null)
        this.problem(`${this.m.headers[column]}: "${cell.slice(0, 30)}" is neither open nor closed loop`);
      else builder.push(t, word);
    }
  }

  private longRow(cells: readonly string[]) {
    const at = (kind: Role['kind']) => this.m.roles.findIndex((r) => r.kind === kind);
    const t = this.seconds(cells[at('time')] ?? '', true);
    if (this.secondLog !== null) return undefined;
    if (t === null) return this.problem(`time "${(cells[at('time')] ?? '').slice(0, 30)}" cannot be read`);
    const name = cells[at('name')] ?? '';
    const unit = at('unit');
    const told = this.m.names && Object.hasOwn(this.m.names, name) ? this.m.names[name] : undefined;
    const role = told ?? roleOf(name, unit < 0 ? undefined : cells[unit]);
    if (role.kind === 'loop') {
      const word = wordOf(role.id, cells[at('value')] ?? '');
      if (word === null) return this.problem(`${name}: neither open nor closed loop`);
      let w = this.words.find(({ builder }) => builder.id === role.id);
      if (!w) {
        w = { column: -1, clock: -1, builder: new TextBuilder(role.id) };
        this.words.push(w);
      }
      w.builder.push(t, word);
      return undefined;
    }
    if (role.kind !== 'channel') {
      this.leave(name, (role.kind === 'ignore' && role.why) || NOT_KNOWN);
      return undefined;
    }
    const cell = cells[at('value')] ?? '';
    if (isNothing(cell)) return undefined;
    const v = numberOf(cell, this.m.numbers?.[at('value')] ?? this.m.style);
    if (!Number.isFinite(v)) return this.problem(`${name}: "${cell.slice(0, 30)}" is not a number`);
    this.units.set(role.id, role.unit);
    this.builder(role.id, role.unit || unitOfChannel(role.id)).push(
      t,
      convertible(role.from, role.unit) ? convert(v, role.from, role.unit as Unit) : v,
    );
    return undefined;
  }

  summary(): ImportSummary {
    const empty = this.readers.filter((r) => r.builder.length === 0);
    return {
      rows: this.rows,
      stepsBack: this.stepsBack,
      stepsBackCount: this.stepsBackCount,
      problems: this.problems,
      problemCount: this.problemCount,
      leftOut: [
        ...[...this.leftOut].map(([name, why]) => ({ name, why })),
        ...(this.secondLog === null ? [] : [{ name: `line ${this.secondLog} and all below`, why: 'a second log' }]),
        ...empty.map((r) => ({ name: this.m.headers[r.column]!, why: 'no number in it' })),
      ],
    };
  }

  /** Times from the first sample of any channel. Channels without a sample are dropped. */
  finish(): Series {
    const channels = [...this.builders.values()].filter((b) => b.length > 0).map((b) => b.finish());
    const texts = this.words.filter((w) => w.builder.length > 0).map((w) => w.builder.finish());
    const first = Math.min(...[...channels, ...texts].map((c) => c.time[0]!));
    // A count since 1970, a date or a time of day says nothing of the beginning; a count of its own does.
    const counts = this.m.timeFormat.endsWith('seconds');
    // What a count says of before its own zero is seen too.
    const shift = counts && first >= 0 && first < SINCE_1970_S ? 0 : first;
    for (const { time } of shift === 0 ? [] : [...channels, ...texts])
      for (let i = 0; i < time.length; i++) time[i] = Math.round((time[i]! - shift) * 1e6) / 1e6;
    return { startedAt: null, channels, ...(texts.length > 0 ? { texts } : {}), marks: [] };
  }
}

/** A word of a channel of words; null where it is none that such a channel can have. */
const wordOf = (id: string, cell: string) => (id === 'monitorStatus' ? cell.trim() : loopOf(cell));
