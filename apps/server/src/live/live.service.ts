import type { ServerMessage } from '@just-balance/contract';
import { Injectable } from '@nestjs/common';
import type { WebSocket } from 'ws';

interface Client {
  socket: WebSocket;
  shopId: string;
  sessionId: string;
  jobs: Set<string>;
}

/** A screen that cannot keep up is dropped rather than allowed to fill the memory. */
const MAX_BUFFERED = 1 << 20;

/** Who watches which job; sends only inside the shop. */
@Injectable()
export class Live {
  private readonly clients = new Map<WebSocket, Client>();

  join(socket: WebSocket, shopId: string, sessionId: string): void {
    this.clients.set(socket, { socket, shopId, sessionId, jobs: new Set() });
  }

  leave(socket: WebSocket): void {
    this.clients.delete(socket);
  }

  client(socket: WebSocket): Client | undefined {
    return this.clients.get(socket);
  }

  publish(shopId: string, message: Extract<ServerMessage, { jobId: string }>): void {
    const text = JSON.stringify(message);
    for (const c of this.clients.values()) {
      if (c.shopId !== shopId || !c.jobs.has(message.jobId)) continue;
      if (c.socket.bufferedAmount > MAX_BUFFERED) c.socket.terminate();
      else c.socket.send(text);
    }
  }

  closeSession(sessionId: string): void {
    for (const c of this.clients.values()) if (c.sessionId === sessionId) c.socket.close(4401, 'signed out');
  }

  closeAll(): void {
    for (const c of this.clients.values()) c.socket.close(1001, 'server stops');
  }
}
