import {
  AdapterShell,
  type Answer,
  BYTES_A_TICK,
  CLOSE_CHANNEL,
  MAX_UNSENT_BYTES,
  type PollingPlan,
  type SetAside,
  type ShellClock,
  type ShellHandlers,
} from '@just-balance/core/link';
import type { SerialPort } from './serial.ts';

/** Adapters of this kind take any rate over USB; this is what those on a real line expect. Common practice, no source. */
const BAUD = 115_200;
const WHERE = 'opening the port';
/** A reader that has its share of bytes waits this long, ms. */
const SHARE_MS = 10;

const encoder = new TextEncoder();

/** µs of the wall clock that never runs backwards while the page is open. */
export const nowUs = () => Math.round((performance.timeOrigin + performance.now()) * 1000);

const CLOCK: ShellClock = {
  nowUs,
  after(f, ms) {
    const timer = setTimeout(f, ms);
    return () => clearTimeout(timer);
  },
  repeat(f, ms) {
    const timer = setInterval(f, ms);
    return () => clearInterval(timer);
  },
};

/** An adapter at this device, reached over its serial port. */
export class SerialLink {
  private readonly shell: AdapterShell;
  private writer: WritableStreamDefaultWriter<Uint8Array> | null = null;
  private reader: ReadableStreamDefaultReader<Uint8Array> | null = null;
  private unsent = 0;

  constructor(
    private readonly port: SerialPort,
    plan: PollingPlan,
    handlers: ShellHandlers,
  ) {
    this.shell = new AdapterShell(
      { open: () => void this.connect(), write: (text) => this.write(text), drop: (reason) => this.lost(reason) },
      CLOCK,
      plan,
      handlers,
    );
  }

  open(): void {
    this.shell.open(WHERE);
  }

  private async connect(): Promise<void> {
    try {
      await this.port.open({ baudRate: BAUD });
    } catch (e) {
      // Open already: by this page before, or by another.
      if (!this.port.readable) return this.lost((e as Error).message);
    }
    if (this.shell.over) return void this.port.close().catch(() => {});
    if (!this.port.readable || !this.port.writable) return this.lost('the port cannot be read');
    this.writer = this.port.writable.getWriter();
    this.reader = this.port.readable.getReader();
    this.shell.opened();
    return this.readAll(this.reader);
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
          this.shell.bytes(latin1(value));
        }
        if (performance.now() - since > SHARE_MS) {
          taken = 0;
          since = performance.now();
        } else if (taken > BYTES_A_TICK) await new Promise((r) => setTimeout(r, SHARE_MS));
      }
      if (this.reader === reader) this.lost('the adapter was unplugged');
    } catch (e) {
      if (this.reader === reader) this.lost((e as Error).message);
    }
  }

  private lost(reason: string): void {
    this.letGo();
    this.shell.lost(reason, WHERE);
  }

  private letGo(): void {
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

  private write(text: string): void {
    const { writer } = this;
    if (!writer) return;
    const bytes = encoder.encode(text);
    this.unsent += bytes.length;
    if (this.unsent > MAX_UNSENT_BYTES) return this.lost('the adapter does not read what is sent to it');
    writer.write(bytes).then(
      () => {
        if (this.writer === writer) this.unsent -= bytes.length;
      },
      (e: Error) => {
        if (this.writer === writer) this.lost(e.message);
      },
    );
  }

  choose(ecu: string | null): void {
    this.shell.choose(ecu);
  }

  get setAside(): SetAside {
    return this.shell.setAside;
  }

  poll(plan: PollingPlan): void {
    this.shell.poll(plan);
  }

  ask(payload: readonly number[], engineOnly = false): Promise<Answer[]> {
    return this.shell.ask(payload, engineOnly);
  }

  close(): void {
    if (this.shell.over) return;
    this.write(CLOSE_CHANNEL);
    this.shell.close();
    this.letGo();
  }
}

function latin1(bytes: Uint8Array): string {
  let s = '';
  for (const b of bytes) s += String.fromCharCode(b);
  return s;
}
