import { fork } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { join } from 'node:path';
import { ROOT } from './build.mjs';
import { startMariaDb } from './mariadb.mjs';
import { say, Trouble } from './say.mjs';

/** Waits before something that ended is started again, ms; the last one stays. */
const BACKOFF_MS = [300, 1000, 3000, 10_000];
/** An end within so many ms of the whole's own end is part of it. */
const TOGETHER_MS = 100;
/** What has run this long counts as sound again, ms. */
const SOUND_MS = 60_000;

/** Fork one of our processes and wait until it says that it is ready. Returns {child, message, stop}. */
function forkReady(file, env, what) {
  const child = fork(file, [], { env: { ...process.env, ...env }, stdio: ['ignore', 'inherit', 'inherit', 'ipc'] });
  const exited = new Promise((r) => child.once('exit', r));
  const stop = async () => {
    if (child.exitCode !== null || child.signalCode !== null) return;
    child.kill('SIGTERM');
    const hard = setTimeout(() => child.kill('SIGKILL'), 10_000);
    await exited;
    clearTimeout(hard);
  };
  const ready = new Promise((resolve, reject) => {
    child.once('message', (message) => resolve({ child, message, stop }));
    child.once('exit', (code) => reject(new Trouble(`${what} did not start (exit ${code}); its message stands above`)));
  });
  return { stop, ready };
}

/**
 * Keep one part of the stack running: when it ends by itself it is started again, after a growing wait. The first start
 * throws when it fails. `start` gives {stop, ready}; `ready` resolves to an object with the `child`.
 */
async function keepUp(what, start, stops, whole, started = () => {}) {
  let over = false;
  let failures = 0;
  let present = null;
  let timer;
  const run = async () => {
    present = start();
    const part = await present.ready;
    const since = Date.now();
    started(part);
    part.child.once('exit', async (code, signal) => {
      // Ctrl-C reaches every process at once: whoever stops us says so a moment later.
      await new Promise((r) => setTimeout(r, TOGETHER_MS));
      if (over || whole.over) return;
      if (Date.now() - since > SOUND_MS) failures = 0;
      again(signal ?? code);
    });
    return part;
  };
  const again = (how) => {
    const wait = BACKOFF_MS[Math.min(failures++, BACKOFF_MS.length - 1)];
    process.stderr.write(
      `${what} ended (${how}); starting it again in ${wait / 1000} s. Everything acknowledged is kept.\n`,
    );
    timer = setTimeout(async () => {
      if (whole.over) return;
      try {
        await run();
        say(`${what} is back`);
      } catch (e) {
        if (over) return;
        process.stderr.write(`${e.message}\n`);
        await present?.stop().catch(() => {});
        if (!over) again('not ready');
      }
    }, wait);
  };
  stops.push(async () => {
    over = true;
    clearTimeout(timer);
    await present?.stop();
  });
  return run();
}

/**
 * Database, simulated vehicle and server, in this order, each kept up; `stops` collects what ends each, newest last.
 * `part` is told each time the server, the vehicle or the database stands: its child, and what the server said.
 */
export async function startStack({
  dataDir,
  ports,
  demo,
  host,
  fast = false,
  dbUrl,
  stops,
  part,
  log,
  linkAllow,
  year = false,
}) {
  const whole = { over: false };
  let db = null;
  if (!dbUrl) {
    const start = () => startMariaDb({ dataDir, port: ports.db, fast });
    db = await keepUp('database', start, stops, whole, (d) => part?.('database', d.child));
  }
  const token = randomBytes(24).toString('base64url');
  const common = {
    JB_SIM_PORT: String(ports.sim),
    JB_SIM_CONTROL_PORT: String(ports.control),
    JB_SIM_TOKEN: token,
    JB_DEMO: demo ? '1' : '0',
  };
  const vehicleFile = join(ROOT, 'packages/vehicle/dist/process/main.js');
  await keepUp(
    'simulated vehicle',
    () => forkReady(vehicleFile, common, 'simulated vehicle'),
    stops,
    whole,
    (v) => part?.('simulated vehicle', v.child),
  );
  const env = {
    ...common,
    JB_DB_URL: dbUrl ?? db.url,
    JB_DB_CREATED: db?.mayseed ? '1' : '0',
    JB_PORT: String(ports.web),
    JB_HOST: host,
    JB_DEMO_YEAR_FILE: year ? join(ROOT, 'apps/server/demo/year.json.gz') : '',
    JB_WEB_DIR: join(ROOT, 'apps/web/dist'),
    JB_LOG: log ?? process.env.JB_LOG ?? 'warn',
    ...(linkAllow ? { JB_LINK_ALLOW: linkAllow } : {}),
  };
  say('starting the server');
  const serverFile = join(ROOT, 'apps/server/dist/main.js');
  const { message } = await keepUp(
    'server',
    () => forkReady(serverFile, env, 'server'),
    stops,
    whole,
    (s) => part?.('server', s.child, s.message),
  );
  // Newest last: the first that is called.
  stops.push(async () => {
    whole.over = true;
  });
  db?.seeded();
  env.JB_DB_CREATED = '0';
  return { setupToken: message.setupToken, serverFile, serverEnv: env, dbUrl: dbUrl ?? db.url, simToken: token };
}
