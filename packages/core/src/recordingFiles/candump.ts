import { type CanFrame, formatCandumpLine, segment } from '../can/index.ts';
import { canSay, encodePid, FUEL_SYSTEM_TEXT, type LogValue, logDecoder, PIDS, QUANTUM } from '../obd/index.ts';
import { ChannelBuilder, type Series, TextBuilder } from '../series/index.ts';
import { isoOf, unixOf } from '../time/index.ts';
import { isWords } from './table/headers.ts';

/** Reads candump lines into a series: one channel per value that service 01 carries, numbers and a few words. */
export class CandumpReader {
  private readonly decoder = logDecoder();
  private readonly units = new Map<string, LoggedUnit>();
  private first: number | null = null;

  line(text: string): void {
    for (const v of this.decoder.line(text)) this.take(v);
  }

  private take({ service, pid, name, value, unit, timeS, ecu }: LogValue) {
    if (service !== CURRENT_DATA || pid === null || name === 'raw') return;
    this.first ??= timeS;
    // Microseconds, as the log has them: a double of this century is a little off.
    const atS = Math.round((timeS - this.first) * 1e6) / 1e6;
    if (this.units.size === MOST_UNITS && !this.units.has(ecu)) return;
    const { numbers, texts } = kept(this.units, ecu, () => ({ numbers: new Map(), texts: new Map() }));
    if (typeof value === 'number')
      kept(numbers, name, () => new ChannelBuilder(name, unit, QUANTUM.get(name))).push(atS, value);
    else if (isWords(name)) kept(texts, name, () => new TextBuilder(name)).push(atS, value);
  }

  summary(): ReturnType<ReturnType<typeof logDecoder>['summary']> {
    return this.decoder.summary();
  }

  /**
   * Times from the first value; `startedAt` where the log's clock is one of this century. Of several units that say the
   * same the engine's counts: the one with most of what an engine says.
   */
  finish(): Series {
    const share = ({ numbers }: LoggedUnit) => OF_AN_ENGINE.filter((id) => numbers.has(id)).length;
    const units = [...this.units.values()].sort((a, b) => share(b) - share(a));
    const first = <B>(of: (u: LoggedUnit) => ReadonlyMap<string, B>): B[] => [
      ...new Map(units.toReversed().flatMap((u) => [...of(u)])).values(),
    ];
    const clock = this.first !== null && this.first > 946_684_800 ? isoOf(this.first) : null;
    // A second fuel system that is never reported is none.
    const texts = first((u) => u.texts)
      .map((b) => b.finish())
      .filter((t) => t.value.some((w) => w !== NOT_REPORTED));
    return {
      startedAt: clock,
      channels: first((u) => u.numbers).map((b) => b.finish()),
      ...(texts.length === 0 ? {} : { texts }),
      marks: [],
    };
  }
}

/** Units that answer to OBD on one bus (ISO 15765-4). */
const MOST_UNITS = 8;

interface LoggedUnit {
  numbers: Map<string, ChannelBuilder>;
  texts: Map<string, TextBuilder>;
}

/** Trims, airflow, manifold pressure, coolant and engine speed: who says these is the engine's unit. */
const OF_AN_ENGINE = ['stft1', 'ltft1', 'stft2', 'ltft2', 'maf', 'map', 'ect', 'rpm'];

function kept<T>(map: Map<string, T>, key: string, make: () => T): T {
  let v = map.get(key);
  if (v === undefined) {
    v = make();
    map.set(key, v);
  }
  return v;
}

/** Service 01. */
const CURRENT_DATA = 0x01;
const NOT_REPORTED = FUEL_SYSTEM_TEXT[0]!;

type Row = (typeof PIDS)[number];
type Element = Row['elements'][number];

const isCarried = (e: Element) => !e.kind || isWords(e.id);
/** A value that its parameter cannot go without: it has no mark for "not there". */
const isNeeded = (e: Element) => !e.kind && e.absent === undefined && e.supportBit === undefined;

/** The parameters whose answer carries a channel, those with the fewest values first. */
const CARRIERS: ReadonlyMap<string, readonly Row[]> = (() => {
  const out = new Map<string, Row[]>();
  const rows = [...PIDS].sort((a, b) => a.elements.length - b.elements.length || a.pid - b.pid);
  for (const row of rows)
    for (const e of row.elements) if (isCarried(e)) out.set(e.id, [...(out.get(e.id) ?? []), row]);
  return out;
})();

/** The raw value of a word by its element; null where the parameter has no such word. */
function rawOf(e: Element, word: string): number | null {
  if (e.kind === 'hex') return new RegExp(`^[0-9A-F]{${2 * e.bytes}}$`).test(word) ? Number.parseInt(word, 16) : null;
  const known = Object.entries(e.texts ?? {}).find(([, text]) => text === word);
  return known ? Number(known[0]) : null;
}

/** Why a channel is not in a log of frames. */
export interface LeftOut {
  id: string;
  why: string;
}

/** A channel that is to go into a log: words with each of those it has. */
export interface LoggedChannel {
  id: string;
  words?: Iterable<string>;
}

/** Two samples this close are of one answer, s. */
const SAME_S = 0.0005;
/** Between two frames of one answer, µs. */
const FRAME_GAP_US = 300;

