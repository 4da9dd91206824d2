/** The simulated vehicle in a process of its own, and all that passes on its way. */
import { fork } from 'node:child_process';
import { once } from 'node:events';
import { connect, createServer } from 'node:net';
import { join } from 'node:path';
import { ROOT } from '../lib/build.mjs';
import { freePorts } from '../lib/ports.mjs';

/**
 * Runs `use` with the port of a vehicle. Gives its result, what was sent to the vehicle and what the vehicle sent, with
 * the second of each piece.
 */
export async function withCar(use) {
  const [sim, control, between] = await freePorts(3);
  const car = fork(join(ROOT, 'packages/vehicle/dist/process/main.js'), [], {
    env: {
      ...process.env,
      JB_SIM_PORT: String(sim),
      JB_SIM_CONTROL_PORT: String(control),
      JB_SIM_TOKEN: 'token of the peers run',
      JB_DEMO: '1',
    },
    stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
  });
  let sent = '';
  const came = [];
  const server = createServer((client) => {
    const vehicle = connect(sim, '127.0.0.1');
    client.on('data', (d) => {
      sent += d.toString('latin1');
      vehicle.write(d);
    });
    vehicle.on('data', (d) => {
      came.push({ atS: Date.now() / 1000, text: d.toString('latin1') });
      client.write(d);
    });
    client.on('close', () => vehicle.destroy());
    for (const s of [client, vehicle]) s.on('error', () => {});
  });
  try {
    await once(car, 'message');
    server.listen(between, '127.0.0.1');
    await once(server, 'listening');
    return { result: await use(between), sent, came };
  } finally {
    server.close();
    car.kill('SIGTERM');
  }
}
