import {
  type Answer,
  type LinkAction,
  type LinkEvent,
  type PollingPlan,
  Requester,
  type Sample,
} from '@just-balance/core/link';
import type { SerialPort } from './serial.ts';

export interface SerialHandlers {
  samples(samples: Sample[]): void;
  state(state: 'connecting' | 'discovering' | 'ready' | 'silent' | 'lost', detail: string): void;
}

const TICK_MS = 10;
const REOPEN_MS = 2000;
const ASK_MS = 10_000;
/** Adapters of this kind take any rate over USB; this is what those on a real line expect. Common practice, no source. */
const BAUD = 115_200;
/** Bytes not yet taken from which an adapter counts as one that does not read. [house] */
const MAX_UNSENT = 65_536;
/** Bytes read a tick: ten times what a full bus gives as text; the rest waits. [house] */
const BYTES_A_TICK = 10_240;

const encoder = new TextEncoder();

/** µs of the wall clock that never runs backwards while the page is open. */
export const nowUs = () => Math.round((performance.timeOrigin + performance.now()) * 1000);

/** A thin shell of a serial port around the link's state machine; opens again by itself. */
export class SerialLink {
  private requester = new Requester();
  private readonly asks = new Map<number, (answers: Answer[]) => void>();
  private nextAsk = 1;
  private closed = false;
  private writer: WritableStreamDefaultWriter<Uint8Array> | null = null;
  private reader: ReadableStreamDefaultReader<Uint8Array> | null = null;
  private unsent = 0;
  private timer: ReturnType<typeof setInterval> | null = null;
  private retry: ReturnType<typeof setTimeout> | null = null;

  constructor(
    private readonly port: SerialPort,
    private plan: PollingPlan,
    private readonly handlers: SerialHandlers,
  ) {}

  async open(): Promise<void> {
    if (this.closed) return;
    this.handlers.state('connecting', 'opening the port');
    try {
      await this.port.open({ baudRate: BAUD });
    } catch (e) {
      // Open already: by this page before, or by another.
      if (!this.port.readable) return this.lost((e as Error).message);
    }
    if (this.closed) return void this.port.close().catch(() => {});
    if (!this.port.readable || !this.port.writable) return this.lost('the port cannot be read');
    this.writer = this.port.writable.getWriter();
    this.reader = this.port.readable.getReader();
    this.requester = new Requester();
    this.step({ kind: 'plan', plan: this.plan, atUs: nowUs() });
    this.step({ kind: 'opened', atUs: nowUs() });
    this.timer = setInterval(() => this.step({ kind: 'tick', atUs: nowUs() }), TICK_MS);
    void this.readAll(this.reader);
    return undefined;
  }

  private async readAll(reader: ReadableStreamDefaultReader<Uint8Array>): Promise<void> {
    let taken = 0;
    let since = performance.now();
    try {
      for (;;) {
        const { value, done } = await reader.read();
        if (done) break;
        if (value) {
          taken += value.length;
          this.step({ kind: 'bytes', text: latin1(value), atUs: nowUs() });
        }
        if (performance.now() - since > TICK_MS) {
          taken = 0;
          since = performance.now();
        } else if (taken > BYTES_A_TICK) await new Promise((r) => setTimeout(r, TICK_MS));
      }
      if (this.reader === reader) this.lost('the adapter was unplugged');
    } catch (e) {
      if (this.reader === reader) this.lost((e as Error).message);
    }
  }

  private lost(reason: string): void {
    this.letGo();
    for (const answer of [...this.asks.values()]) answer([]);
    this.asks.clear();
    if (this.closed) return;
    this.handlers.state('lost', `${reason}; trying again every ${REOPEN_MS / 1000} s`);
    if (this.retry) clearTimeout(this.retry);
    this.retry = setTimeout(() => void this.open(), REOPEN_MS);
  }

  private letGo(): void {
    if (this.timer) clearInterval(this.timer);
    this.timer = null;
    const { reader, writer } = this;
    this.reader = null;
    this.writer = null;
    this.unsent = 0;
    if (!reader && !writer) return;
    void (async () => {
      await reader?.cancel().catch(() => {});
      reader?.releaseLock();
      await writer?.close().catch(() => {});
      writer?.releaseLock();
      await this.port.close().catch(() => {});
    })();
  }

  /** Whatever an adapter sends: at worst its own connection ends. */
  private step(event: LinkEvent): void {
    try {
      for (const a of this.requester.step(event)) this.act(a);
    } catch (e) {
      this.lost(`what the adapter sent could not be read (${(e as Error).name})`);
    }
  }

  private act(a: LinkAction): void {
    switch (a.kind) {
      case 'send':
        this.write(a.text);
        break;
      case 'samples':
        this.handlers.samples(a.samples);
        break;
      case 'state':
        this.handlers.state(a.state === 'opening' ? 'connecting' : a.state, a.detail);
        break;
      case 'answers':
        this.asks.get(a.id)?.(a.answers);
        this.asks.delete(a.id);
        break;
      case 'refused':
        this.asks.get(a.id)?.([]);
        this.asks.delete(a.id);
        break;
      case 'noise':
        break;
    }
  }

  private write(text: string): void {
    const { writer } = this;
    if (!writer) return;
    const bytes = encoder.encode(text);
    this.unsent += bytes.length;
    if (this.unsent > MAX_UNSENT) return this.lost('the adapter does not read what is sent to it');
    writer.write(bytes).then(
      () => {
        if (this.writer === writer) this.unsent -= bytes.length;
      },
      (e: Error) => {
        if (this.writer === writer) this.lost(e.message);
      },
    );
  }

  poll(plan: PollingPlan): void {
    this.plan = plan;
    this.step({ kind: 'plan', plan, atUs: nowUs() });
  }

  /** One question, to all units or the engine's alone; no answers when the vehicle stays silent. */
  ask(payload: readonly number[], engineOnly = false): Promise<Answer[]> {
    const id = this.nextAsk++;
    return new Promise((resolve) => {
      const timer = setTimeout(() => {
        this.asks.delete(id);
        resolve([]);
      }, ASK_MS);
      this.asks.set(id, (answers) => {
        clearTimeout(timer);
        resolve(answers);
      });
      this.step({ kind: 'ask', id, payload, engineOnly, atUs: nowUs() });
    });
  }

  close(): void {
    if (this.closed) return;
    this.write('C\r');
    this.closed = true;
    if (this.retry) clearTimeout(this.retry);
    for (const answer of [...this.asks.values()]) answer([]);
    this.asks.clear();
    this.letGo();
  }
}

function latin1(bytes: Uint8Array): string {
  let s = '';
  for (const b of bytes) s += String.fromCharCode(b);
  return s;
}
