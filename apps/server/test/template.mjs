/** node template.mjs DIR: a database of the tests as it stands after a first start with the demo. */
import { pino } from 'pino';
import { startMariaDb } from '../../../scripts/lib/mariadb.mjs';
import { freePorts } from '../../../scripts/lib/ports.mjs';
import { createApp } from '../dist/app.js';

const [port] = await freePorts(1);
const database = await startMariaDb({ dataDir: process.argv[2], port, fast: true }).ready;
try {
  const running = await createApp(
    {
      ...{ port: 0, host: '127.0.0.1', loopback: true, dbUrl: database.url, demo: true, demoYear: null, mayseed: true },
      ...{ sim: null, linkAllow: [], hosts: [], behindTls: false, tls: null, webDir: null, logLevel: 'silent' },
    },
    pino({ level: 'silent' }),
  );
  await running.close();
  database.seeded();
} finally {
  await database.stop();
}
