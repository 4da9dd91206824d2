import { connect, type Socket } from 'node:net';
import {
  type Answer,
  type LinkAction,
  type LinkEvent,
  type PollingPlan,
  Requester,
  type Sample,
} from '@just-balance/core/link';

/** A thin shell of a socket around the link's state machine; reconnects by itself. */
export interface AdapterHandlers {
  samples(samples: Sample[]): void;
  state(state: 'connecting' | 'discovering' | 'ready' | 'silent' | 'lost', detail: string): void;
}

const TICK_MS = 10;
const RECONNECT_MS = 2000;
/** How long a closing adapter may take the last bytes, ms. */
const GOODBYE_MS = 500;
const ASK_MS = 10_000;
/** Bytes taken from the adapter a tick: 1 MB/s, ten times what a full 500 kbit/s bus gives as text. The rest waits. [house] */
const BYTES_A_TICK = 10_240;
/** Unsent bytes from which an adapter counts as one that does not read. [house] */
const MAX_UNSENT = 65_536;

export class AdapterLink {
  private requester = new Requester();
  private socket: Socket | null = null;
  private timer: NodeJS.Timeout | null = null;
  private retry: NodeJS.Timeout | null = null;
  private closed = false;
  private asks = new Map<number, (answers: Answer[]) => void>();
  private nextAsk = 1;
  /** Why there is no connection; said again while the next one is tried. */
  private why: string | null = null;

  constructor(
    private readonly host: string,
    private readonly port: number,
    private plan: PollingPlan,
    private readonly handlers: AdapterHandlers,
    /** Called with the local port once connected: the simulated vehicle is told which bay this connection is in. */
    private readonly plug: (localPort: number) => Promise<void>,
  ) {}

  open(): void {
    if (this.closed) return;
    this.handlers.state('connecting', this.why ?? `${this.host}:${this.port}`);
    const socket = connect(this.port, this.host);
    this.socket = socket;
    socket.setNoDelay(true);
    socket.on('connect', async () => {
      try {
        await this.plug(socket.localPort ?? 0);
      } catch (e) {
        socket.destroy(e as Error);
        return;
      }
      if (this.closed || socket.destroyed) return;
      this.why = null;
      this.requester = new Requester();
      this.step({ kind: 'plan', plan: this.plan, atUs: nowUs() });
      this.step({ kind: 'opened', atUs: nowUs() });
      this.timer = setInterval(() => {
        taken = 0;
        socket.resume();
        this.step({ kind: 'tick', atUs: nowUs() });
      }, TICK_MS);
    });
    let taken = 0;
    socket.on('data', (d) => {
      taken += d.length;
      if (taken > BYTES_A_TICK) socket.pause();
      if (this.socket === socket && !this.closed)
        this.step({ kind: 'bytes', text: d.toString('latin1'), atUs: nowUs() });
    });
    let reason = 'the adapter closed the connection';
    socket.on('error', (e: NodeJS.ErrnoException) => {
      reason = e.code === 'ECONNREFUSED' ? `no adapter at ${this.host}:${this.port}` : e.message;
    });
    socket.on('close', () => this.lost(reason));
  }

  private lost(reason: string) {
    if (this.timer) clearInterval(this.timer);
    this.timer = null;
    for (const answer of [...this.asks.values()]) answer([]);
    this.asks.clear();
    if (this.closed) return;
    this.why = reason;
    this.handlers.state('lost', `${reason}; trying again every ${RECONNECT_MS / 1000} s`);
    this.retry = setTimeout(() => this.open(), RECONNECT_MS);
  }

  /** Whatever an adapter sends: at worst its own connection ends. */
  private step(event: LinkEvent) {
    try {
      for (const a of this.requester.step(event)) this.act(a);
    } catch (e) {
      this.socket?.destroy(new Error(`what the adapter sent could not be read (${(e as Error).name})`));
    }
  }

  private act(a: LinkAction) {
    switch (a.kind) {
      case 'send':
        if (!this.socket || this.socket.destroyed) break;
        this.socket.write(a.text, 'latin1');
        if (this.socket.writableLength > MAX_UNSENT)
          this.socket.destroy(new Error('the adapter does not read what is sent to it'));
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

  /** Another polling plan; kept across reconnections. */
  poll(plan: PollingPlan): void {
    this.plan = plan;
    this.step({ kind: 'plan', plan, atUs: nowUs() });
  }

  /** One question, to all units or the engine's alone; no answers when the vehicle stays silent. */
  ask(payload: readonly number[], engineOnly = false): Promise<Answer[]> {
    return this.put((id) => ({ kind: 'ask', id, payload, engineOnly, atUs: nowUs() }));
  }

  /** Clear codes and what goes with them (service 04). Only from a step that a person has confirmed. */
  clear(): Promise<Answer[]> {
    return this.put((id) => ({ kind: 'clear', id, atUs: nowUs() }));
  }

  private put(event: (id: number) => LinkEvent): Promise<Answer[]> {
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
      this.step(event(id));
    });
  }

  close(): void {
    this.closed = true;
    if (this.retry) clearTimeout(this.retry);
    if (this.timer) clearInterval(this.timer);
    for (const answer of this.asks.values()) answer([]);
    const { socket } = this;
    if (!socket) return;
    socket.removeAllListeners('data');
    socket.resume();
    socket.end('C\r');
    setTimeout(() => socket.destroy(), GOODBYE_MS).unref();
  }
}

function nowUs(): number {
  return Number(process.hrtime.bigint() / 1000n);
}
