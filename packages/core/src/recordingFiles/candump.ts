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

/** Which parameter carries a channel, the one whose every value is that channel first. */
const CARRIER = new Map(
  [...PIDS]
    .filter((p) => p.elements.some((e) => !e.kind))
    .sort((a, b) => a.elements.length - b.elements.length || a.pid - b.pid)
    .flatMap((p) => p.elements.filter((e) => !e.kind).map((e) => [e.id, p] as const))
    .reverse(),
);

/** The parameter that carries a channel; undefined for a channel that none does. */
export function carrierOf(channel: string): (typeof PIDS)[number] | undefined {
  return CARRIER.get(channel);
}

/** The frames of an engine unit's answer (7E8, service 01) that carries one value, `s` in Unix seconds, as candump lines. */
export function framesOf(channel: string, s: number, value: number): string[] {
  const row = CARRIER.get(channel)!;
  const payload = Uint8Array.of(0x41, row.pid, ...encodePid(row, { [channel]: value }));
  const us = Math.round(s * 1e6);
  return segment(payload).map((data, k) => {
    const frame: CanFrame = { id: 0x7e8, extended: false, data };
    return formatCandumpLine(frame, us + k * 300);
  });
}

/**
 * A series as candump lines of an engine unit's answers (7E8, service 01), in the steps of the standard. Channels that no
 * parameter carries are named in `left`.
 */
export function candumpLines(s: Series): { left: string[]; lines: () => Generator<string> } {
  const carried = s.channels.filter((c) => CARRIER.has(c.id));
  const left = s.channels.filter((c) => !CARRIER.has(c.id)).map((c) => c.id);
  const start = (s.startedAt && unixOf(s.startedAt)) || 0;
  function* lines() {
    const at = carried.map(() => 0);
    for (;;) {
      let next = -1;
      carried.forEach((c, k) => {
        if (at[k]! < c.time.length && (next < 0 || c.time[at[k]!]! < carried[next]!.time[at[next]!]!)) next = k;
      });
      if (next < 0) return;
      const c = carried[next]!;
      const i = at[next]!;
      at[next] = i + 1;
      yield* framesOf(c.id, start + c.time[i]!, c.value[i]!);
    }
  }
  return { left, lines };
}
