import { spawn } from 'node:child_process';
import { randomUUID } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { join } from 'node:path';
import { createConnection } from 'mariadb';
import { ROOT } from '../lib/build.mjs';
import { startMariaDb } from '../lib/mariadb.mjs';
import { freePorts } from '../lib/ports.mjs';
import { check } from './check.mjs';
import { Ended, Tablet, until } from './client.mjs';

const PARTS = ['apps/server/dist/main.js', 'mariadbd', 'process/main.js'];
const KINDS = ['reading', 'test', 'caution', 'repair'];

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
  const healthy = (ms) =>
    until(
      async () => (await fetch(`${base}/api/health`)).status === 200,
      ms,
      () => `health; last words: ${words}`,
    );
  await healthy(60_000);
  const acknowledged = [];
  const seconds = new Map();
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
  const writer = async (k) => {
    const me = await new Tablet(base).signIn();
    const jobId = await me.newJob();
    for (let i = 0; !over; i++) {
      const id = randomUUID();
      const kind = KINDS[(i + k) % KINDS.length];
      const trims = { bank1: { stft: (i % 9) - 4, ltft: 9 } };
      const body = {
        reading: { id, phase: 'before', reading: { at: 'idle', rpm: 700, mafGps: 2, trims } },
        test: { id, test: { id: 'pinch-pcv', outcome: i % 2 ? 'changes' : 'no-change' } },
        caution: { id, caution: 'hot', step: id },
        repair: { id, text: `hose ${i}`, adaptation: 'relearn' },
      }[kind];
      await me.keep(
        `/jobs/${jobId}/${{ reading: 'readings', test: 'tests', caution: 'cautions', repair: 'repairs' }[kind]}`,
        body,
      );
      acknowledged.push({ kind, id, jobId });
      await new Promise((done) => setTimeout(done, 20 + 60 * random()));
    }
  };
  const work_ = [watch(), ...Array.from({ length: 3 }, (_, k) => writer(k))];
  const failed = Promise.all(work_).catch((e) => failures.push(e.message));
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
        60_000,
        () => `a new start; last words: ${words}`,
      );
      killed.all = (killed.all ?? 0) + 1;
    } else {
      const pid = below(stack.pid).find((p) => wordsOf(p).includes(PARTS[which]));
      if (pid) process.kill(pid, 'SIGKILL');
      killed[PARTS[which]] = (killed[PARTS[which]] ?? 0) + (pid ? 1 : 0);
    }
    await healthy(60_000);
  }
  over = true;
  await failed;
  // The capture is still there, and goes on or can be ended.
  await until(
    async () =>
      (await tablet.ask('POST', `/jobs/${captured}/captures/${captureId}/command`, { command: 'stop' })).status < 300,
    40_000,
    'stopping the capture after the kills',
  );
  await stopStack();
  const database = startMariaDb({ dataDir: work, port: db, fast: true });
  stops.push(database.stop);
  const { url } = await database.ready;
  const { password } = new URL(url);
  const sql = await createConnection({ host: '127.0.0.1', port: db, user: 'jb', password, database: 'just_balance' });
  await check(sql, { acknowledged, seconds, failures });
  await sql.end();
  const said = Object.entries(killed).map(([k, n]) => `${k.split('/').at(-1)} ${n}`);
  return `killed: ${said.join(', ')}; ${acknowledged.length} acknowledged writes, ${seconds.get(captureId) ?? 0} kept seconds`;
}
