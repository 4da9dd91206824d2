/**
 * node scripts/demo/refile.mjs: works out again what every job of the demo year teaches. While it was made a year passed in
 * minutes: minutes of work are counted once its moments are those of the year. Part of `scripts/demoYear.mjs`; by itself
 * where what a job teaches is counted in another way.
 */
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { gunzipSync, gzipSync } from 'node:zlib';
import { createConnection } from 'mariadb';
import { ensureBuilt, ensureModules, ROOT } from '../lib/build.mjs';
import { DATABASE, ensurePrograms } from '../lib/packages.mjs';
import { freePorts } from '../lib/ports.mjs';
import { say } from '../lib/say.mjs';
import { startStack } from '../lib/stack.mjs';

const FILE = join(ROOT, 'apps/server/demo/year.json.gz');
/** Jobs are filed within so long, or something is wrong, ms. */
const PATIENCE_MS = 600_000;

export async function refile() {
  const stops = [];
  const dataDir = mkdtempSync(join(tmpdir(), 'jb-refile-'));
  try {
    const [web, sim, db, control] = await freePorts(4);
    const ports = { web, sim, db, control };
    await startStack({ dataDir, ports, demo: true, year: true, host: '127.0.0.1', fast: true, stops });
    const { password } = JSON.parse(readFileSync(join(dataDir, 'secret.json'), 'utf8'));
    const login = { host: '127.0.0.1', port: db, user: 'jb', password, database: 'just_balance', bigIntAsNumber: true };
    const sql = await createConnection(login);
    const year = JSON.parse(gunzipSync(readFileSync(FILE)).toString('utf8'));
    const { columns, rows } = year.tables.job_lesson;
    const [jobId, data] = ['jobId', 'data'].map((c) => columns.indexOf(c));
    const ids = rows.map((row) => row[jobId]);
    await sql.query('UPDATE job SET filed = 0 WHERE id IN (?)', [ids]);
    for (const until = Date.now() + PATIENCE_MS; ; ) {
      const [{ n }] = await sql.query('SELECT COUNT(*) AS n FROM job WHERE filed = 0 AND id IN (?)', [ids]);
      if (n === 0) break;
      if (Date.now() > until) throw new Error(`${n} jobs are not filed yet`);
      await new Promise((done) => setTimeout(done, 500));
    }
    const now = new Map(
      (await sql.query('SELECT jobId, data FROM job_lesson WHERE jobId IN (?)', [ids])).map((x) => [
        x.jobId,
        typeof x.data === 'string' ? x.data : JSON.stringify(x.data),
      ]),
    );
    await sql.end();
    for (const row of rows) row[data] = now.get(row[jobId]) ?? row[data];
    writeFileSync(FILE, gzipSync(JSON.stringify(year), { level: 9 }));
    say(`${now.size} jobs teach with the minutes of the year`);
  } finally {
    for (const stop of stops.reverse()) await stop().catch(() => {});
    rmSync(dataDir, { recursive: true, force: true });
  }
}

if (process.argv[1] === fileURLToPath(import.meta.url)) {
  await ensurePrograms(DATABASE);
  await ensureModules();
  await ensureBuilt();
  await refile();
}
