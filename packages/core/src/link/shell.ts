import { type CanFrame, SlcanReader } from '../can/index.ts';
import type { PollingPlan } from './plan.ts';
import { type Answer, type FoundUnit, type LinkAction, type LinkEvent, Requester, type Sample } from './requester.ts';

/** How often the requester looks at its time, ms. */
const TICK_MS = 10;
/** After a lost connection, ms. [house] */
export const REOPEN_MS = 2000;
/** A question nobody answers is given up, ms. [house] */
const ASK_MS = 10_000;
/** Bytes a port reads a tick: ten times what a full 500 kbit/s bus gives as text; the rest waits. [house] */
export const BYTES_A_TICK = 10_240;
/** Unsent bytes from which an adapter counts as one that does not read. [house] */
export const MAX_UNSENT_BYTES = 65_536;
/** What closes the channel of an slcan adapter. Common practice, no source. */
export const CLOSE_CHANNEL = 'C\r';

/** Time, as the host gives it. */
export interface ShellClock {
  /** µs, on whichever clock the samples are to be on; it never runs backwards. */
  nowUs(): number;
  /** Calls `f` once after `ms`; what it returns stops it. */
  after(f: () => void, ms: number): () => void;
  /** Calls `f` every `ms`; what it returns stops it. */
  repeat(f: () => void, ms: number): () => void;
}

/** One way to an adapter: a socket, a serial port. */
export interface ShellPort {
  /** Begin to open. `opened` or `lost` of the shell follows, in its own time. */
  open(): void;
  /** Text for the adapter, Latin-1; nothing where the port is not open. */
  write(text: string): void;
  /** Let the connection go at once, for this reason; `lost` of the shell follows. */
  drop(reason: string): void;
  /** A tick has passed: another share of bytes may be read. */
  ticked?(): void;
}

/** Frames that did not count, by “unit: reason”. */
export type SetAside = Readonly<Record<string, number>>;

/** What came on top of what had been set aside before. */
export function asideSince(before: SetAside, now: SetAside): SetAside {
  return Object.fromEntries(
    Object.entries(now).flatMap(([why, n]) => (n > (before[why] ?? 0) ? [[why, n - (before[why] ?? 0)]] : [])),
  );
}

/** What a link tells its owner. */
export interface ShellHandlers {
  samples(samples: Sample[]): void;
  state(
    state: 'connecting' | 'discovering' | 'ready' | 'silent' | 'lost',
    detail: string,
    units: readonly FoundUnit[],
  ): void;
  /** Frames on the bus: what came in, and what was sent. */
  frames?(frames: readonly CanFrame[], atUs: number): void;
}

/**
 * The link's state machine over a port: its actions carried out, its questions answered, the connection opened again
 * after a loss. The same at a socket of the shop's server and at a serial port of the tablet.
 */
export class AdapterShell {
  private requester = new Requester();
  /** Of the connections before this one. */
  private readonly asideBefore = new Map<string, number>();
  private readonly asks = new Map<number, (answers: Answer[]) => void>();
  private nextAsk = 1;
  private engine: number | null = null;
  private closed = false;
  /** Why there is no connection; said again while the next one is tried. */
  private why: string | null = null;
  private stopTicks: (() => void) | null = null;
  private stopRetry: (() => void) | null = null;

  constructor(
    private readonly port: ShellPort,
    private readonly clock: ShellClock,
    private plan: PollingPlan,
    private readonly handlers: ShellHandlers,
  ) {}

  /** @param where What is opened, for who looks on. */
  open(where: string): void {
    if (this.closed) return;
    this.handlers.state('connecting', this.why ?? where, []);
    this.port.open();
  }

  get over(): boolean {
    return this.closed;
  }

  /** Frames that did not count since the link was opened, by unit and reason. */
  get setAside(): SetAside {
    const all = new Map(this.asideBefore);
    for (const [why, n] of this.requester.setAside) all.set(why, (all.get(why) ?? 0) + n);
    return Object.fromEntries(all);
  }

