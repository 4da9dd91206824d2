import { type ChildProcess, fork } from 'node:child_process';
import { once } from 'node:events';
import { type AddressInfo, connect, createServer, type Server } from 'node:net';
import { join } from 'node:path';
import { afterEach, describe, expect, test } from '@jest/globals';

const MAIN = join(__dirname, '../dist/process/main.js');
let held: Server | null = null;
let child: ChildProcess | null = null;
afterEach(() => {
  child?.kill('SIGKILL');
  held?.close();
});

/** A port that somebody else has. */
async function taken(): Promise<number> {
  held = createServer().listen(0, '127.0.0.1');
  await once(held, 'listening');
  return (held.address() as AddressInfo).port;
}
async function free(): Promise<number> {
  const { freePorts } = await import('../../../scripts/lib/ports.mjs' as string);
  return (await freePorts(1))[0];
}
const answers = (port: number) =>
  new Promise<boolean>((done) => {
    const c = connect(port, '127.0.0.1', () => {
      c.destroy();
      done(true);
    });
    c.on('error', () => done(false));
  });

describe('the simulated vehicle as a process, waiting for a port that another has', () => {
  test.each([
    ['its start has gone', (c: ChildProcess) => c.disconnect()],
    ['SIGTERM', (c: ChildProcess) => c.kill('SIGTERM')],
    ['SIGINT', (c: ChildProcess) => c.kill('SIGINT')],
  ])('%s: it ends, and never takes the port', async (_, end) => {
    const [simPort, controlPort] = [await free(), await taken()];
    child = fork(MAIN, [], {
      env: {
        ...process.env,
        JB_SIM_PORT: String(simPort),
        JB_SIM_CONTROL_PORT: String(controlPort),
        JB_SIM_TOKEN: 'a token of the tests',
      },
      stdio: ['ignore', 'inherit', 'inherit', 'ipc'],
    });
    const ended = once(child, 'exit');
    // One of its ports is open: it is at the other.
    while (!(await answers(simPort))) await new Promise((r) => setTimeout(r, 50));
    end(child);
    expect((await ended)[0]).toBe(0);
    expect(await answers(simPort)).toBe(false);
  });
});
