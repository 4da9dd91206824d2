import { connect, type Socket } from 'node:net';
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

/** How long a closing adapter may take the last bytes, ms. */
const GOODBYE_MS = 500;

const CLOCK: ShellClock = {
  nowUs: () => Number(process.hrtime.bigint() / 1000n),
  after(f, ms) {
    const timer = setTimeout(f, ms);
    return () => clearTimeout(timer);
  },
  repeat(f, ms) {
    const timer = setInterval(f, ms);
    return () => clearInterval(timer);
  },
};

/** An adapter of the shop, reached over TCP. */
export class AdapterLink {
  private readonly shell: AdapterShell;
  private socket: Socket | null = null;
  private taken = 0;

  constructor(
    private readonly host: string,
    private readonly port: number,
    plan: PollingPlan,
    handlers: ShellHandlers,
    /** Called with the local port once connected: the simulated vehicle is told which bay this connection is in. */
    private readonly plug: (localPort: number) => Promise<void>,
  ) {
    this.shell = new AdapterShell(
      {
        open: () => this.connect(),
        write: (text) => this.write(text),
        drop: (reason) => void this.socket?.destroy(new Error(reason)),
        ticked: () => {
          this.taken = 0;
          this.socket?.resume();
        },
      },
      CLOCK,
      plan,
      handlers,
    );
  }

  private get where(): string {
    return `${this.host}:${this.port}`;
  }

  open(): void {
    this.shell.open(this.where);
  }

  private connect(): void {
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
      if (!socket.destroyed) this.shell.opened();
    });
    socket.on('data', (d) => {
      this.taken += d.length;
      if (this.taken > BYTES_A_TICK) socket.pause();
      if (this.socket === socket) this.shell.bytes(d.toString('latin1'));
    });
    let reason = 'the adapter closed the connection';
    socket.on('error', (e: NodeJS.ErrnoException) => {
      reason = e.code === 'ECONNREFUSED' ? `no adapter at ${this.where}` : e.message;
    });
    socket.on('close', () => this.shell.lost(reason, this.where));
  }

  private write(text: string): void {
    const { socket } = this;
    if (!socket || socket.destroyed) return;
    socket.write(text, 'latin1');
    if (socket.writableLength > MAX_UNSENT_BYTES)
      socket.destroy(new Error('the adapter does not read what is sent to it'));
  }

  poll(plan: PollingPlan): void {
    this.shell.poll(plan);
  }

  choose(ecu: string | null): void {
    this.shell.choose(ecu);
  }

  ask(payload: readonly number[], engineOnly = false): Promise<Answer[]> {
    return this.shell.ask(payload, engineOnly);
  }

  get setAside(): SetAside {
    return this.shell.setAside;
  }

  /** See `AdapterShell.clear`. */
  clear(): Promise<Answer[]> {
    return this.shell.clear();
  }

  close(): void {
    this.shell.close();
    const { socket } = this;
    if (!socket) return;
    socket.removeAllListeners('data');
    socket.resume();
    socket.end(CLOSE_CHANNEL);
    setTimeout(() => socket.destroy(), GOODBYE_MS).unref();
  }
}
