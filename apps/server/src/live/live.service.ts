import type { JobResource, ServerMessage } from '@just-balance/contract';
import { Injectable } from '@nestjs/common';
import type { WebSocket } from 'ws';
import type { Actor } from '../common/request.ts';

interface Client {
  socket: WebSocket;
  shopId: string;
  sessionId: string;
  accountId: string;
  name: string;
  role: string;
  /** The page at the other end, by the id it gave itself; null where it gave none. */
  screen: string | null;
  /** It has answered since it was last asked whether it is there. */
  answered: boolean;
  jobs: Set<string>;
  /** At what the person is, in the words of their page. */
  at: string | null;
}

/** The page connects again by itself. */
const ROLE_CHANGED = 4403;
/** A screen that cannot keep up is dropped rather than allowed to fill the memory. */
const MAX_BUFFERED = 1 << 20;

/** Who watches which job; sends only inside the shop. */
@Injectable()
export class Live {
  private readonly clients = new Map<WebSocket, Client>();
  /** By watched job. */
  private readonly told = new Map<string, number>();

  join(socket: WebSocket, who: Pick<Actor, 'shopId' | 'sessionId' | 'accountId' | 'name' | 'role'>): void {
    const { shopId, sessionId, accountId, name, role } = who;
    this.clients.set(socket, {
      socket,
      shopId,
      sessionId,
      accountId,
      name,
      role,
      screen: null,
      answered: true,
      jobs: new Set(),
      at: null,
    });
  }

  leave(socket: WebSocket): void {
    const gone = this.clients.get(socket);
    this.clients.delete(socket);
    for (const jobId of gone?.jobs ?? []) this.tellPresent(gone!.shopId, jobId);
    for (const jobId of this.told.keys()) if (!this.watched(jobId)) this.told.delete(jobId);
  }

  /** Tell every screen of a job who else has it open; those of this server. */
  tellPresent(shopId: string, jobId: string): void {
    // A page that came again over another socket is one screen, however long the old one takes to be missed.
    const screens = new Map<unknown, Client>();
    for (const c of this.clients.values()) if (c.shopId === shopId && c.jobs.has(jobId)) screens.set(c.screen ?? c, c);
    const here = [...screens.values()];
    if (here.length === 0) return;
    this.publish(shopId, { type: 'present', jobId, people: here.map((c) => c.name), at: here.map((c) => c.at) });
  }

  /** Somebody goes on to something else: the others on the same jobs see it. */
  isAt(socket: WebSocket, at: string): void {
    const c = this.clients.get(socket);
    if (!c || c.at === at) return;
    c.at = at;
    for (const jobId of c.jobs) this.tellPresent(c.shopId, jobId);
  }

  client(socket: WebSocket): Client | undefined {
    return this.clients.get(socket);
  }

  /** Whether a screen of this server watches the job. */
  watched(jobId: string): boolean {
    for (const c of this.clients.values()) if (c.jobs.has(jobId)) return true;
    return false;
  }

  /** Every job that a screen of this server watches, with its shop. */
  watchedJobs(): Map<string, string> {
    const out = new Map<string, string>();
    for (const c of this.clients.values()) for (const j of c.jobs) out.set(j, c.shopId);
    return out;
  }

  publish(shopId: string, message: Extract<ServerMessage, { jobId: string }>): void {
    let text: string | null = null;
    for (const c of this.clients.values()) {
      if (c.shopId !== shopId || !c.jobs.has(message.jobId)) continue;
      text ??= JSON.stringify(message);
      if (c.socket.bufferedAmount > MAX_BUFFERED) c.socket.terminate();
      else if (c.socket.readyState === c.socket.OPEN) c.socket.send(text);
    }
  }

  /** A write into a job is through: `changes` is the job's count of them, this one included. */
  changed(
    shopId: string,
    jobId: string,
    { resources, screen, changes }: { resources: JobResource[] | null; screen: string | null; changes: number },
  ): void {
    if (!this.watched(jobId)) return;
    this.told.set(jobId, Math.max(changes, this.told.get(jobId) ?? 0));
    this.publish(shopId, { type: 'changed', jobId, resources, screen });
  }

  /** Up to which of its changes the screens of this job have been told; 0 for one that nobody watches. */
  toldOf(jobId: string): number {
    return this.told.get(jobId) ?? 0;
  }

  /** Ask every screen whether it is there; those that have not answered since the last time are gone. */
  lookAround(): void {
    for (const c of this.clients.values()) {
      if (!c.answered) {
        c.socket.terminate();
        continue;
      }
      c.answered = false;
      c.socket.ping();
    }
  }

  sessions(): string[] {
    return [...new Set([...this.clients.values()].map((c) => c.sessionId))];
  }

  closeSessions(ids: readonly string[]): void {
    for (const c of this.clients.values()) if (ids.includes(c.sessionId)) c.socket.close(4401, 'signed out');
  }

  /** A person may do something else from now on: their screens come again and are asked who they are. */
  changeRole(accountId: string, role: string): void {
    for (const c of this.clients.values())
      if (c.accountId === accountId && c.role !== role) c.socket.close(ROLE_CHANGED, 'another role');
  }

  /** Who is here, as they were when they came. */
  roles(): { sessionId: string; accountId: string; role: string }[] {
    return [...this.clients.values()].map(({ sessionId, accountId, role }) => ({ sessionId, accountId, role }));
  }

  closeAll(): void {
    for (const c of this.clients.values()) c.socket.close(1001, 'server stops');
  }
}
