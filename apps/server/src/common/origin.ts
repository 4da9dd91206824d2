import type { IncomingMessage } from 'node:http';

/**
 * Whether a write or a socket upgrade comes from this site's own pages: Origin (where sent) must name the host asked.
 * Programs without a browser send no Origin and carry no ambient cookie, so none is required of them.
 */
export function sameOrigin(req: IncomingMessage): boolean {
  const origin = req.headers.origin;
  if (origin === undefined) return true;
  try {
    return new URL(origin).host === (req.headers['x-forwarded-host'] ?? req.headers.host);
  } catch {
    return false;
  }
}
