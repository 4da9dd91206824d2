import type { IncomingMessage } from 'node:http';
import { Inject, Injectable } from '@nestjs/common';
import { CONFIG, type ServerConfig } from '../config.ts';

/**
 * Whether a write or a socket upgrade comes from this site's own pages: Origin (where sent) must name the host asked.
 * Programs without a browser send no Origin and carry no ambient cookie, so none is required of them. What a proxy says
 * of the host counts only where one is stated (JB_BEHIND_TLS): without it anybody could say it.
 */
@Injectable()
export class Origin {
  constructor(@Inject(CONFIG) private readonly config: Pick<ServerConfig, 'behindTls'>) {}

  isOurs(req: IncomingMessage): boolean {
    const { origin, host } = req.headers;
    if (origin === undefined) return true;
    const forwarded = this.config.behindTls ? req.headers['x-forwarded-host'] : undefined;
    try {
      return new URL(origin).host === (forwarded ?? host);
    } catch {
      return false;
    }
  }
}
