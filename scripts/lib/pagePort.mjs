import { spawn } from 'node:child_process';
import { randomBytes } from 'node:crypto';
import { connect } from 'node:net';
import { join } from 'node:path';
import { WebSocketServer } from 'ws';
import { freePorts } from './ports.mjs';

/** Web Serial as the standard has it, over a socket: what the page is given before its own scripts run. */
const serial = (url) => `
  (() => {
    class Port {
      readable = null;
      writable = null;
      async open() {
        if (this.readable) throw new DOMException('The port is already open.', 'InvalidStateError');
        const ws = new WebSocket(${JSON.stringify(url)});
        ws.binaryType = 'arraybuffer';
        await new Promise((ok, no) => {
          ws.onopen = ok;
          ws.onerror = () => no(new DOMException('Failed to open serial port.', 'NetworkError'));
        });
        this.ws = ws;
        this.readable = new ReadableStream({
          start(c) {
            ws.onmessage = (e) => {
              const bytes = new Uint8Array(e.data);
              window.heardBytes?.(bytes);
              c.enqueue(bytes);
            };
            ws.onclose = () => { try { c.error(new DOMException('The device has been lost.', 'NetworkError')); } catch {} };
          },
        });
        this.writable = new WritableStream({ write: (b) => ws.send(b) });
      }
      async close() {
        this.ws?.close();
        this.readable = null;
        this.writable = null;
      }
    }
    const port = new Port();
    const granted = () => localStorage.getItem('test-serial') === 'granted';
    Object.defineProperty(navigator, 'serial', {
      value: {
        requestPort: async () => (localStorage.setItem('test-serial', 'granted'), port),
        getPorts: async () => (granted() ? [port] : []),
      },
    });
  })();`;

/** A simulated vehicle of its own, and a serial port of the page that is wired to it. */
export async function pagePort(browser) {
  const [sim, control, bridge] = await freePorts(3);
  const token = randomBytes(16).toString('hex');
  const main = join(import.meta.dirname, '../../packages/vehicle/dist/process/main.js');
  const process_ = spawn(process.execPath, [main], {
    env: { ...process.env, JB_SIM_PORT: `${sim}`, JB_SIM_CONTROL_PORT: `${control}`, JB_SIM_TOKEN: token },
    stdio: 'ignore',
  });
  const wires = new WebSocketServer({ host: '127.0.0.1', port: bridge });
  let plugged = true;
  wires.on('connection', (ws) => {
    if (!plugged) {
      ws.terminate();
      return;
    }
    const tcp = connect(sim, '127.0.0.1');
    tcp.on('data', (d) => ws.send(d));
    tcp.on('close', () => ws.close());
    tcp.on('error', () => ws.terminate());
    ws.on('message', (d) => tcp.write(d));
    ws.on('close', () => tcp.destroy());
  });
  /** One command to bay 1. Throws what the vehicle refuses it for. */
  const vehicle = (command) =>
    new Promise((resolve, reject) => {
      const socket = connect(control, '127.0.0.1');
      let text = '';
      let said = 0;
      const send = (c) => socket.write(`${JSON.stringify(c)}\n`);
      socket.on('error', reject);
      socket.on('data', (d) => {
        text += d;
        for (let end = text.indexOf('\n'); end >= 0; end = text.indexOf('\n')) {
          const reply = JSON.parse(text.slice(0, end));
          text = text.slice(end + 1);
          if (!reply.ok) reject(new Error(reply.error));
          else if (said++ === 0) send({ id: 2, bay: 1, ...command });
          else resolve(reply);
          if (!reply.ok || said > 1) socket.end();
        }
      });
      send({ id: 1, do: 'hello', token });
    });
  const deadline = Date.now() + 15_000;
  for (;;) {
    try {
      await vehicle({ do: 'rate', rate: 1 });
      break;
    } catch (e) {
      if (Date.now() > deadline) throw e;
      await new Promise((r) => setTimeout(r, 100));
    }
  }
  await browser.devTools('Page.setBypassCSP', { enabled: true });
  const source = serial(`ws://127.0.0.1:${bridge}`);
  const added = await browser.devTools('Page.addScriptToEvaluateOnNewDocument', { source });
  return {
    vehicle,
    /** Pull the plug, or put it back. */
    plugged(on) {
      plugged = on;
      if (!on) for (const c of wires.clients) c.terminate();
    },
    async stop() {
      await browser.devTools('Page.removeScriptToEvaluateOnNewDocument', added);
      await browser.devTools('Page.setBypassCSP', { enabled: false });
      for (const c of wires.clients) c.terminate();
      await new Promise((r) => wires.close(r));
      const ended = new Promise((r) => process_.once('exit', r));
      process_.kill();
      await ended;
    },
  };
}
