/** The shop: a hand-over as PDF, an archive with twenty pictures, the first load of the page, the demo year. */
import { randomUUID } from 'node:crypto';
import { existsSync, mkdtempSync, readFileSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { gzipSync } from 'node:zlib';
import sharp from 'sharp';
import { ROOT } from '../scripts/lib/build.mjs';
import { freePorts } from '../scripts/lib/ports.mjs';
import { startStack } from '../scripts/lib/stack.mjs';

const seconds = (ms) => `${(ms / 1000).toFixed(2)} s`;

/** A stack with or without the year: how long the server took to stand, and what to ask it with. */
async function started(year, stops) {
  const dataDir = mkdtempSync(join(tmpdir(), 'jb-bench-shop-'));
  stops.push(async () => rmSync(dataDir, { recursive: true, force: true }));
  const [web, sim, db, control] = await freePorts(4);
  let stood = 0;
  const parts = { 'simulated vehicle': 0, server: 0 };
  await startStack({
    dataDir,
    ports: { web, sim, db, control },
    demo: true,
    year,
    host: '127.0.0.1',
    log: 'silent',
    stops,
    part: (what) => {
      parts[what] = performance.now();
    },
  });
  // The server seeds before it stands; it is started once the vehicle does.
  stood = parts.server - parts['simulated vehicle'];
  return { base: `http://127.0.0.1:${web}`, ms: stood };
}

const best = async (n, f) => {
  const all = [];
  for (let i = 0; i < n; i++) {
    const from = performance.now();
    await f();
    all.push(performance.now() - from);
  }
  return all.sort((a, b) => a - b)[Math.floor(n / 2)];
};

/** Script and style files a page asks for until it asks for no more, as bytes packed for the wire. */
async function firstLoad(browser, url, text) {
  await browser.driver.get(url);
  await browser.text(text);
  const asked = () =>
    browser.driver.executeScript(
      "return performance.getEntriesByType('resource').map((e) => e.name).filter((n) => /\\.(js|css)(\\?|$)/.test(n))",
    );
  let files = await asked();
  for (let before = -1; before < files.length; files = await asked()) {
    before = files.length;
    await new Promise((done) => setTimeout(done, 1_000));
  }
  const pages = [...new Set(files.map((f) => new URL(f).pathname))]
    .map((path) => join(ROOT, 'apps/web/dist', path))
    .concat(join(ROOT, 'apps/web/dist/index.html'))
    .filter((file) => existsSync(file));
  return { files: pages.length, packed: pages.reduce((sum, file) => sum + gzipSync(readFileSync(file)).length, 0) };
}

export async function measure() {
  const rows = [];
  const stops = [];
  const end = async () => {
    for (const s of stops.splice(0).reverse()) await s().catch(() => {});
  };
  try {
    const small = await started(false, stops);
    await end();
    const { base, ms } = await started(true, stops);
    rows.push({
      what: 'shop: demo year loaded (275 jobs) with the start of the server',
      ours: seconds(ms),
      reference: `${seconds(small.ms)} (the same start with four jobs)`,
      ratio: `${(ms / small.ms).toFixed(1)}×`,
      aim: 'under 10 s',
    });
    const signed = await fetch(`${base}/api/session`, {
      method: 'POST',
      headers: { 'content-type': 'application/json' },
      body: JSON.stringify({ email: 'okafor@linden.example', password: 'bench-demo-1' }),
    });
    const cookie = signed.headers
      .getSetCookie()
      .map((c) => c.split(';')[0])
      .join('; ');
    const ask = async (path, init = {}) => {
      const r = await fetch(`${base}/api${path}`, { ...init, headers: { cookie, ...init.headers } });
      if (!r.ok) throw new Error(`${path}: ${r.status} ${await r.text()}`);
      return Buffer.from(await r.arrayBuffer());
    };
    const jobs = JSON.parse((await ask('/jobs?status=open&limit=50')).toString());
    const job = jobs.filter((j) => j.counts.after >= 2).at(-1) ?? jobs.at(-1);
    const noise = { type: 'gaussian', mean: 128, sigma: 30 };
    const photo = await sharp({ create: { width: 2560, height: 1920, channels: 3, background: '#777', noise } })
      .jpeg()
      .toBuffer();
    for (let i = 0; i < 20; i++)
      await ask(`/jobs/${job.id}/photos/${randomUUID()}?label=part%20${i}`, {
        method: 'PUT',
        body: photo,
        headers: { 'content-type': 'image/jpeg' },
      });
    const exported = await best(5, () => ask(`/jobs/${job.id}/export`));
    for (const document of ['customer', 'technician']) {
      await ask(`/jobs/${job.id}/hand-over/${document}`);
      const pdf = await best(7, () => ask(`/jobs/${job.id}/hand-over/${document}`));
      rows.push({
        what: `shop: hand-over as PDF, ${document}${document === 'technician' ? ', 20 pictures' : ''}`,
        ours: seconds(pdf),
        reference: `${seconds(exported)} (the same job as JSON)`,
        ratio: `${(pdf / exported).toFixed(1)}×`,
        aim: 'under 1 s',
      });
    }
    let size = 0;
    const archive = await best(3, async () => {
      size = (await ask(`/jobs/${job.id}/archive`)).length;
    });
    rows.push({
      what: `shop: archive of a job with 20 pictures, ${(size / 1e6).toFixed(0)} MB`,
      ours: seconds(archive),
      reference: `${seconds(exported)} (the same job as JSON, without pictures)`,
      ratio: `${(archive / exported).toFixed(1)}×`,
      aim: 'under 2 s',
    });

    const { openBrowser } = await import('../scripts/lib/browser.mjs');
    const browser = await openBrowser(base);
    stops.push(() => browser.close());
    await browser.size(1280, 800);
    await browser.go('/');
    await browser.press('R. Okafor');
    await browser.text('Everyone');
    await browser.forget(base).catch(() => {});
    await browser.go('/');
    await browser.press('R. Okafor');
    await browser.text('Everyone');
    // As at a next visit with an empty cache: what comes over the wire until the board can be pressed.
    await browser.devTools('Network.enable', {});
    await browser.devTools('Network.clearBrowserCache', {});
    const from = performance.now();
    await browser.driver.get(`${base}/`);
    await browser.text('Everyone');
    const interactive = performance.now() - from;
    // Stations not opened come when the page is idle: here it never is, so only what is needed is counted.
    await browser.devTools('Page.addScriptToEvaluateOnNewDocument', {
      source: 'window.requestIdleCallback = () => 0',
    });
    const reactDom = gzipSync(
      readFileSync(join(ROOT, 'node_modules/react-dom/cjs/react-dom-client.production.js')),
    ).length;
    for (const [what, path, text, aim] of [
      ['the board', '/', 'Everyone', 'under 200 kB'],
      ['a job at its complaint', `/jobs/${job.id}/complaint`, 'Complaint', 'under 280 kB'],
      ['a job in service', `/jobs/${job.id}/service`, 'Service', 'under 280 kB'],
    ]) {
      const { files, packed } = await firstLoad(browser, `${base}${path}`, text);
      rows.push({
        what: `shop: first load of ${what}, ${files} files, gzip`,
        ours: `${(packed / 1000).toFixed(0)} kB`,
        reference: `${(reactDom / 1000).toFixed(0)} kB (the page library's own renderer alone)`,
        ratio: `${(packed / reactDom).toFixed(1)}×`,
        aim,
      });
    }
    const bare = await best(5, () => fetch(`${base}/`).then((r) => r.text()));
    rows.push({
      what: 'shop: empty cache to a board that can be pressed',
      ours: seconds(interactive),
      reference: `${bare.toFixed(1)} ms (its first file alone)`,
      ratio: `${(interactive / bare).toFixed(0)}×`,
      aim: 'within 1 s',
    });
  } finally {
    await end();
  }
  return rows;
}
