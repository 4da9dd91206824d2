/**
 * npm run load -- [--seconds N] [--rate N] [--jobs N,N]: the board and the logbook under an open load. Requests go out on time whether or
 * not the last ones have come back, and are timed from when they were due. Health and sign-in are asked beside them.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { Agent, request } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createConnection } from 'mariadb';
import { Tablet } from './faults/client.mjs';
import { ensureBuilt, ensureModules } from './lib/build.mjs';
import { fillLogbook, vinOf } from './lib/manyJobs.mjs';
import { DATABASE, ensurePrograms } from './lib/packages.mjs';
import { freePorts } from './lib/ports.mjs';
import { say } from './lib/say.mjs';
import { startStack } from './lib/stack.mjs';

const option = (name, fallback) => {
  const at = process.argv.indexOf(`--${name}`);
  return at > 0 ? process.argv[at + 1] : fallback;
};
const lasts = Number(option('seconds', '30'));
const rate = Number(option('rate', '100'));
const sizes = String(option('jobs', '50,50000')).split(',').map(Number);
const SESSIONS = 50;
const WARM_S = 3;

await ensurePrograms(DATABASE);
await ensureModules();
await ensureBuilt();
const work = mkdtempSync(join(tmpdir(), 'jb-load-'));
const stops = [];
const end = async (code) => {
  for (const stop of stops.splice(0).reverse()) await stop().catch(() => {});
  rmSync(work, { recursive: true, force: true });
  process.exit(code);
};
for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => void end(1));

/** What people look for: words that stand in many jobs, in few, in one; filters; a plate, a VIN, a page further on. */
const SEARCHES = [
  'q=hesitates',
  'q=quillon%20whistle',
  'q=moto',
  'q=okafor%20smoke',
  'q=plate41234',
  `q=${vinOf(4711)}`,
  'code=P0101&cause=vac-leak',
  'person=I.%20Sato&status=closed',
  'cause=fuel-low&q=hill',
  'part=fuel%20pump&from=2025-06-01&to=2025-08-31',
];

const agent = new Agent({ keepAlive: true, maxSockets: 256 });
function ask(base, path, cookie, { method = 'GET', body } = {}) {
  return new Promise((resolve) => {
    const headers = { cookie, ...(body ? { 'content-type': 'application/json' } : {}) };
    const req = request(`${base}/api${path}`, { agent, method, headers }, (res) => {
      let bytes = 0;
      res.on('data', (d) => {
        bytes += d.length;
      });
      res.on('end', () => resolve({ status: res.statusCode, bytes }));
    });
    req.setTimeout(20_000, () => req.destroy());
    req.on('error', (e) => {
      // Closed as idle just as it was taken again: asked once more, as every browser does (RFC 9112, 9.3.1).
      if (req.reusedSocket && e.code === 'ECONNRESET' && method === 'GET') resolve(ask(base, path, cookie));
      else {
        process.stderr.write(`${method} ${path}: ${e.message}\n`);
        resolve({ status: 0, bytes: 0 });
      }
    });
    req.end(body);
  });
}

/** `perSecond` requests for the whole time, each timed from when it was due. */
async function openLoad(perSecond, one, seconds = lasts) {
  const ms = [];
  let failed = 0;
  const begun = performance.now();
  const flying = [];
  for (let i = 0; i < seconds * perSecond; i++) {
    const due = begun + (1000 * i) / perSecond;
    const early = due - performance.now();
    if (early > 0) await new Promise((r) => setTimeout(r, early));
    flying.push(
      one(i).then((r) => {
        ms.push(performance.now() - due);
        if (r.status !== 200) failed++;
      }),
    );
  }
  await Promise.all(flying);
  ms.sort((a, b) => a - b);
  const at = (q) => ms[Math.min(ms.length - 1, Math.floor(q * ms.length))];
  return { n: ms.length, failed, p50: at(0.5), p95: at(0.95), p99: at(0.99) };
}

const [web, sim, db, control] = await freePorts(4);
const { dbUrl } = await startStack({
  dataDir: work,
  ports: { web, sim, db, control },
  demo: true,
  host: '127.0.0.1',
  log: 'silent',
  stops,
});
const { password } = new URL(dbUrl);
const sql = await createConnection({ host: '127.0.0.1', port: db, user: 'jb', password, database: 'just_balance' });
stops.push(() => sql.end());
const base = `http://127.0.0.1:${web}`;
const cookies = [];
for (let i = 0; i < SESSIONS; i++) cookies.push((await new Tablet(base).signIn()).cookie);
const [{ shopId }] = await sql.query("SELECT shopId FROM account WHERE email = 'okafor@linden.example'");
const person = JSON.stringify({ email: 'duarte@linden.example', password: 'bench-demo-2' });
process.stdout.write(
  `\n${'what'.padEnd(34)}${'asked'.padStart(8)}${'failed'.padStart(8)}${'p50 ms'.padStart(9)}${'p95 ms'.padStart(9)}${'p99 ms'.padStart(9)}\n`,
);
let broken = 0;
for (const jobs of sizes) {
  if (jobs > 50) {
    say(`putting in ${jobs} jobs`);
    await fillLogbook(sql, { shopId, count: jobs, open: 40 });
  }
  const { bytes } = await ask(base, '/jobs?limit=50', cookies[0]);
  // The first requests of a process are its slowest.
  const one = (path) => (i) => ask(base, typeof path === 'string' ? path : path(i), cookies[i % SESSIONS]);
  const search = one((i) => `/logbook?${SEARCHES[i % SEARCHES.length]}&limit=50`);
  await openLoad(rate / 2, search, WARM_S);
  await openLoad(rate / 2, one('/jobs?limit=50'), WARM_S);
  const results = await Promise.all([
    openLoad(rate / 2, one('/jobs?limit=50')),
    openLoad(rate / 2, search),
    openLoad(10, () => ask(base, '/health', '')),
    openLoad(0.2, () => ask(base, '/session', '', { method: 'POST', body: person })),
  ]);
  const names = [
    `board, ${jobs} jobs, ${rate / 2}/s, ${Math.round(bytes / 1000)} kB`,
    `search, ${jobs} jobs, ${rate / 2}/s`,
    'health beside it',
    'sign-in beside it',
  ];
  results.forEach((r, i) => {
    broken += r.failed;
    const cells = [r.n, r.failed, ...[r.p50, r.p95, r.p99].map((v) => v.toFixed(1))];
    process.stdout.write(`${names[i].padEnd(34)}${cells.map((c, k) => String(c).padStart(k < 2 ? 8 : 9)).join('')}\n`);
  });
}
say('done');
await end(broken === 0 ? 0 : 1);
