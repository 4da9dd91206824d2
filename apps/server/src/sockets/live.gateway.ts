import type { IncomingMessage } from 'node:http';
import { readClientMessage, type ServerMessage } from '@just-balance/contract';
import { Inject, type OnModuleDestroy, type OnModuleInit } from '@nestjs/common';
import { type OnGatewayConnection, type OnGatewayDisconnect, WebSocketGateway } from '@nestjs/websockets';
import type { Logger } from 'pino';
import type { WebSocket } from 'ws';
import { rightsOf } from '../accounts/rights.ts';
import { Sessions } from '../accounts/sessions.ts';
import { loggable } from '../common/errors.ts';
import { Origin } from '../common/origin.ts';
import type { Actor } from '../common/request.ts';
import { Live } from '../live/live.service.ts';
import { LOGGER } from '../logger.ts';
import { Job } from '../rows/jobs.ts';

/** How often the sessions of open sockets are looked at again, ms. */
const RECHECK_MS = 60_000;
/** A screen that has not answered for this long has gone without a word: a lid closed, a network left, ms. [house] */
const GONE_MS = 7000;
const MAX_PAYLOAD = 4096;
/** Jobs one screen may watch. [house] */
const MAX_JOBS = 50;

/** Live values: session and origin checked before the upgrade, the shop on every subscription. */
@WebSocketGateway({ path: '/ws', maxPayload: MAX_PAYLOAD })
export class LiveGateway implements OnGatewayConnection, OnGatewayDisconnect, OnModuleInit, OnModuleDestroy {
  private readonly admitted = new WeakMap<IncomingMessage, Actor>();
  private timers: NodeJS.Timeout[] = [];

  constructor(
    private readonly live: Live,
    private readonly sessions: Sessions,
    private readonly origin: Origin,
    @Inject(LOGGER) private readonly log: Logger,
  ) {}

  onModuleInit(): void {
    this.timers = [
      setInterval(() => void this.recheck(), RECHECK_MS).unref(),
      setInterval(() => this.live.lookAround(), GONE_MS).unref(),
    ];
  }

  onModuleDestroy(): void {
    for (const t of this.timers) clearInterval(t);
    this.live.closeAll();
  }

  /** Whether an upgrade may go on. */
  async admit(req: IncomingMessage): Promise<boolean> {
    if (!this.origin.isOurs(req) || !this.origin.isOurHost(req)) return false;
    const actor = await this.sessions.actorOf(req);
    if (!actor || !rightsOf(actor.role).includes('look')) return false;
    this.admitted.set(req, actor);
    return true;
  }

  handleConnection(socket: WebSocket, req: IncomingMessage): void {
    const actor = this.admitted.get(req);
    if (!actor) return socket.close(4401, 'sign in first');
    this.live.join(socket, actor);
    socket.on('error', () => socket.terminate());
    socket.on('pong', () => {
      const client = this.live.client(socket);
      if (client) client.answered = true;
    });
    socket.on('message', (data) => {
      this.onMessage(socket, String(data)).catch((e: unknown) => {
        this.log.error({ err: loggable(e) }, 'socket message');
        socket.close(1011, 'something broke on the server');
      });
    });
  }

  handleDisconnect(socket: WebSocket): void {
    this.live.leave(socket);
  }

  private async recheck(): Promise<void> {
    const open = this.live.sessions();
    if (open.length === 0) return;
    const alive = await this.sessions.alive(open).catch(() => null);
    if (!alive) return;
    this.live.closeSessions(open.filter((id) => !alive.has(id)));
    // Changed through another server.
    for (const { sessionId, accountId, role } of this.live.roles()) {
      const now = alive.get(sessionId);
      if (now !== undefined && now !== role) this.live.changeRole(accountId, now);
    }
  }

  private async onMessage(socket: WebSocket, text: string): Promise<void> {
    const reply = (m: ServerMessage) => {
      if (socket.readyState === socket.OPEN) socket.send(JSON.stringify(m));
    };
    const client = this.live.client(socket);
    if (!client) return;
    const message = readClientMessage(text);
    if (typeof message === 'string') return reply({ type: 'error', message });
    if (message.type === 'beat') return reply({ type: 'beat', sentMs: message.sentMs, clockMs: Date.now() });
    if (message.type === 'at') return this.live.isAt(socket, message.at);
    if (message.type === 'unsubscribe') {
      client.jobs.delete(message.jobId);
      this.live.tellPresent(client.shopId, message.jobId);
      return;
    }
    if (client.jobs.size >= MAX_JOBS) return reply({ type: 'error', message: `at most ${MAX_JOBS} jobs a screen` });
    const { jobId } = message;
    const job = await Job.findOne({ where: { id: jobId, shopId: client.shopId }, attributes: ['id', 'changes'] });
    if (!job) return reply({ type: 'error', message: 'no such job in this shop' });
    client.jobs.add(jobId);
    client.screen = message.screen ?? null;
    // Looked at once more: what was written before the line above was told to nobody here.
    await job.reload({ attributes: ['changes'] });
    reply({ type: 'subscribed', jobId, changes: job.changes });
    this.live.tellPresent(client.shopId, jobId);
  }
}
