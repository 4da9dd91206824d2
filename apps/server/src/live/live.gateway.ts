import type { IncomingMessage } from 'node:http';
import type { ClientMessage, ServerMessage } from '@just-balance/contract';
import { Inject, type OnModuleDestroy } from '@nestjs/common';
import { type OnGatewayConnection, type OnGatewayDisconnect, WebSocketGateway } from '@nestjs/websockets';
import type { WebSocket } from 'ws';
import { Sessions } from '../accounts/sessions.ts';
import { sameOrigin } from '../common/origin.ts';
import { Job } from '../database/models.ts';
import { Live } from './live.service.ts';

/** How often a socket's session is looked at again, ms. */
const RECHECK_MS = 60_000;

/** Live values: session and origin checked on the upgrade, the shop on every subscription. */
@WebSocketGateway({ path: '/ws', maxPayload: 4096 })
export class LiveGateway implements OnGatewayConnection, OnGatewayDisconnect, OnModuleDestroy {
  constructor(
    @Inject(Live) private readonly live: Live,
    @Inject(Sessions) private readonly sessions: Sessions,
  ) {}

  async handleConnection(socket: WebSocket, req: IncomingMessage): Promise<void> {
    const early: string[] = [];
    const keep = (data: unknown) => early.length < 20 && early.push(String(data));
    socket.on('message', keep);
    const actor = sameOrigin(req) ? await this.sessions.actorOf(req).catch(() => null) : null;
    socket.off('message', keep);
    if (!actor) return socket.close(4401, 'sign in first');
    this.live.join(socket, actor.shopId, actor.sessionId);
    const timer = setInterval(async () => {
      if (!(await this.sessions.alive(actor.sessionId).catch(() => true))) socket.close(4401, 'signed out');
    }, RECHECK_MS);
    socket.on('close', () => clearInterval(timer));
    socket.on('error', () => socket.terminate());
    socket.on('message', (data) => void this.onMessage(socket, String(data)));
    for (const m of early) void this.onMessage(socket, m);
  }

  handleDisconnect(socket: WebSocket): void {
    this.live.leave(socket);
  }

  onModuleDestroy(): void {
    this.live.closeAll();
  }

  private async onMessage(socket: WebSocket, text: string): Promise<void> {
    const reply = (m: ServerMessage) => socket.send(JSON.stringify(m));
    const client = this.live.client(socket);
    if (!client) return;
    let message: ClientMessage;
    try {
      message = JSON.parse(text) as ClientMessage;
    } catch {
      return reply({ type: 'error', message: 'not JSON' });
    }
    if (message.type === 'subscribe' && typeof message.jobId === 'string') {
      const mine = await Job.count({ where: { id: message.jobId, shopId: client.shopId } }).catch(() => 0);
      if (!mine) return reply({ type: 'error', message: 'no such job in this shop' });
      client.jobs.add(message.jobId);
      return reply({ type: 'subscribed', jobId: message.jobId });
    }
    if (message.type === 'unsubscribe') {
      client.jobs.delete(message.jobId);
      return;
    }
    reply({ type: 'error', message: 'unknown message' });
  }
}
