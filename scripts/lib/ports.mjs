import { createServer } from 'node:net';

/** Below what the kernel hands to outgoing connections: none of those can take one before it is used. */
const LOWEST = 20_000;
const MANY = 12_000;
/** Another address of the loopback: who listens there on a number has the number, for as long as its process lives. */
const CLAIMS = '127.0.0.2';

/** A server that listens, or null where the port is taken. */
function listening(port, host) {
  return new Promise((resolve, reject) => {
    const s = createServer();
    s.once('error', (e) => (e.code === 'EADDRINUSE' ? resolve(null) : reject(e)));
    s.listen({ port, host, exclusive: true }, () => resolve(s));
  });
}

/**
 * A start listens seconds after it chose its ports: another that chooses meanwhile must not choose the same. The claim
 * is kept until this process ends, and ends with it however that happens.
 */
async function claimed() {
  for (;;) {
    const port = LOWEST + Math.floor(Math.random() * MANY);
    const claim = await listening(port, CLAIMS);
    if (!claim) continue;
    claim.unref();
    const free = await listening(port, '127.0.0.1');
    if (free) {
      await new Promise((r) => free.close(r));
      return port;
    }
    claim.close();
  }
}

/** Free loopback ports, distinct, and nobody else's who asks here. */
export async function freePorts(count) {
  return Promise.all(Array.from({ length: count }, claimed));
}
