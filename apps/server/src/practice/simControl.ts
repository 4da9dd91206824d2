import { connect, type Socket } from 'node:net';
import { createInterface } from 'node:readline';
import type { BayView } from '@just-balance/contract';
import { Inject, Injectable, type OnModuleDestroy, ServiceUnavailableException } from '@nestjs/common';
import { CONFIG, type ServerConfig } from '../config.ts';

interface Reply {
  id?: number;
  ok: boolean;
  error?: string;
  bays?: BayView[];
  result?: BayView['result'];
}

const ANSWER_MS = 8000;

export class BayRefusal extends Error {}

/** The control channel of the simulated vehicle: JSON lines over loopback, opened when first needed. */
@Injectable()
export class SimControl implements OnModuleDestroy {
  private socket: Promise<Socket> | null = null;
  private readonly waiting = new Map<number, (r: Reply) => void>();
  private next = 1;

  constructor(@Inject(CONFIG) private readonly config: ServerConfig) {}

  get available(): boolean {
    return this.config.sim !== null;
  }

  async bays(): Promise<BayView[]> {
    return (await this.send({ do: 'bays' })).bays ?? [];
  }

  /** Ask; throws BayRefusal with the bay's own words, or 503 when the simulated vehicle is not there. */
  async send(command: Record<string, unknown>): Promise<Reply> {
    const socket = await this.connected();
    const reply = await this.ask(socket, command);
    if (!reply.ok) throw new BayRefusal(reply.error ?? 'refused');
    return reply;
  }

  private ask(socket: Socket, command: Record<string, unknown>): Promise<Reply> {
    const id = this.next++;
    return new Promise((resolve, reject) => {
      const timer = setTimeout(() => {
        this.waiting.delete(id);
        reject(new ServiceUnavailableException({ statusCode: 503, message: 'the simulated vehicle does not answer' }));
      }, ANSWER_MS);
      this.waiting.set(id, (r) => {
        clearTimeout(timer);
        resolve(r);
      });
      socket.write(`${JSON.stringify({ ...command, id })}\n`);
    });
  }

  private connected(): Promise<Socket> {
    const sim = this.config.sim;
    if (!sim)
      throw new ServiceUnavailableException({ statusCode: 503, message: 'no simulated vehicle with this start' });
    this.socket ??= new Promise<Socket>((resolve, reject) => {
      const socket = connect(sim.controlPort, '127.0.0.1');
      const lost = () => {
        this.socket = null;
        for (const answer of this.waiting.values()) answer({ ok: false, error: 'the simulated vehicle is gone' });
        this.waiting.clear();
        reject(new ServiceUnavailableException({ statusCode: 503, message: 'the simulated vehicle does not answer' }));
      };
      socket.on('error', lost);
      socket.on('close', lost);
      createInterface({ input: socket }).on('line', (line) => {
        const reply = readReply(line);
        if (!reply) return;
        this.waiting.get(reply.id)?.(reply);
        this.waiting.delete(reply.id);
      });
      socket.on('connect', () => {
        this.ask(socket, { do: 'hello', token: sim.token }).then(() => resolve(socket), reject);
      });
    });
    return this.socket;
  }

  async onModuleDestroy(): Promise<void> {
    (await this.socket?.catch(() => null))?.destroy();
  }
}

/** A line of the control channel; null for anything that is no answer. */
function readReply(line: string): (Reply & { id: number }) | null {
  try {
    const r = JSON.parse(line) as Partial<Reply> | null;
    return r && typeof r === 'object' && typeof r.id === 'number' ? (r as Reply & { id: number }) : null;
  } catch {
    return null;
  }
}
