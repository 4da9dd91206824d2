import { Sequelize } from 'sequelize';
import { defineModels } from '../rows/defineModels.ts';
import { migrate } from './migrate.ts';

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
    pool: { max: 12, min: 0, acquire: 20_000 },
    // Parameters hold names and VINs: the connector leaves them out of its messages.
    dialectOptions: { connectTimeout: 4000, logParam: false },
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
  await migrate(sequelize);
  return sequelize;
}

export const SEQUELIZE = Symbol('sequelize');
