import { fork } from 'node:child_process';
import { join } from 'node:path';
import { ROOT } from '../lib/build.mjs';
import { patient } from '../lib/patience.cjs';
import { freePorts } from '../lib/ports.mjs';

const GONE_MS = patient(20_000);
/** After its start, ms: while its modules are read, while it begins, and when it stands. */
const MOMENTS_MS = [0, 60, 200, 1500];

/** Vehicle and server whose start script is gone, however early: neither may stay behind and keep its port. */
export async function orphans({ short, stops, failures }) {
  const [web, sim, db, control] = await freePorts(4);
  const env = {
    ...process.env,
    JB_PORT: String(web),
    JB_SIM_PORT: String(sim),
    JB_SIM_CONTROL_PORT: String(control),
    JB_SIM_TOKEN: 'x'.repeat(24),
    JB_DB_URL: `mariadb://jb:x@127.0.0.1:${db}/just_balance`,
    JB_LOG: 'silent',
  };
  let count = 0;
  for (const file of ['packages/vehicle/dist/process/main.js', 'apps/server/dist/main.js'])
    for (const moment of short ? [0, 200] : MOMENTS_MS) {
      const child = fork(join(ROOT, file), [], { env, stdio: ['ignore', 'ignore', 'ignore', 'ipc'] });
      const exited = new Promise((r) => child.once('exit', () => r(true)));
      stops.push(async () => void child.kill('SIGKILL'));
      await new Promise((r) => setTimeout(r, moment));
      if (child.connected) child.disconnect();
      let timer;
      const late = new Promise((r) => {
        timer = setTimeout(() => r(false), GONE_MS);
      });
      if (!(await Promise.race([exited, late])))
        failures.push(`${file}: still there ${GONE_MS / 1000} s after it was left at ${moment} ms`);
      clearTimeout(timer);
      count++;
    }
  return `${count} times left alone, ${failures.length} stayed`;
}
