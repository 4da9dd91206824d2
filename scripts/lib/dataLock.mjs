import { createHash } from 'node:crypto';
import { mkdirSync, realpathSync } from 'node:fs';
import { connect, createServer } from 'node:net';
import { Trouble } from './say.mjs';

const ANSWER_MS = 1000;

/**
 * One Just Balance a data directory. The lock is a name of the kernel's (an abstract socket), bound to this process: it
 * is taken by one only, and gone the moment its holder is, however it ended. Who comes second is told who came first.
 */
export async function lockDataDir(dataDir, about) {
  mkdirSync(dataDir, { recursive: true, mode: 0o700 });
  const real = realpathSync(dataDir);
  const path = `\0just-balance-${createHash('sha256').update(real).digest('hex').slice(0, 32)}`;
  const server = createServer((socket) => {
    socket.on('error', () => {});
    socket.end(JSON.stringify({ pid: process.pid, ...about }));
  });
  const error = await new Promise((resolve) => {
    server.once('error', resolve);
    server.listen({ path }, () => resolve(null));
  });
  if (!error) {
    server.unref();
    return;
  }
  if (error.code !== 'EADDRINUSE') throw new Trouble(`${real}: cannot be locked (${error.code})`);
  const holder = await whoHolds(path);
  throw new Trouble(
    `Just Balance already runs on ${real}${holder ? ` (process ${holder.pid}, ${holder.address})` : ''}: stop it first, or set JB_DATA_DIR to another directory.`,
  );
}

function whoHolds(path) {
  return new Promise((resolve) => {
    let text = '';
    const socket = connect({ path });
    const done = (v) => {
      socket.destroy();
      resolve(v);
    };
    socket.setTimeout(ANSWER_MS, () => done(null));
    socket.on('data', (d) => {
      text += d;
    });
    socket.on('error', () => done(null));
    socket.on('end', () => {
      try {
        done(JSON.parse(text));
      } catch {
        done(null);
      }
    });
  });
}
