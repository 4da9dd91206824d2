import { createApp, type RunningApp } from './app.ts';
import { loggable } from './common/errors.ts';
import { ConfigError, readConfig, type ServerConfig } from './config.ts';
import { DatabaseDown } from './database/connect.ts';

// A bug in one corner must not leave a server that half works: say where, end, and let the start script start another.
for (const kind of ['unhandledRejection', 'uncaughtException'] as const)
  process.on(kind, (e) => {
    process.stderr.write(`server: ${kind} ${JSON.stringify(loggable(e))}\n`);
    process.exit(70);
  });

const PORT_TRIES = 50;
const PORT_WAIT_MS = 300;

let running: RunningApp | null = null;
let stopping = false;

async function stop() {
  if (stopping) return;
  stopping = true;
  setTimeout(() => process.exit(0), 8000).unref();
  await running?.close().catch(() => {});
  process.exit(0);
}
process.on('SIGTERM', stop);
process.on('SIGINT', stop);
process.on('disconnect', stop);
// Whoever started us may have gone while our modules were still being read: nobody said so to us then.
if (process.send && !process.connected) void stop();

/** A server that is still stopping may hold the port for a moment. */
async function listen(app: RunningApp, config: ServerConfig) {
  for (let tries = 0; ; tries++) {
    try {
      return await app.app.listen(config.port, config.host);
    } catch (e) {
      if ((e as NodeJS.ErrnoException).code !== 'EADDRINUSE' || tries === PORT_TRIES) throw e;
      await new Promise((r) => setTimeout(r, PORT_WAIT_MS));
    }
  }
}

try {
  const config = readConfig(process.env);
  running = await createApp(config);
  await listen(running, config);
  if (process.connected) process.send?.({ ready: true, setupToken: running.setupToken });
} catch (e) {
  const said = e instanceof ConfigError || e instanceof DatabaseDown;
  const address = e as NodeJS.ErrnoException;
  if (address.code === 'EADDRINUSE') process.stderr.write(`server: port in use (JB_PORT): ${address.message}\n`);
  else
    process.stderr.write(`server: ${said ? (e as Error).message : `${(e as Error).message}\n${(e as Error).stack}`}\n`);
  process.exit(1);
}
