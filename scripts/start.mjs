/** npm start: install what is missing, build, start everything, stop everything on Ctrl-C or SIGTERM. Node built-ins only. */
import { join, resolve } from 'node:path';
import { ensureBuilt, ensureModules, ROOT } from './lib/build.mjs';
import { lockDataDir } from './lib/dataLock.mjs';
import { DATABASE, ensurePrograms } from './lib/packages.mjs';
import { say, Trouble } from './lib/say.mjs';
import { startStack } from './lib/stack.mjs';

const stops = [];
let firstToken = null;
let stopping = false;

async function stopAll(code) {
  if (stopping) return;
  stopping = true;
  if (stops.length > 0) say('stopping');
  for (const stop of stops.reverse()) await stop().catch(() => {});
  process.exit(code);
}
process.on('SIGINT', () => stopAll(0));
process.on('SIGTERM', () => stopAll(0));
process.on('SIGHUP', () => stopAll(0));
// npm ended without a word to us (kill -9, a closed terminal): the stack does not outlive it.
if (process.env.npm_lifecycle_event === 'start') {
  const parent = process.ppid;
  setInterval(() => {
    if (process.ppid !== parent) void stopAll(0);
  }, 1000).unref();
}

function port(name, fallback) {
  const raw = process.env[name];
  if (raw === undefined || raw === '') return fallback;
  const n = Number(raw);
  if (!Number.isInteger(n) || n < 1 || n > 65_535) throw new Trouble(`${name}: "${raw}" is not a port (1–65535)`);
  return n;
}

try {
  const ports = {
    web: port('JB_PORT', 4300),
    sim: port('JB_SIM_PORT', 4320),
    db: port('JB_DB_PORT', 4306),
    control: port('JB_SIM_CONTROL_PORT', 4321),
  };
  const host = process.env.JB_HOST || '127.0.0.1';
  const loopback = ['127.0.0.1', 'localhost', '::1'].includes(host);
  const demo = loopback && (process.env.JB_DEMO ?? '1') === '1';
  const dbUrl = process.env.JB_DB_URL || undefined;
  const dataDir = resolve(process.env.JB_DATA_DIR || join(ROOT, '.data'));
  const shown = host === '0.0.0.0' || host === '::' ? 'localhost' : host;
  const address = `${process.env.JB_TLS_CERT ? 'https' : 'http'}://${shown}:${ports.web}`;
  if (!dbUrl) await lockDataDir(dataDir, { address });
  if (!dbUrl) await ensurePrograms(DATABASE);
  await ensureModules({ run: true });
  await ensureBuilt();
  const stack = await startStack({
    dataDir,
    ports,
    demo,
    host,
    dbUrl,
    // 0: only the few jobs that are fixed in the code.
    year: (process.env.JB_DEMO_YEAR ?? '1') === '1',
    stops,
    // A server that was started again without an account has a new token.
    part: (what, _, message) => {
      if (what === 'server' && message?.setupToken && firstToken)
        process.stdout.write(`  First account  the one-time token is now: ${message.setupToken}\n`);
      if (what === 'server') firstToken ??= message?.setupToken ?? '';
    },
  });
  say('ready');
  process.stdout.write(`\n  Just Balance   ${address}\n`);
  if (demo) process.stdout.write('  Demo sign-in   okafor@linden.example   bench-demo-1\n');
  if (stack.setupToken) process.stdout.write(`  First account  open the page; one-time token: ${stack.setupToken}\n`);
  process.stdout.write('  Stop           Ctrl-C\n\n');
} catch (e) {
  process.stderr.write(`${e instanceof Trouble ? e.message : e.stack}\n`);
  await stopAll(1);
}