  /** The port stands: a new conversation begins, with the plan there is. */
  opened(): void {
    if (this.closed) return;
    this.why = null;
    for (const [why, n] of this.requester.setAside) this.asideBefore.set(why, (this.asideBefore.get(why) ?? 0) + n);
    this.requester = new Requester();
    this.step({ kind: 'plan', plan: this.plan, atUs: this.clock.nowUs() });
    this.step({ kind: 'engine', unit: this.engine, atUs: this.clock.nowUs() });
    this.step({ kind: 'opened', atUs: this.clock.nowUs() });
    this.stopTicks?.();
    this.stopTicks = this.clock.repeat(() => {
      this.port.ticked?.();
      this.step({ kind: 'tick', atUs: this.clock.nowUs() });
    }, TICK_MS);
  }

  /** What came in, Latin-1. */
  bytes(text: string): void {
    if (!this.closed) this.step({ kind: 'bytes', text, atUs: this.clock.nowUs() });
  }

  /** The port is gone. It is opened again after `REOPEN_MS`, unless this is over. */
  lost(reason: string, where: string): void {
    this.quiet();
    if (this.closed) return;
    this.why = reason;
    this.handlers.state('lost', `${reason}; trying again every ${REOPEN_MS / 1000} s`, []);
    this.stopRetry?.();
    this.stopRetry = this.clock.after(() => this.open(where), REOPEN_MS);
  }

  /** Another polling plan; kept across reconnections. */
  poll(plan: PollingPlan): void {
    this.plan = plan;
    this.step({ kind: 'plan', plan, atUs: this.clock.nowUs() });
  }

  /** The unit to ask as the engine's, as in `7E8`; null: it is found. Kept across reconnections. */
  choose(ecu: string | null): void {
    this.engine = ecu === null ? null : Number.parseInt(ecu, 16);
    this.step({ kind: 'engine', unit: this.engine, atUs: this.clock.nowUs() });
  }

  /** One question, to all units or the engine's alone; no answers when the vehicle stays silent. */
  ask(payload: readonly number[], engineOnly = false): Promise<Answer[]> {
    return this.put((id) => ({ kind: 'ask', id, payload, engineOnly, atUs: this.clock.nowUs() }));
  }

  /** Clear codes and what goes with them (service 04). Only from a step that a person has confirmed. */
  clear(): Promise<Answer[]> {
    return this.put((id) => ({ kind: 'clear', id, atUs: this.clock.nowUs() }));
  }

  /** For good: what is still asked has no answers. The port says `CLOSE_CHANNEL` and goes. */
  close(): void {
    this.closed = true;
    this.stopRetry?.();
    this.quiet();
  }

  private quiet(): void {
    this.stopTicks?.();
    this.stopTicks = null;
    for (const answer of [...this.asks.values()]) answer([]);
    this.asks.clear();
  }

  /** Whatever an adapter sends: at worst its own connection ends. */
  private step(event: LinkEvent): void {
    try {
      for (const a of this.requester.step(event)) this.act(a);
    } catch (e) {
      this.port.drop(`what the adapter sent could not be read (${(e as Error).name})`);
    }
  }

  private act(a: LinkAction): void {
    switch (a.kind) {
      case 'send':
        this.port.write(a.text);
        this.sent(a.text);
        break;
      case 'heard':
        this.handlers.frames?.(a.frames, this.clock.nowUs());
        break;
      case 'samples':
        this.handlers.samples(a.samples);
        break;
      case 'state':
        this.handlers.state(a.state === 'opening' ? 'connecting' : a.state, a.detail, a.units);
        break;
      case 'answers':
        this.answer(a.id, a.answers);
        break;
      case 'refused':
        this.answer(a.id, []);
        break;
      case 'noise':
        break;
    }
  }

  private sent(text: string): void {
    if (!this.handlers.frames) return;
    const frames = new SlcanReader().feed(text).flatMap((m) => (m.kind === 'frame' ? [m.frame] : []));
    if (frames.length > 0) this.handlers.frames(frames, this.clock.nowUs());
  }

  private answer(id: number, answers: Answer[]): void {
    this.asks.get(id)?.(answers);
    this.asks.delete(id);
  }

  private put(event: (id: number) => LinkEvent): Promise<Answer[]> {
    if (this.closed) return Promise.resolve([]);
    const id = this.nextAsk++;
    return new Promise((resolve) => {
      const stop = this.clock.after(() => this.answer(id, []), ASK_MS);
      this.asks.set(id, (answers) => {
        stop();
        resolve(answers);
      });
      this.step(event(id));
    });
  }
}
