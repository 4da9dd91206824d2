import { timingSafeEqual } from 'node:crypto';
import { createServer, type Server, type Socket } from 'node:net';
import { createInterface } from 'node:readline';
import { setImmediate } from 'node:timers/promises';
import { carById, driven, examine, SlcanPort } from '../index.ts';
import { Bay } from './bay.ts';
import { type ControlCommand, type ControlReply, readCommand } from './control.ts';

/**
 * The simulated vehicle as a process of its own: slcan over TCP on JB_SIM_PORT, control as JSON lines on
 * JB_SIM_CONTROL_PORT, both on loopback only. An slcan connection sees bay 1 unless the control channel plugs it
 * (by its client port) into another bay: one port, several bays, nothing added to slcan.
 */
const HOST = '127.0.0.1';
const TICK_MS = 20;

for (const kind of ['unhandledRejection', 'uncaughtException'] as const)
  process.on(kind, (e: unknown) => {
    process.stderr.write(`simulated vehicle: ${kind}: ${e instanceof Error ? e.stack : String(e)}\n`);
    process.exit(70);
  });

const PORT_TRIES = 30;
const PORT_WAIT_MS = 300;
/** Longest line of the control channel, bytes. */
const MAX_LINE = 4096;

const simPort = Number(process.env.JB_SIM_PORT ?? 4320);
const controlPort = Number(process.env.JB_SIM_CONTROL_PORT ?? 4321);
const token = process.env.JB_SIM_TOKEN ?? '';
if (token.length < 16) {
  process.stderr.write('simulated vehicle: JB_SIM_TOKEN is missing; the start script makes one\n');
  process.exit(2);
}
/** Tests that want a car in order say so. */
const inOrder = process.env.JB_SIM_IN_ORDER === '1';

const bays = new Map<number, Bay>([
  [1, new Bay(1, carById('quillon-18'), { baroKPa: 99.1, airC: 18 }, 11)],
  [2, new Bay(2, carById('aldwin-30'), { baroKPa: 99.1, airC: 18 }, 23)],
  [3, new Bay(3, carById('dunmore-16'), { baroKPa: 99.1, airC: 18 }, 37)],
]);
// The first car answers at once, whoever comes to it, and has something to find: in an empty shop too.
const first = bays.get(1)!.car;
if (!inOrder) first.inject({ id: 'vac-leak', severity: 0.34 });
first.start();
first.warmUp();
first.settle();

const clients = new Map<number, { port: SlcanPort; bay: Bay; move: (bay: Bay) => void }>();

const slcan = createServer((socket) => {
  const key = socket.remotePort ?? 0;
  let bay = bays.get(1)!;
  const port = new SlcanPort(
    (text) => socket.writableLength < 1 << 20 && socket.write(text, 'latin1'),
    (frame) => bay.transmit(frame, port),
  );
  const move = (to: Bay) => {
    bay.listeners.delete(port);
    bay = to;
    bay.listeners.add(port);
  };
  bay.listeners.add(port);
  clients.set(key, { port, bay, move });
  const gone = () => {
    bay.listeners.delete(port);
    clients.delete(key);
  };
  socket.setNoDelay(true);
  socket.on('data', (d) => {
    try {
      port.feed(d.toString('latin1'));
    } catch {
      socket.destroy();
    }
  });
  socket.on('close', gone);
  socket.on('error', gone);
});

const control = createServer((socket) => {
  let trusted = false;
  let open = 0;
  // A line without an end must not fill the memory.
  socket.on('data', (d: Buffer) => {
    const end = d.lastIndexOf(0x0a);
    open = end < 0 ? open + d.length : d.length - end - 1;
    if (open > MAX_LINE) socket.destroy();
  });
  const lines = createInterface({ input: socket });
  socket.on('error', () => socket.destroy());
  lines.on('line', (line) => {
    if (socket.destroyed) return;
    if (line.length > MAX_LINE) return socket.destroy();
    const command = readCommand(line);
    if (!trusted) {
      trusted = command.do === 'hello' && sameToken(command.token);
      if (!trusted) return socket.end(`${JSON.stringify({ ok: false, error: 'say hello with the token first' })}\n`);
      return socket.write(`${JSON.stringify({ id: command.id, ok: true })}\n`);
    }
    const say = (reply: ControlReply) => socket.write(`${JSON.stringify({ id: command.id, ...reply })}\n`);
    if (command.do === 'drive') void drive(command).then(say);
    else say(perform(command));
  });
});