/**
 * Samples as the frames with which an engine unit would have answered (7E8, service 01), in the steps of the standard.
 * A parameter that carries several values is written only with all of them, of one moment: a value that was not recorded
 * then is never made up. Samples come in the order of their time.
 */
export class LogFrames {
  readonly left: LeftOut[] = [];
  /** Samples that could not be written, by channel: no companion of their moment, or beyond what the parameter can say. */
  readonly dropped = new Map<string, number>();
  private readonly carrier = new Map<string, Row>();
  private readonly now = new Map<string, number>();
  /** Parameters with a value of the moment at hand. */
  private readonly due = new Map<number, { row: Row; s: number }>();
  private atS = Number.NEGATIVE_INFINITY;

  /** `channels`: every channel of the recording. */
  constructor(channels: Iterable<LoggedChannel>) {
    const all = new Map([...channels].map((c) => [c.id, c] as const));
    for (const { id, words } of all.values()) {
      const rows = CARRIERS.get(id) ?? [];
      const missing = (row: Row) => row.elements.filter((e) => e.id !== id && isNeeded(e) && !all.has(e.id));
      const row = rows.find((r) => missing(r).length === 0);
      const own = row?.elements.find((e) => e.id === id);
      const odd = own?.kind ? [...(words ?? [])].find((w) => rawOf(own, w) === null) : undefined;
      if (row && odd === undefined) this.carrier.set(id, row);
      else this.left.push({ id, why: whyLeft(rows[0], odd, missing) });
    }
  }

  carries(id: string): boolean {
    return this.carrier.has(id);
  }

  /** A sample, `s` in Unix seconds; gives the lines of what is complete by then. */
  add(id: string, s: number, value: number | string): string[] {
    const row = this.carrier.get(id);
    if (!row) return [];
    const again = this.now.has(id);
    const out = again || s > this.atS + SAME_S ? this.end() : [];
    if (this.due.size === 0) this.atS = s;
    const element = row.elements.find((e) => e.id === id)!;
    const said = typeof value === 'string' ? rawOf(element, value) : value;
    if (said === null || !canSay(element, said)) {
      this.drop(id);
      return out;
    }
    this.now.set(id, said);
    if (!this.due.has(row.pid)) this.due.set(row.pid, { row, s });
    return out;
  }

  /** The lines of the moment at hand. */
  end(): string[] {
    const out: string[] = [];
    for (const { row, s } of this.due.values()) {
      const values: Record<string, number> = {};
      // Beside a mark for "not there" only what is of this parameter stands.
      for (const e of row.elements)
        if (this.now.has(e.id) && (isNeeded(e) || this.carrier.get(e.id) === row)) values[e.id] = this.now.get(e.id)!;
      if (row.elements.some((e) => isNeeded(e) && values[e.id] === undefined)) {
        for (const id of Object.keys(values)) this.drop(id);
        continue;
      }
      const us = Math.round(s * 1e6);
      segment(Uint8Array.of(0x41, row.pid, ...encodePid(row, values))).forEach((data, k) => {
        const frame: CanFrame = { id: 0x7e8, extended: false, data };
        out.push(formatCandumpLine(frame, us + k * FRAME_GAP_US));
      });
    }
    this.due.clear();
    this.now.clear();
    return out;
  }

  private drop(id: string): void {
    this.dropped.set(id, (this.dropped.get(id) ?? 0) + 1);
  }
}

/** The Unix second of a recording's second 0 in a log; of one without a clock such that nothing lies before zero. */
export function logOrigin(startedAt: string | null, firstS: number): number {
  return (startedAt && unixOf(startedAt)) || Math.max(0, -firstS);
}

function whyLeft(row: Row | undefined, word: string | undefined, missing: (row: Row) => Element[]): string {
  if (!row) return 'no parameter carries it';
  if (word !== undefined) return `its parameter has no word for “${word}”`;
  const others = missing(row).map((e) => e.id);
  return `its parameter carries ${others.join(' and ')} too, which is not recorded`;
}

/** A series as candump lines of an engine unit's answers; channels that cannot be written are named with the reason. */
export function candumpLines(s: Series): {
  left: LeftOut[];
  /** As of `LogFrames`; complete once the lines were taken. */
  dropped: ReadonlyMap<string, number>;
  lines: () => Generator<string>;
} {
  const columns: { id: string; time: Float64Array; value: ArrayLike<number | string> }[] = [
    ...s.channels,
    ...(s.texts ?? []),
  ];
  const frames = new LogFrames([...s.channels, ...(s.texts ?? []).map((t) => ({ id: t.id, words: new Set(t.value) }))]);
  function* lines() {
    const carried = columns.filter((c) => frames.carries(c.id));
    const start = logOrigin(s.startedAt, Math.min(0, ...carried.map((c) => c.time[0] ?? 0)));
    const at = carried.map(() => 0);
    for (;;) {
      let next = -1;
      carried.forEach((c, k) => {
        if (at[k]! < c.time.length && (next < 0 || c.time[at[k]!]! < carried[next]!.time[at[next]!]!)) next = k;
      });
      if (next < 0) break;
      const c = carried[next]!;
      const i = at[next]!;
      at[next] = i + 1;
      yield* frames.add(c.id, start + c.time[i]!, c.value[i]!);
    }
    yield* frames.end();
  }
  return { left: frames.left, dropped: frames.dropped, lines };
}
