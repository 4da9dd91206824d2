/**
 * npm run load -- [--seconds N] [--rate N] [--jobs N,N]: the board under an open load. Requests go out on time whether or
 * not the last ones have come back, and are timed from when they were due. Health and sign-in are asked beside them.
 */
import { mkdtempSync, rmSync } from 'node:fs';
import { Agent, request } from 'node:http';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { createConnection } from 'mariadb';
import { Tablet } from './faults/client.mjs';
import { ensureBuilt, ensureModules } from './lib/build.mjs';
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
const sizes = String(option('jobs', '50,5000')).split(',').map(Number);
const SESSIONS = 10;
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

/** Jobs of the demo shop up to `n`, straight into the tables, each with the summary that a write would have kept. */
async function fill(sql, n) {
  const [{ have }] = await sql.query('SELECT COUNT(*) AS have FROM job');
  const more = n - Number(have);
  if (more <= 0) return;
  await sql.query(
    `INSERT INTO vehicle (id, shopId, createdAt, rev, data)
     SELECT CONCAT('00000000-0000-7000-9000-', LPAD(HEX(seq + ?), 12, '0')), (SELECT id FROM shop LIMIT 1), NOW(3), 1,
       JSON_OBJECT('label', CONCAT('Tarn ', seq), 'fuel', 'petrol', 'metering', 'maf', 'displacementL', 2, 'cylinders', 4)
     FROM seq_1_to_${more}`,
    [Number(have)],
  );
  await sql.query(
    `INSERT INTO job (id, shopId, createdAt, rev, vehicleId, status, complaint, ambient, openedBy, summary)
     SELECT CONCAT('00000000-0000-7000-a000-', LPAD(HEX(seq + ?), 12, '0')), (SELECT id FROM shop LIMIT 1),
       NOW(3) - INTERVAL seq MINUTE, 1, CONCAT('00000000-0000-7000-9000-', LPAD(HEX(seq + ?), 12, '0')),
       IF(seq % 9 = 0, 'open', 'closed'),
       '{"symptoms":["rough-idle"],"story":"shakes at the lights"}', '{"baroKPa":99.1}', 'R. Okafor',
       JSON_OBJECT('label', CONCAT('Tarn ', seq), 'note', NULL, 'worst', JSON_OBJECT('totalPct', 11.5, 'at', 'idle'),
         'counts', JSON_OBJECT('records', 1, 'recordsAfter', 0, 'before', 2, 'after', 0, 'tests', 1, 'repairs', 0),
         'leading', JSON_OBJECT('fault', 'vac-leak', 'probability', 0.7))
     FROM seq_1_to_${more}`,
    [Number(have), Number(have)],
  );
}

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
const person = JSON.stringify({ email: 'duarte@linden.example', password: 'bench-demo-2' });
process.stdout.write(
  `\n${'what'.padEnd(34)}${'asked'.padStart(8)}${'failed'.padStart(8)}${'p50 ms'.padStart(9)}${'p95 ms'.padStart(9)}${'p99 ms'.padStart(9)}\n`,
);
let broken = 0;
for (const jobs of sizes) {
  await fill(sql, jobs);
  const { bytes } = await ask(base, '/jobs?limit=50', cookies[0]);
  // The first requests of a process are its slowest.
  await openLoad(rate / 2, (i) => ask(base, '/jobs?limit=50', cookies[i % SESSIONS]), WARM_S);
  const results = await Promise.all([
    openLoad(rate, (i) => ask(base, '/jobs?limit=50', cookies[i % SESSIONS])),
    openLoad(10, () => ask(base, '/health', '')),
    openLoad(1, () => ask(base, '/session', '', { method: 'POST', body: person })),
  ]);
  const names = [
    `board, ${jobs} jobs, ${rate}/s, ${Math.round(bytes / 1000)} kB`,
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