function sameToken(given: unknown): boolean {
  if (typeof given !== 'string') return false;
  const a = Buffer.from(given);
  const b = Buffer.from(token);
  return a.length === b.length && timingSafeEqual(a, b);
}

/** Rows of a drive before the bays get their turn: about ten milliseconds. */
const ROWS_A_TURN = 60;

/** A drive on a car of its own, as fast as it goes; whoever captures in a bay meanwhile must not notice. */
async function drive({ car, script }: ControlCommand): Promise<ControlReply> {
  try {
    if (!car || !script) return { ok: false, error: 'drive needs a car and a road script' };
    const rows = driven(car.vehicle, script, car.seed);
    for (let n = 1; ; n++) {
      const row = rows.next();
      if (row.done) return { ok: true, result: row.value };
      if (n % ROWS_A_TURN === 0) await setImmediate();
    }
  } catch (e) {
    return { ok: false, error: (e as Error).message };
  }
}

function perform(c: ReturnType<typeof readCommand>): ControlReply {
  if (c.do === 'bays') return { ok: true, bays: [...bays.values()].map((b) => b.view()) };
  if (c.do === 'plug') {
    const client = clients.get(c.clientPort ?? -1);
    const to = bays.get(c.bay ?? -1);
    if (!client || !to) return { ok: false, error: 'no such connection or bay' };
    client.move(to);
    return { ok: true };
  }
  if (c.do === 'examine') {
    try {
      if (!c.car || !c.ask) return { ok: false, error: 'examine needs a car and a question' };
      return { ok: true, result: examine(c.car, c.ask) };
    } catch (e) {
      return { ok: false, error: (e as Error).message };
    }
  }
  const bay = bays.get(c.bay ?? -1);
  if (!bay) return { ok: false, error: `no bay ${c.bay}` };
  try {
    const result = bay.perform(c);
    return { ok: true, bays: [bay.view()], ...(result === undefined ? {} : { result }) };
  } catch (e) {
    return { ok: false, error: (e as Error).message };
  }
}

const timer = setInterval(() => {
  for (const b of bays.values()) b.advance(Number(process.hrtime.bigint() / 1000n));
}, TICK_MS);

/** One that is still stopping may hold the port for a moment. */
async function listen(server: Server, port: number, what: string): Promise<void> {
  for (let tries = 0; ; tries++) {
    const error = await new Promise<NodeJS.ErrnoException | null>((resolve) => {
      server.once('error', resolve);
      server.listen(port, HOST, () => {
        server.off('error', resolve);
        resolve(null);
      });
    });
    if (!error) return;
    if (error.code !== 'EADDRINUSE' || tries === PORT_TRIES)
      throw new Error(`${what}: port ${port}: ${error.code ?? error.message}`);
    await new Promise((r) => setTimeout(r, PORT_WAIT_MS));
  }
}

const sockets = new Set<Socket>();
for (const s of [slcan, control]) {
  s.on('connection', (c) => {
    sockets.add(c);
    c.on('close', () => sockets.delete(c));
  });
}

/** Ends in every state, also while it waits for a port: what lives on would take the port later, from whoever has it next. */
function shutDown(): never {
  clearInterval(timer);
  for (const c of sockets) c.destroy();
  process.exit(0);
}
process.on('SIGTERM', shutDown);
process.on('SIGINT', shutDown);
process.on('disconnect', shutDown);
// Whoever started us may have gone while our modules were still being read: nobody said so to us then.
if (process.send && !process.connected) shutDown();

Promise.all([listen(slcan, simPort, 'slcan'), listen(control, controlPort, 'control')]).then(
  () => {
    if (process.connected) process.send?.('ready');
  },
  (e: Error) => {
    process.stderr.write(`simulated vehicle: ${e.message}\n`);
    process.exit(1);
  },
);
