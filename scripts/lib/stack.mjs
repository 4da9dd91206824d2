import { fork } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import { ROOT } from './build.mjs';
import { startMariaDb } from './mariadb.mjs';
import { say, Trouble } from './say.mjs';

/** Fork one of our processes and wait until it says that it is ready. */
function forkReady(file, env, what, stops, onExit) {
  const child = fork(file, [], { env: { ...process.env, ...env }, stdio: ['ignore', 'inherit', 'inherit', 'ipc'] });
  const exited = new Promise((r) => child.once('exit', r));
  stops.push(async () => {
    if (child.exitCode !== null || child.signalCode !== null) return;
    child.kill('SIGTERM');
    const hard = setTimeout(() => child.kill('SIGKILL'), 10_000);
    await exited;
    clearTimeout(hard);
  });
  return new Promise((resolve, reject) => {
    child.once('message', (m) => {
      child.once('exit', (code) => onExit?.(what, code));
      resolve({ child, message: m });
    });
    child.once('exit', (code) => reject(new Trouble(`${what} did not start (exit ${code}); its message stands above`)));
  });
}

/**
 * Database, simulated vehicle and server, in this order; `stops` collects what ends each, newest last.
 * Returns what the caller needs to talk to them.
 */
export async function startStack({ dataDir, ports, demo, host, fast = false, dbUrl, stops, onExit, log, linkAllow }) {
  let db = null;
  if (!dbUrl) {
    db = await startMariaDb({ dataDir, port: ports.db, fast, onChild: (stop) => stops.push(stop) });
    db.child.once('exit', (code) => onExit?.('database', code));
  }
  const token = randomBytes(24).toString('base64url');
  const common = {
    JB_SIM_PORT: String(ports.sim),
    JB_SIM_CONTROL_PORT: String(ports.control),
    JB_SIM_TOKEN: token,
    JB_DEMO: demo ? '1' : '0',
  };
  await forkReady(join(ROOT, 'packages/vehicle/dist/process/main.js'), common, 'simulated vehicle', stops, onExit);
  const env = {
    ...common,
    JB_DB_URL: dbUrl ?? db.url,
    JB_DB_CREATED: db?.mayseed ? '1' : '0',
    JB_PORT: String(ports.web),
    JB_HOST: host,
    JB_WEB_DIR: join(ROOT, 'apps/web/dist'),
    JB_LOG: log ?? process.env.JB_LOG ?? 'warn',
    ...(linkAllow ? { JB_LINK_ALLOW: linkAllow } : {}),
  };
  say('starting the server');
  const serverFile = join(ROOT, 'apps/server/dist/main.js');
  const { child, message } = await forkReady(serverFile, env, 'server', stops, onExit);
  db?.seeded();
  return {
    setupToken: message.setupToken,
    server: child,
    serverFile,
    serverEnv: env,
    dbUrl: dbUrl ?? db.url,
    simToken: token,
  };
}
