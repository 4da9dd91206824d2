import { X509Certificate } from 'node:crypto';
import type { IncomingMessage } from 'node:http';
import { isIP } from 'node:net';
import { Inject, Injectable } from '@nestjs/common';
import { CONFIG, type ServerConfig } from '../config.ts';

/**
 * Whether a request is meant for this server, and whether a write or a socket upgrade comes from its own pages: Origin
 * (where sent) must name the host asked. Programs without a browser send no Origin and carry no ambient cookie, so none
 * is required of them. What a proxy says of the host counts only where one is stated (JB_BEHIND_TLS): without it
 * anybody could say it.
 */
@Injectable()
export class Origin {
  /** Null: any, since a proxy in front has looked already. */
  private readonly names: ReadonlySet<string> | null;

  constructor(@Inject(CONFIG) private readonly config: Pick<ServerConfig, 'behindTls' | 'tls' | 'host' | 'hosts'>) {
    const { behindTls, tls, host, hosts } = config;
    this.names =
      behindTls && hosts.length === 0
        ? null
        : new Set([...hosts, host, 'localhost', ...(tls ? namesOf(tls.cert) : [])].map((n) => n.toLowerCase()));
  }

  isOurs(req: IncomingMessage): boolean {
    const { origin } = req.headers;
    if (origin === undefined) return true;
    try {
      return new URL(origin).host === this.hostOf(req);
    } catch {
      return false;
    }
  }

  /**
   * Whether the name it was asked by is one of its own. Another site can give its name any address, this machine's too,
   * and its pages would then be ours to the browser (DNS rebinding); an address is nobody's name.
   */
  isOurHost(req: IncomingMessage): boolean {
    const host = this.hostOf(req);
    // A browser always says whom it asks; a balancer's look at the health (HTTP/1.0) need not.
    if (!this.names || host === undefined) return true;
    try {
      const name = new URL(`http://${host}`).hostname.replace(/^\[|\]$/g, '').toLowerCase();
      return isIP(name) !== 0 || this.names.has(name);
    } catch {
      return false;
    }
  }

  private hostOf(req: IncomingMessage): string | undefined {
    const forwarded = this.config.behindTls ? req.headers['x-forwarded-host'] : undefined;
    return typeof forwarded === 'string' ? forwarded : req.headers.host;
  }
}

/** The names that a certificate is for; without its wildcards. */
function namesOf(cert: Buffer): string[] {
  try {
    const names = new X509Certificate(cert).subjectAltName ?? '';
    return [...names.matchAll(/DNS:([^,\s]+)/g)].map((m) => m[1]!).filter((n) => !n.startsWith('*'));
  } catch {
    return [];
  }
}
