/** Migrates a database and dies by SIGKILL before its n-th statement (n < 0: runs through). Arguments: URL, n. */
import { Sequelize } from 'sequelize';
import { migrate } from '../../apps/server/dist/database/migrate.js';

const [url, n] = [process.argv[2], Number(process.argv[3])];
const db = new Sequelize(url, { dialect: 'mariadb', logging: false });
let statements = 0;
const query = db.query.bind(db);
db.query = (...args) => {
  if (statements++ === n) process.kill(process.pid, 'SIGKILL');
  return query(...args);
};
await migrate(db);
await db.close();
process.stdout.write(`${statements}\n`);
