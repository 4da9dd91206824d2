import { type CanFrame, formatCandumpLine, segment } from '../can/index.ts';
import { encodePid, type LogValue, logDecoder, PIDS, QUANTUM } from '../obd/index.ts';
import { ChannelBuilder, type Series } from '../series/index.ts';
import { isoOf, unixOf } from '../time/index.ts';

/** Reads candump lines into a series: one channel per numeric value that service 01 carries. */
export class CandumpReader {
  private readonly decoder = logDecoder();
  private readonly builders = new Map<string, ChannelBuilder>();
  private readonly texts = new Map<string, { time: number[]; value: string[] }>();
  private first: number | null = null;

  line(text: string): void {
    for (const v of this.decoder.line(text)) this.take(v);
  }

  private take({ service, pid, name, value, unit, timeS }: LogValue) {
    if (service !== CURRENT_DATA || pid === null || name === 'raw') return;
    this.first ??= timeS;
    if (typeof value !== 'number') {
      if (!TEXT_CHANNELS.has(name)) return;
      const list = this.texts.get(name) ?? { time: [], value: [] };
      list.time.push(timeS - this.first);
      list.value.push(value);
      this.texts.set(name, list);
      return;
    }
    let b = this.builders.get(name);
    if (!b) {
      b = new ChannelBuilder(name, unit, QUANTUM.get(name));
      this.builders.set(name, b);
    }
    b.push(timeS - this.first, value);
  }

  summary(): ReturnType<ReturnType<typeof logDecoder>['summary']> {
    return this.decoder.summary();
  }

  /** Times from the first value; `startedAt` where the log's clock is one of this century. */
  finish(): Series {
    const clock = this.first !== null && this.first > 946_684_800 ? isoOf(this.first) : null;
    return {
      startedAt: clock,
      channels: [...this.builders.values()].map((b) => b.finish()),
      ...(this.texts.size === 0
        ? {}
        : { texts: [...this.texts].map(([id, c]) => ({ id, time: Float64Array.from(c.time), value: c.value })) }),
      marks: [],
    };
  }
}

/** Service 01. */
const CURRENT_DATA = 0x01;
/** Words worth keeping over time: the loop state per bank. */
const TEXT_CHANNELS = new Set(['fuelSys1', 'fuelSys2', 'monitorStatus']);

type Row = (typeof PIDS)[number];
type Element = Row['elements'][number];

/** A value that its parameter cannot go without: it has no mark for "not there". */
const isNeeded = (e: Element) => !e.kind && e.absent === undefined && e.supportBit === undefined;

/** The parameters whose answer carries a channel as a number, those with the fewest values first. */
const CARRIERS: ReadonlyMap<string, readonly Row[]> = (() => {
  const out = new Map<string, Row[]>();
  const rows = [...PIDS].sort((a, b) => a.elements.length - b.elements.length || a.pid - b.pid);
  for (const row of rows) for (const e of row.elements) if (!e.kind) out.set(e.id, [...(out.get(e.id) ?? []), row]);
  return out;
})();

/** Why a channel is not in a log of frames. */
export interface LeftOut {
  id: string;
  why: string;
}

/** Two samples this close are of one answer, s. */
const SAME_S = 0.0005;
/** A companion that was measured this long before still stands in the answer, s. [house] */
const HELD_S = 1;
/** Between two frames of one answer, µs. */
const FRAME_GAP_US = 300;

/**
 * Samples as the frames with which an engine unit would have answered (7E8, service 01), in the steps of the standard.
 * A parameter that carries several values is written only with all of them: a value that was not recorded is never made
 * up. Samples come in the order of their time.
 */
export class LogFrames {
  readonly left: LeftOut[] = [];
  private readonly carrier = new Map<string, Row>();
  private readonly last = new Map<string, { s: number; value: number }>();
  /** Parameters with a value of the moment at hand. */
  private readonly due = new Map<number, { row: Row; s: number }>();
  private atS = Number.NEGATIVE_INFINITY;

  /** `ids`: every channel of the recording. */
  constructor(ids: Iterable<string>) {
    const all = new Set(ids);
    for (const id of all) {
      const rows = CARRIERS.get(id) ?? [];
      const missing = (row: Row) => row.elements.filter((e) => e.id !== id && isNeeded(e) && !all.has(e.id));
      const row = rows.find((r) => missing(r).length === 0);
      if (row) this.carrier.set(id, row);
      else
        this.left.push({
          id,
          why: rows[0]
            ? `its parameter carries ${missing(rows[0])
                .map((e) => e.id)
                .join(' and ')} too, which is not recorded`
            : 'no parameter carries it',
        });
    }
  }

  carries(id: string): boolean {
    return this.carrier.has(id);
  }

  /** A sample, `s` in Unix seconds; gives the lines of what is complete by then. */
  add(id: string, s: number, value: number): string[] {
    const row = this.carrier.get(id);
    if (!row) return [];
    const out = s > this.atS + SAME_S ? this.end() : [];
    if (this.due.size === 0) this.atS = s;
    this.last.set(id, { s, value });
    if (!this.due.has(row.pid)) this.due.set(row.pid, { row, s });
    return out;
  }

  /** The lines of the moment at hand. */
  end(): string[] {
    const out: string[] = [];
    for (const { row, s } of this.due.values()) {
      const values: Record<string, number> = {};
      let whole = true;
      for (const e of row.elements) {
        if (e.kind) continue;
        const known = this.last.get(e.id);
        // Beside a mark for "not there" only what is of this very moment and of this parameter stands.
        const fresh = known && s - known.s <= (isNeeded(e) ? HELD_S : SAME_S) && this.carrier.get(e.id) === row;
        const held = known && isNeeded(e) && s - known.s <= HELD_S;
        if (fresh || held) values[e.id] = known.value;
        else whole &&= !isNeeded(e);
      }
      if (!whole) continue;
      const us = Math.round(s * 1e6);
      segment(Uint8Array.of(0x41, row.pid, ...encodePid(row, values))).forEach((data, k) => {
        const frame: CanFrame = { id: 0x7e8, extended: false, data };
        out.push(formatCandumpLine(frame, us + k * FRAME_GAP_US));
      });
    }
    this.due.clear();
    return out;
  }
}

/** A series as candump lines of an engine unit's answers; channels that cannot be written are named with the reason. */
export function candumpLines(s: Series): { left: LeftOut[]; lines: () => Generator<string> } {
  const { left } = new LogFrames(s.channels.map((c) => c.id));
  const start = (s.startedAt && unixOf(s.startedAt)) || 0;
  function* lines() {
    const frames = new LogFrames(s.channels.map((c) => c.id));
    const carried = s.channels.filter((c) => frames.carries(c.id));
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
  return { left, lines };
}
