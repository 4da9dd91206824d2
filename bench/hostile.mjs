/** A server of its own under every body that no client of ours sends: its health meanwhile, and its memory at the most. */
import { randomUUID } from 'node:crypto';
import { once } from 'node:events';
import { mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { Tablet } from '../scripts/faults/client.mjs';
import { JSON_BODIES, uploads, YAML_BODIES } from '../scripts/lib/hostileBodies.mjs';
import { freePorts } from '../scripts/lib/ports.mjs';
import { startStack } from '../scripts/lib/stack.mjs';

const MIB = 1024 * 1024;
/** The most memory a process has had, MiB, by Linux's own count. */
const peakOf = (pid) => Number(/^VmHWM:\s+(\d+) kB$/m.exec(readFileSync(`/proc/${pid}/status`, 'utf8'))[1]) / 1024;
const worst = (list) => Math.max(...list);
const p99 = (list) => [...list].sort((a, b) => a - b)[Math.floor(0.99 * list.length)];

const PROBE = `
  const { parentPort, workerData } = require('node:worker_threads');
  const took = [];
  let over = false;
  parentPort.on('message', () => { over = true; });
  (async () => {
    while (!over) {
      const from = performance.now();
      await (await fetch(workerData)).text();
      took.push(performance.now() - from);
      await new Promise((done) => setTimeout(done, 5));
    }
    parentPort.postMessage(took);
  })();`;

export async function measure() {
  const stops = [];
  const dataDir = mkdtempSync(join(tmpdir(), 'jb-bench-hostile-'));
  stops.push(async () => rmSync(dataDir, { recursive: true, force: true }));
  try {
    const [web, sim, db, control] = await freePorts(4);
    let server = null;
    await startStack({
      ...{ dataDir, ports: { web, sim, db, control }, demo: true, host: '127.0.0.1', log: 'silent', stops },
      part: (what, child) => {
        if (what === 'server') server = child;
      },
    });
    const base = `http://127.0.0.1:${web}`;
    const me = await new Tablet(base).signIn();
    const jobId = await me.newJob();
    const bodies = await uploads();
    // From a thread of its own: what this one is busy with is not the server's.
    const health = () => {
      const worker = new Worker(PROBE, { eval: true, workerData: `${base}/api/health` });
      return async () => {
        worker.postMessage('enough');
        const [took] = await once(worker, 'message');
        await worker.terminate();
        return took;
      };
    };
    const rest = health();
    await new Promise((done) => setTimeout(done, 3000));
    const calm = await rest();
    const before = peakOf(server.pid);
    const beside = health();
    let bad = 0;
    let asked = 0;
    const send = async (method, path, type, body) => {
      const r = await fetch(`${base}/api${path}`, {
        method,
        headers: { cookie: me.cookie, 'content-type': type },
        body,
      });
      await r.arrayBuffer();
      asked++;
      if (r.status >= 500) bad++;
    };
    for (const [, text] of JSON_BODIES) await send('POST', `/jobs/${jobId}/readings`, 'application/json', text);
    for (const kind of ['service', 'drive', 'rule'])
      for (const [, text] of YAML_BODIES)
        await send('POST', '/procedures/file', 'application/json', JSON.stringify({ id: randomUUID(), kind, text }));
    for (const [, type, bytes] of bodies) {
      await send('POST', '/archives', type, bytes);
      await send('PUT', `/jobs/${jobId}/photos/${randomUUID()}`, type, bytes);
      await send('PUT', `/jobs/${jobId}/imports/${randomUUID()}/columns/rpm?part=0&unit=rpm`, type, bytes);
    }
    // Twenty strangers at once, with as much as they like.
    await Promise.all(
      Array.from({ length: 20 }, () =>
        fetch(`${base}/api/jobs/${jobId}/photos/${randomUUID()}`, {
          ...{ method: 'PUT', headers: { 'content-type': 'image/jpeg' }, body: Buffer.alloc(11 * MIB) },
        }).then(
          (r) => r.arrayBuffer(),
          () => {},
        ),
      ),
    );
    const took = await beside();
    return [
      {
        what: `hostile: health beside ${asked} bodies, the slowest (p99 ${p99(took).toFixed(0)} ms), ${bad} answered with a 5xx`,
        ours: `${worst(took).toFixed(0)} ms`,
        reference: `health at rest ${worst(calm).toFixed(0)} ms`,
        ratio: `${(worst(took) / worst(calm)).toFixed(1)}×`,
        aim: 'under 200 ms, none',
      },
      {
        what: 'hostile: memory of the server at the most',
        ours: `${peakOf(server.pid).toFixed(0)} MiB`,
        reference: `at rest ${before.toFixed(0)} MiB`,
        ratio: `${(peakOf(server.pid) / before).toFixed(2)}×`,
        aim: 'under 400 MB',
      },
    ];
  } finally {
    for (const s of stops.reverse()) await s().catch(() => {});
  }
}
