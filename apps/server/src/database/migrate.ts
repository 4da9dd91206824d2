import { randomUUID } from 'node:crypto';
import { QueryTypes, type Sequelize, Transaction } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';
import { STEPS as firstTables } from './migrations/0001-first-tables.ts';
import { STEPS as recordings } from './migrations/0002-recordings.ts';
import { STEPS as knownFigures } from './migrations/0003-known-figures.ts';
import { STEPS as together } from './migrations/0004-together.ts';
import { STEPS as plainNames } from './migrations/0005-plain-names.ts';
import { STEPS as service } from './migrations/0006-service.ts';
import { STEPS as readiness } from './migrations/0007-readiness.ts';
import { STEPS as corrections } from './migrations/0008-corrections.ts';
import { STEPS as shop } from './migrations/0009-shop.ts';
import { STEPS as broughtIn } from './migrations/0010-brought-in.ts';
import { STEPS as onTheBus } from './migrations/0011-on-the-bus.ts';
import { STEPS as versions } from './migrations/0012-versions.ts';
import { STEPS as orders } from './migrations/0013-orders.ts';
import { STEPS as orderOfEvents } from './migrations/0014-order-of-events.ts';

/** Oldest first. Every step may be run again: a server that dies between two of them starts over at the migration. */
const MIGRATIONS: readonly { name: string; steps: readonly string[] }[] = [
  { name: '0001-first-tables', steps: firstTables },
  { name: '0002-recordings', steps: recordings },
  { name: '0003-known-figures', steps: knownFigures },
  { name: '0004-together', steps: together },
  { name: '0005-plain-names', steps: plainNames },
  { name: '0006-service', steps: service },
  { name: '0007-readiness', steps: readiness },
  { name: '0008-corrections', steps: corrections },
  { name: '0009-shop', steps: shop },
  { name: '0010-brought-in', steps: broughtIn },
  { name: '0011-on-the-bus', steps: onTheBus },
  { name: '0012-versions', steps: versions },
  { name: '0013-orders', steps: orders },
  { name: '0014-order-of-events', steps: orderOfEvents },
];

/** How long a start waits for another server that is migrating, ms. */
const WAIT_MS = 120_000;

/**
 * Bring the tables up to date. One server at a time: it holds a row lock in an open transaction of its own, which the
 * database lets go when the server dies. `migration_lock` rather than GET_LOCK, which a Galera cluster does not have.
 */
export async function migrate(db: Sequelize): Promise<void> {
  await db.query(
    'CREATE TABLE IF NOT EXISTS migration_lock (id INT NOT NULL PRIMARY KEY, holder VARCHAR(40) NOT NULL)',
  );
  // An insert would wait for the holder's lock: only where the row is not there yet.
  if ((await db.query('SELECT id FROM migration_lock', { type: QueryTypes.SELECT })).length === 0)
    await db.query("INSERT IGNORE INTO migration_lock (id, holder) VALUES (1, '')");
  const until = Date.now() + WAIT_MS;
  for (;;) {
    const lock = await db.transaction({ isolationLevel: Transaction.ISOLATION_LEVELS.READ_COMMITTED });
    try {
      await db.query('UPDATE migration_lock SET holder = ? WHERE id = 1', {
        replacements: [randomUUID()],
        transaction: lock,
      });
      await pending(db);
      await lock.commit();
      return;
    } catch (e) {
      await lock.rollback().catch(() => {});
      // 1205: another server still migrates; the row is tried again.
      if ((e as { original?: { errno?: number } }).original?.errno !== 1205 || Date.now() > until) throw e;
    }
  }
}

/** What has not run yet, in order; each is written down when all its steps are through. */
async function pending(db: Sequelize): Promise<void> {
  await new Umzug({
    migrations: MIGRATIONS.map(({ name, steps }) => ({
      name,
      up: async () => {
        for (const sql of steps) await db.query(sql);
      },
    })),
    storage: new SequelizeStorage({ sequelize: db, modelName: 'schema_migration' }),
    logger: undefined,
  }).up();
}
