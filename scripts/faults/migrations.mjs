import { createConnection } from 'mariadb';
import { startMariaDb } from '../lib/mariadb.mjs';
import { freePorts } from '../lib/ports.mjs';

const SCRIPT = 'scripts/faults/migrateAndDie.mjs';

/** The tables of a database, each as its own definition: two databases that came there differently must agree. */
async function shape(root, name) {
  const tables = await root.query(
    'SELECT table_name AS t FROM information_schema.tables WHERE table_schema = ? ORDER BY 1',
    [name],
  );
  const out = [];
  for (const { t } of tables) {
    const [row] = await root.query(`SHOW CREATE TABLE \`${name}\`.\`${t}\``);
    out.push(String(row['Create Table']).replace(/AUTO_INCREMENT=\d+ /, ''));
  }
  const triggers = await root.query(
    'SELECT trigger_name AS t FROM information_schema.triggers WHERE trigger_schema = ? ORDER BY 1',
    [name],
  );
  return JSON.stringify([out, triggers]);
}

/** A migration killed before each of its statements, and two at once: the next start goes through, to the same tables. */
export async function migrations({ work, short, stops, run, random, failures }) {
  const [port] = await freePorts(1);
  const server = startMariaDb({ dataDir: work, port, fast: true });
  stops.push(server.stop);
  const { url } = await server.ready;
  const { password } = new URL(url);
  const admin = await createConnection({ host: '127.0.0.1', port, user: 'jb', password, database: 'just_balance' });
  stops.push(() => admin.end());
  const fresh = async () => {
    // The account may use this one database only: it is emptied instead of made anew.
    await admin.query('SET FOREIGN_KEY_CHECKS = 0');
    const tables = await admin.query(
      "SELECT table_name AS t FROM information_schema.tables WHERE table_schema = 'just_balance'",
    );
    for (const { t } of tables) await admin.query(`DROP TABLE \`${t}\``);
    await admin.query('SET FOREIGN_KEY_CHECKS = 1');
  };
  const whole = await run(SCRIPT, [url, '-1']);
  if (whole.code !== 0) throw new Error(`the migration alone failed: ${whole.out}`);
  const statements = Number(whole.out.trim());
  const wanted = await shape(admin, 'just_balance');
  const all = Array.from({ length: statements }, (_, i) => i);
  const cuts = short ? Array.from({ length: 3 }, () => Math.floor(random() * statements)) : all;
  for (const n of cuts) {
    await fresh();
    const cut = await run(SCRIPT, [url, String(n)]);
    if (cut.signal !== 'SIGKILL') failures.push(`statement ${n}: was not killed (${cut.code}): ${cut.out}`);
    const again = await run(SCRIPT, [url, '-1']);
    if (again.code !== 0)
      failures.push(`killed before statement ${n}: the next start fails: ${again.out.slice(0, 400)}`);
    else if ((await shape(admin, 'just_balance')) !== wanted)
      failures.push(`killed before statement ${n}: other tables`);
  }
  const pairs = short ? 1 : 6;
  for (let i = 0; i < pairs; i++) {
    await fresh();
    const both = await Promise.all([run(SCRIPT, [url, '-1']), run(SCRIPT, [url, '-1']), run(SCRIPT, [url, '-1'])]);
    for (const r of both) if (r.code !== 0) failures.push(`three starts at once: ${r.out.slice(0, 400)}`);
    if ((await shape(admin, 'just_balance')) !== wanted) failures.push('three starts at once: other tables');
  }
  return `${cuts.length} of ${statements} statements killed, ${pairs} × three starts at once`;
}
