import { readFile } from 'node:fs/promises';
import { promisify } from 'node:util';
import { gunzip } from 'node:zlib';
import type { Sequelize } from 'sequelize';
import { v7 as uuidv7 } from 'uuid';
import { Account } from '../rows/accounts.ts';

const unpack = promisify(gunzip);
const DAY_MS = 86_400_000;
const AT_ONCE = 400;

type Cell = null | string | number | { t: number } | { ms: number } | { b: string };
interface Year {
  format: 'just-balance/demo-year';
  version: 1;
  /** Who worked there, in the order of their first job. */
  people: string[];
  tables: Record<string, { columns: string[]; rows: Cell[][] }>;
}

/** In the order in which rows need each other. */
const TABLES = [
  'vehicle',
  'job',
  'job_event',
  'vehicle_record',
  'reading',
  'test_result',
  'repair',
  'known_figure',
  'diagnosis',
  'service_run',
  'service_event',
  'service_entry',
  'photo',
  'job_tag',
  'job_lesson',
];

/**
 * The year that `scripts/demoYear.mjs` has worked out, put so that it ends with the day before this one. Part of seeding:
 * only into a database that this start has created.
 */
export async function seedYear(db: Sequelize, shopId: string, file: string): Promise<void> {
  const year = JSON.parse((await unpack(await readFile(file))).toString('utf8')) as Year;
  if (year.format !== 'just-balance/demo-year' || year.version !== 1)
    throw new Error(`${file}: not a demo year of version 1: run "node scripts/demoYear.mjs"`);
  const end = Math.floor(Date.now() / DAY_MS) * DAY_MS;
  const cell = (v: Cell): unknown => {
    if (typeof v === 'string') return v.replace(/@T(-?\d+)T@/g, (_, ms) => new Date(end + Number(ms)).toISOString());
    if (v === null || typeof v !== 'object') return v;
    if ('t' in v) return new Date(end + v.t);
    return 'ms' in v ? end + v.ms : Buffer.from(v.b, 'base64');
  };
  for (const name of year.people)
    if ((await Account.count({ where: { shopId, name } })) === 0)
      await Account.create({
        id: uuidv7(),
        shopId,
        email: `${name.split(' ').at(-1)!.toLowerCase()}@linden.example`,
        name,
        role: 'technician',
        passwordHash: '',
      });
  const query = db.getQueryInterface();
  for (const name of TABLES) {
    const table = year.tables[name];
    if (!table) continue;
    const fixed = name === 'job' ? { shopId, filed: 1 } : { shopId };
    for (let at = 0; at < table.rows.length; at += AT_ONCE) {
      const rows = table.rows
        .slice(at, at + AT_ONCE)
        .map((r) => ({ ...Object.fromEntries(table.columns.map((c, i) => [c, cell(r[i]!)])), ...fixed }));
      await query.bulkInsert(name, rows);
    }
  }
  // Its parts to order came after it was made: what asked for some is filed anew.
  await db.query(
    "UPDATE job j SET filed = 0 WHERE shopId = :shopId AND EXISTS (SELECT 1 FROM service_event e WHERE e.jobId = j.id AND JSON_VALUE(e.data, '$.kind') = 'parked')",
    { replacements: { shopId } },
  );
  await db.query(
    "INSERT IGNORE INTO shop_word (shopId, word) SELECT DISTINCT shopId, value FROM job_tag WHERE shopId = :shopId AND kind = 'word'",
    { replacements: { shopId } },
  );
}
