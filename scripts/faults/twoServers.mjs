import { fork } from 'node:child_process';
import { randomBytes, randomUUID } from 'node:crypto';
import { join } from 'node:path';
import { createConnection } from 'mariadb';
import { ROOT } from '../lib/build.mjs';
import { startMariaDb } from '../lib/mariadb.mjs';
import { patient } from '../lib/patience.cjs';
import { freePorts } from '../lib/ports.mjs';
import { check, newLedger } from './check.mjs';
import { Tablet, until } from './client.mjs';

/** Two servers on one database: who owns a capture, what the other shows, what happens when the owner goes. */
export async function twoServers({ work, stops, failures }) {
  const [db, sim, control, portA, portB] = await freePorts(5);
  const database = startMariaDb({ dataDir: work, port: db, fast: true });
  stops.push(database.stop);
  const { url } = await database.ready;
  const token = randomBytes(24).toString('base64url');
  const common = {
    ...process.env,
    JB_SIM_PORT: sim,
    JB_SIM_CONTROL_PORT: control,
    JB_SIM_TOKEN: token,
    JB_LOG: 'silent',
  };
  const started = (file, env) => {
    const child = fork(join(ROOT, file), [], {
      env: { ...common, ...env },
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    });
    stops.push(async () => child.kill('SIGKILL'));
    return new Promise((resolve, reject) => {
      child.once('message', () => resolve(child));
      child.once('exit', (code) => reject(new Error(`${file} ended with ${code}`)));
    });
  };
  await started('packages/vehicle/dist/process/main.js', { JB_DEMO: '1' });
  const server = (port, created) =>
    started('apps/server/dist/main.js', { JB_DB_URL: url, JB_PORT: port, JB_DEMO: '1', JB_DB_CREATED: created });
  const a = await server(portA, '1');
  let b = await server(portB, '0');
  const onA = await new Tablet(`http://127.0.0.1:${portA}`).signIn();
  const onB = new Tablet(`http://127.0.0.1:${portB}`);
  // One session opens both.
  onB.cookie = onA.cookie;
  const jobId = await onA.newJob({ adapter: 'sim:1' });
  const captureId = randomUUID();
  await onA.keep(`/jobs/${jobId}/captures`, { id: captureId, phase: 'before', at: 'free' });
  const seconds = new Map();
  const status = async (t) => {
    const s = (await t.ask('GET', `/jobs/${jobId}/captures/running`)).body?.status;
    if (s) seconds.set(captureId, Math.max(seconds.get(captureId) ?? 0, s.keptSeconds));
    return s;
  };
  const expect = (ok, what) => {
    if (!ok) failures.push(what);
  };
  const live = [];
  let unwatch = onB.watch(jobId, (m) => live.push(m));
  await until(async () => (await status(onB))?.keptSeconds >= 2, patient(15_000), 'B sees the seconds that A keeps');
  await until(
    () => live.some((m) => m.type === 'live' && m.committed),
    8000,
    "live values of A's capture on B's screen",
  );
  await onA.keep(`/jobs/${jobId}/tests`, { id: randomUUID(), test: { id: 'fuse-check', outcome: 'ok' } });
  await until(() => live.some((m) => m.type === 'changed'), 5000, 'a write on A told to a screen of B');
  // A command given to B is done by A.
  const paused = await onB.ask('POST', `/jobs/${jobId}/captures/${captureId}/command`, { command: 'pause' });
  expect(
    paused.status === 200 && (await status(onA)).state === 'paused',
    `pause through B: ${JSON.stringify(paused.body)}`,
  );
  await onB.ask('POST', `/jobs/${jobId}/captures/${captureId}/command`, { command: 'resume' });
  // B goes and comes back: A's capture is A's.
  b.kill('SIGKILL');
  b = await server(portB, '0');
  await new Promise((done) => setTimeout(done, 4000));
  const kept = (await status(onA)).keptSeconds;
  await until(async () => (await status(onA))?.keptSeconds > kept, 8000, 'A goes on while B restarts');
  // A goes: B takes over, the screens of B go on.
  unwatch();
  live.length = 0;
  unwatch = onB.watch(jobId, (m) => live.push(m));
  const before = (await status(onA)).keptSeconds;
  a.kill('SIGKILL');
  await until(
    async () => (await status(onB))?.keptSeconds > before + 1,
    patient(40_000),
    'B takes over the capture of A',
  );
  await until(() => live.some((m) => m.type === 'live' && m.committed), 5000, 'live values on B after the takeover');
  unwatch();
  const stopped = await onB.ask('POST', `/jobs/${jobId}/captures/${captureId}/command`, { command: 'stop' });
  expect(stopped.status === 200, `stop on B: ${stopped.status}`);
  const { password } = new URL(url);
  const sql = await createConnection({ host: '127.0.0.1', port: db, user: 'jb', password, database: 'just_balance' });
  await check(sql, { ...newLedger(), seconds }, failures);
  const [c] = await sql.query('SELECT state, gaps FROM capture WHERE id = ?', [captureId]);
  expect(c.state === 'done' && c.gaps >= 1, `the capture ended as ${c.state} with ${c.gaps} gaps`);
  await sql.end();
  return `${seconds.get(captureId)} seconds of one capture over a restart of B and the death of A`;
}
