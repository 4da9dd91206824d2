import { createServer } from 'node:net';

/** Below what the kernel hands to outgoing connections: none of those can take one before it is used. */
const LOWEST = 20_000;
const MANY = 12_000;

function listener() {
  return new Promise((resolve) => {
    const s = createServer();
    s.once('error', () => resolve(listener()));
    s.listen(LOWEST + Math.floor(Math.random() * MANY), '127.0.0.1', () => resolve(s));
  });
}

/** Free loopback ports, distinct. */
export async function freePorts(count) {
  const servers = await Promise.all(Array.from({ length: count }, listener));
  const ports = servers.map((s) => s.address().port);
  await Promise.all(servers.map((s) => new Promise((r) => s.close(r))));
  return ports;
}
