/** Service: where a run of many events stands, a large photo prepared in the browser, two hundred pictures listed. */

import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { runState, SHIPPED_PROCEDURES } from '@just-balance/core/procedures';
import { By } from 'selenium-webdriver';
import sharp from 'sharp';
import { freePorts } from '../scripts/lib/ports.mjs';
import { startStack } from '../scripts/lib/stack.mjs';

const p95 = (list) => list.toSorted((a, b) => a - b)[Math.floor(0.95 * (list.length - 1))];
const times = (n, f) =>
  Array.from({ length: n }, () => {
    const from = performance.now();
    f();
    return performance.now() - from;
  });

/** A thousand events over one procedure: steps done and opened again, timers, things taken off. */
function events(procedure) {
  const out = [];
  for (let i = 0; i < 1000; i++) {
    const step = procedure.steps[i % procedure.steps.length];
    const round = Math.floor(i / (2 * procedure.steps.length));
    const what =
      i % 2 === 0
        ? { kind: 'done', step: step.id, round, answer: step.answers?.[0]?.text, value: 1, reason: 'x' }
        : { kind: 'reopened', step: step.id };
    out.push({ id: `e${String(i).padStart(5, '0')}`, atMs: 1_700_000_000_000 + i * 1000, by: 'x', what });
  }
  return out;
}

export async function measure() {
  const rows = [];
  const procedure = SHIPPED_PROCEDURES[0];
  const list = events(procedure);
  const text = JSON.stringify(list);
  times(20, () => runState(procedure, list));
  const state = p95(times(60, () => runState(procedure, list)));
  const parse = p95(times(60, () => JSON.parse(text)));
  rows.push({
    what: 'service: state from 1,000 events, p95',
    ours: `${state.toFixed(2)} ms`,
    reference: `${parse.toFixed(2)} ms (reading their JSON)`,
    ratio: `${(state / parse).toFixed(2)}×`,
    aim: 'under 8 ms',
  });

  const stops = [];
  const dataDir = mkdtempSync(join(tmpdir(), 'jb-bench-service-'));
  try {
    const [web, sim, db, control] = await freePorts(4);
    await startStack({ dataDir, ports: { web, sim, db, control }, demo: true, host: '127.0.0.1', fast: true, stops });
    const { openBrowser } = await import('../scripts/lib/browser.mjs');
    const browser = await openBrowser(`http://127.0.0.1:${web}`);
    stops.push(() => browser.close());
    await browser.size(1280, 800);
    await browser.go('/');
    await browser.press('R. Okafor');
    await browser.text('Everyone');
    const [job] = await browser.json('/api/jobs');
    const cookie = (await browser.driver.manage().getCookies()).map((c) => `${c.name}=${c.value}`).join('; ');

    // Twelve megapixels of grain, as a camera gives them.
    const noise = { type: 'gaussian', mean: 128, sigma: 30 };
    const photo = join(dataDir, 'photo.jpg');
    await sharp({ create: { width: 4000, height: 3000, channels: 3, background: '#777', noise } })
      .jpeg()
      .toFile(photo);
    await browser.go(`/jobs/${job.id}/service`);
    await browser.press('Pictures', '[role="tab"]');
    const input = await browser.find(By.css('main input[type="file"]'));
    const took = [];
    for (let i = 0; i < 3; i++) {
      const from = performance.now();
      await input.sendKeys(photo);
      await browser.driver.wait(async () => (await browser.json(`/api/jobs/${job.id}/photos`)).length > i, 60_000);
      took.push(performance.now() - from);
    }
    const alone = performance.now();
    await sharp(photo).rotate().resize(2400, 2400, { fit: 'inside' }).jpeg({ quality: 85 }).toBuffer();
    const reference = performance.now() - alone;
    const best = Math.min(...took);
    rows.push({
      what: 'service: 12-megapixel photo chosen, reduced, sent and kept',
      ours: `${(best / 1000).toFixed(2)} s`,
      reference: `${(reference / 1000).toFixed(2)} s (sharp, once)`,
      ratio: `${(best / reference).toFixed(2)}×`,
      aim: 'under 5 s',
    });

    const small = await sharp({ create: { width: 640, height: 480, channels: 3, background: '#557' } })
      .jpeg()
      .toBuffer();
    writeFileSync(join(dataDir, 'small.jpg'), small);
    const headers = { cookie, 'content-type': 'image/jpeg' };
    for (let i = 3; i < 200; i++) {
      const r = await fetch(`http://127.0.0.1:${web}/api/jobs/${job.id}/photos/${randomUUID()}?label=p${i}`, {
        method: 'PUT',
        headers,
        body: small,
      });
      if (!r.ok) throw new Error(`photo: ${r.status} ${await r.text()}`);
    }
    const ask = async (path) => {
      const from = performance.now();
      const r = await fetch(`http://127.0.0.1:${web}/api${path}`, { headers: { cookie } });
      const { length } = await r.text();
      return { ms: performance.now() - from, length };
    };
    const listed = [];
    const health = [];
    for (let i = 0; i < 40; i++) {
      listed.push((await ask(`/jobs/${job.id}/photos`)).ms);
      health.push((await ask('/health')).ms);
    }
    rows.push({
      what: 'service: 200 photos listed, p95',
      ours: `${p95(listed).toFixed(1)} ms`,
      reference: `${p95(health).toFixed(1)} ms (health)`,
      ratio: `${(p95(listed) / p95(health)).toFixed(2)}×`,
      aim: 'under 50 ms',
    });
  } finally {
    for (const stop of stops.reverse()) await stop().catch(() => {});
    rmSync(dataDir, { recursive: true, force: true });
  }
  return rows;
}
