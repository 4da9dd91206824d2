import { spawn } from 'node:child_process';
import { createHash, randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { strFromU8, strToU8, unzipSync, zipSync } from 'fflate';
import { createConnection } from 'mariadb';
import sharp from 'sharp';
import { SHIPPED_PROCEDURES } from '../../packages/core/dist/procedures/index.js';
import { ROOT } from '../lib/build.mjs';
import { startMariaDb } from '../lib/mariadb.mjs';
import { patient } from '../lib/patience.cjs';
import { freePorts } from '../lib/ports.mjs';
import { asOfNow, check, newLedger } from './check.mjs';
import { Ended, Tablet, until } from './client.mjs';

const PARTS = ['apps/server/dist/main.js', 'mariadbd', 'process/main.js'];
/** Each with where it is written to, the body, and what of it must be kept. */
const KINDS = ['reading', 'test', 'caution', 'repair', 'entry', 'run-event', 'photo'];

const LOCAL = { host: '127.0.0.1', user: 'jb', database: 'just_balance' };

/** Processes below one, by Linux's own list. */
function below(pid) {
  try {
    const own = readFileSync(`/proc/${pid}/task/${pid}/children`, 'utf8').trim();
    return own === '' ? [] : own.split(' ').map(Number);
  } catch {
    return [];
  }
}

const wordsOf = (pid) => {
  try {
    return readFileSync(`/proc/${pid}/cmdline`, 'utf8');
  } catch {
    return '';
  }
};

/** The archive of a job under ids that nobody has seen. */
function renamed(archive) {
  const files = unzipSync(archive);
  const ids = new Map();
  const text = strFromU8(files['job.json']).replace(
    /[0-9a-f]{8}-[0-9a-f]{4}-[47][0-9a-f]{3}-[0-9a-f]{4}-[0-9a-f]{12}/g,
    (id) => {
      if (!ids.has(id)) ids.set(id, randomUUID());
      return ids.get(id);
    },
  );
  const data = strToU8(text);
  const listed = { 'job.json': { sha256: createHash('sha256').update(data).digest('hex'), bytes: data.length } };
  const manifest = { format: 'just-balance/archive', version: 1, files: listed };
  const { rows } = JSON.parse(text);
  return {
    zip: zipSync({ 'job.json': data, 'manifest.json': strToU8(JSON.stringify(manifest)) }),
    job: rows.job[0].id,
    rows,
  };
}

/** Writers and a capture, while server, database, vehicle and the whole stack are killed at seeded moments. */
export async function kills({ work, short, stops, random, failures }) {
  const [web, sim, db, control] = await freePorts(4);
  let stack = null;
  let words = '';
  const start = () => {
    words = '';
    stack = spawn(process.execPath, [join(ROOT, 'scripts/start.mjs')], {
      cwd: ROOT,
      env: {
        ...process.env,
        JB_PORT: String(web),
        JB_SIM_PORT: String(sim),
        JB_DB_PORT: String(db),
        JB_SIM_CONTROL_PORT: String(control),
        JB_DATA_DIR: work,
        JB_DEMO: '1',
        JB_DEMO_YEAR: '0',
        JB_LOG: 'silent',
      },
      stdio: ['ignore', 'pipe', 'pipe'],
    });
    for (const s of [stack.stdout, stack.stderr])
      s.on('data', (d) => {
        words = (words + d).slice(-4000);
      });
  };
  const stopStack = async () => {
    if (!stack || stack.exitCode !== null || stack.signalCode !== null) return;
    const gone = new Promise((r) => stack.once('exit', r));
    stack.kill('SIGTERM');
    await gone;
  };
  stops.push(stopStack);
  start();
  const base = `http://127.0.0.1:${web}`;
  const healthy = () =>
    until(
      async () => (await fetch(`${base}/api/health`)).status === 200,
      patient(60_000),
      () => `health; last words: ${words}`,
    );
  await healthy();
  const ledger = newLedger();
  const { acknowledged, seconds, samples } = ledger;
  const tablet = await new Tablet(base).signIn();
  const captured = await tablet.newJob({ adapter: 'sim:1' });
  const captureId = randomUUID();
  await tablet.keep(`/jobs/${captured}/captures`, { id: captureId, phase: 'before', at: 'free' });
  let over = false;
  const watch = async () => {
    while (!over) {
      const r = await tablet.ask('GET', `/jobs/${captured}/captures/running`).catch(() => null);
      const s = r?.body?.status;
      if (s) seconds.set(captureId, Math.max(seconds.get(captureId) ?? 0, s.keptSeconds));
      await new Promise((done) => setTimeout(done, 300));
    }
  };
  // What the screen is told is kept, second by second, is counted by channel: each second once, whatever comes twice.
  const told = new Set();
  let unwatch = () => {};
  const listen = () => {
    unwatch();
    unwatch = tablet.watch(captured, (m) => {
      if (m.type !== 'live' || !m.committed || !m.second || told.has(m.second.atMs)) return;
      told.add(m.second.atMs);
      const counts = samples.get(captureId) ?? new Map();
      for (const [channel, list] of Object.entries(m.second.data))
        counts.set(channel, (counts.get(channel) ?? 0) + list.length);
      samples.set(captureId, counts);
    });
  };
  listen();
  const picture = await sharp({ create: { width: 48, height: 36, channels: 3, background: '#345' } })
    .jpeg()
    .toBuffer();
  const writer = async (k) => {
    const me = await new Tablet(base).signIn();
    const account = await me.account();
    const jobId = await me.newJob();
    const run = randomUUID();
    const procedure = SHIPPED_PROCEDURES[k % SHIPPED_PROCEDURES.length];
    await me.keep(`/jobs/${jobId}/runs`, { id: run, procedure });
    for (let i = 0; !over; i++) {
      const id = randomUUID();
      const kind = KINDS[(i + k) % KINDS.length];
      if (kind === 'photo') {
        ledger.photos.push({ id, jobId, sha256: await me.keepPhoto(jobId, id, picture) });
        continue;
      }
      const trims = { bank1: { stft: (i % 9) - 4, ltft: 9 } };
      const reading = { at: 'idle', rpm: 700, mafGps: 2, trims };
      const test = { id: 'pinch-pcv', outcome: i % 2 ? 'changes' : 'no-change' };
      const repair = { text: `hose ${i}`, adaptation: 'relearn' };
      const entry = { dueAt: '2027-02-03', what: `look ${i}` };
      const what = { kind: 'parked', reason: `rain ${i}`, toOrder: [] };
      const { path, body, data } = {
        reading: { path: 'readings', body: { id, phase: 'before', reading }, data: reading },
        test: { path: 'tests', body: { id, test }, data: test },
        caution: { path: 'cautions', body: { id, caution: 'hot', step: id }, data: null },
        repair: { path: 'repairs', body: { id, ...repair }, data: repair },
        entry: { path: 'entries', body: { id, kind: 'recheck', data: entry }, data: entry },
        'run-event': { path: `runs/${run}/events`, body: { events: [{ id, atMs: Date.now(), what }] }, data: what },
      }[kind];
      const key = randomUUID();
      await me.keep(`/jobs/${jobId}/${path}`, body, key);
      acknowledged.push({ kind, id, jobId, shopId: account.shop.id, data, key, accountId: account.id });
      await new Promise((done) => setTimeout(done, 20 + 60 * random()));
    }
  };
  /** Archives under new ids, again and again: each whole or not at all. */
  const archivist = async () => {
    const me = await new Tablet(base).signIn();
    const jobId = await me.newJob();
    await me.keep(`/jobs/${jobId}/tests`, { id: randomUUID(), test: { id: 'fuse-check', outcome: 'ok' } });
    await me.keep(`/jobs/${jobId}/repairs`, { id: randomUUID(), text: 'fuse renewed', adaptation: 'relearn' });
    const first = await me.keepAnswer(() => me.bytes(`/jobs/${jobId}/archive`));
    while (!over) {
      const { zip, job, rows } = renamed(first);
      await me.keepArchive(zip);
      ledger.archives.push({ job, rows });
      await new Promise((done) => setTimeout(done, 300 + 400 * random()));
    }
  };
  const work_ = [watch(), archivist(), ...Array.from({ length: 3 }, (_, k) => writer(k))];
  const failed = Promise.all(work_).catch((e) => failures.push(e.message));
  /** Held against the database after every round, while the tablets write on. */
  const looked = async () => {
    const now = asOfNow(ledger);
    const broken = [];
    await until(
      async () => {
        const { password } = JSON.parse(readFileSync(join(work, 'secret.json'), 'utf8'));
        const sql = await createConnection({ ...LOCAL, port: db, password });
        try {
          broken.length = 0;
          await check(sql, now, broken);
          return true;
        } finally {
          await sql.end().catch(() => {});
        }
      },
      patient(30_000),
      'a look into the database',
    );
    failures.push(...broken);
  };
  const killed = {};
  const rounds = short ? 4 : 24;
  for (let round = 0; round < rounds; round++) {
    await new Promise((done) => setTimeout(done, 800 + 1400 * random()));
    const which = Math.floor(random() * 4);
    if (which === 3) {
      const gone = new Promise((r) => stack.once('exit', r));
      stack.kill('SIGKILL');
      await gone;
      start();
      // The old server still answers for a moment: the new stack says when it stands.
      await until(
        () => {
          if (stack.exitCode !== null) throw new Ended(`the new start ended (${stack.exitCode}): ${words}`);
          return words.includes('Stop           Ctrl-C');
        },
        patient(60_000),
        () => `a new start; last words: ${words}`,
      );
      killed.all = (killed.all ?? 0) + 1;
    } else {
      const pid = below(stack.pid).find((p) => wordsOf(p).includes(PARTS[which]));
      if (pid) process.kill(pid, 'SIGKILL');
      killed[PARTS[which]] = (killed[PARTS[which]] ?? 0) + (pid ? 1 : 0);
    }
    await healthy();
    listen();
    await looked();
  }
  over = true;
  unwatch();
  await failed;
  // The capture is still there, and goes on or can be ended.
  await until(
    async () =>
      (await tablet.ask('POST', `/jobs/${captured}/captures/${captureId}/command`, { command: 'stop' })).status < 300,
    patient(40_000),
    'stopping the capture after the kills',
  );
  await stopStack();
  const database = startMariaDb({ dataDir: work, port: db, fast: true });
  stops.push(database.stop);
  const { url } = await database.ready;
  const { password } = new URL(url);
  const sql = await createConnection({ ...LOCAL, port: db, password });
  await check(sql, ledger, failures);
  await sql.end();
  const said = Object.entries(killed).map(([k, n]) => `${k.split('/').at(-1)} ${n}`);
  return `killed: ${said.join(', ')}; ${acknowledged.length} acknowledged writes, ${ledger.photos.length} pictures, ${ledger.archives.length} archives, ${seconds.get(captureId) ?? 0} kept seconds; looked at ${rounds + 1} times`;
}
