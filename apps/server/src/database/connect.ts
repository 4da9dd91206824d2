import { Sequelize } from 'sequelize';
import { SequelizeStorage, Umzug } from 'umzug';
import * as first from './migrations/0001-first-tables.ts';
import * as recordings from './migrations/0002-recordings.ts';
import * as knownFigures from './migrations/0003-known-figures.ts';
import { defineModels } from './models.ts';

export class DatabaseDown extends Error {}

/**
 * Connect and migrate. Retries for `waitMs`; then throws DatabaseDown with the address (never the password) and what
 * to do.
 */
export async function connectDatabase(url: string, waitMs = 15_000): Promise<Sequelize> {
  const sequelize = new Sequelize(url, {
    dialect: 'mariadb',
    logging: false,
    timezone: '+00:00',
    pool: { max: 8, min: 0, acquire: 20_000 },
    dialectOptions: { connectTimeout: 4000 },
    retry: { max: 2, match: [/ER_LOCK_DEADLOCK/] },
  });
  const until = Date.now() + waitMs;
  for (;;) {
    try {
      await sequelize.authenticate();
      break;
    } catch (e) {
      if (Date.now() > until) {
        await sequelize.close().catch(() => {});
        const { hostname, port } = new URL(url);
        throw new DatabaseDown(
          `the database at ${hostname}:${port} does not answer (${(e as Error).message.split('\n')[0]}). Start it, or check JB_DB_URL; nothing was changed.`,
        );
      }
      await new Promise((r) => setTimeout(r, 500));
    }
  }
  defineModels(sequelize);
  const umzug = new Umzug({
    migrations: [
      { name: '0001-first-tables', up: first.up },
      { name: '0002-recordings', up: recordings.up },
      { name: '0003-known-figures', up: knownFigures.up },
    ],
    context: sequelize.getQueryInterface(),
    storage: new SequelizeStorage({ sequelize, modelName: 'schema_migration' }),
    logger: undefined,
  });
  await umzug.up();
  return sequelize;
}

export const SEQUELIZE = Symbol('sequelize');
