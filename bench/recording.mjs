import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { performance } from 'node:perf_hooks';
import { deflateSync, gzipSync, inflateSync } from 'node:zlib';
import { QUANTUM } from '@just-balance/core/obd';
import { decodeColumn, encodeColumn, pyramid, reduce } from '@just-balance/core/series';
import { Car, carById } from '@just-balance/vehicle';
import { freePorts } from '../scripts/lib/ports.mjs';
import { startStack } from '../scripts/lib/stack.mjs';

const CHANNELS = 20;

/** One hour of a driven car at 10 Hz, every channel it reports. */
function hour() {
  const car = new Car(carById('aldwin-30'), { baroKPa: 99.1, airC: 18 }, 5);
  car.start();
  car.warmUp();
  const columns = new Map();
  for (let i = 0; i < 36_000; i++) {
    if (i % 600 === 0) {
      const k = (i / 600) % 4;
      car.do(k === 0 ? { do: 'idle' } : k === 1 ? { do: 'hold', rpm: 2500 } : { do: 'speed', kmh: 40 + 15 * k }, 0);
    }
    car.run(0.1);
    for (const [id, v] of Object.entries(car.values())) {
      if (typeof v !== 'number') continue;
      if (!columns.has(id)) columns.set(id, new Float64Array(36_000));
      // As the wire carries it: in the standard's steps.
      const q = QUANTUM.get(id) ?? 0.001;
      columns.get(id)[i] = Math.round(v / q) * q;
    }
  }
  return [...columns].slice(0, CHANNELS);
}

const p95 = (list) => [...list].sort((a, b) => a - b)[Math.floor(0.95 * (list.length - 1))];

async function storage() {
  const columns = hour();
  const time = Float64Array.from({ length: 36_000 }, (_, i) => i / 10 + ((i * 7919) % 11) / 1000);
  const stored = columns.map(([, value]) => deflateSync(encodeColumn({ time, value })));
  const bytes = stored.reduce((s, b) => s + b.length, 0);
  const lines = [`time,${columns.map(([id]) => id).join(',')}`];
  for (let i = 0; i < 36_000; i++) lines.push([time[i], ...columns.map(([, v]) => v[i])].join(','));
  const csv = gzipSync(lines.join('\n'));
  const reads = Array.from({ length: 15 }, () => {
    const from = performance.now();
    for (const b of stored) {
      const c = decodeColumn(inflateSync(b));
      reduce({ time: c.time, value: c.value, levels: pyramid(c.time, c.value) }, 0, 3600, 400);
    }
    return performance.now() - from;
  });
  const parse = performance.now();
  for (const l of lines.slice(1)) for (const cell of l.split(',')) Number(cell);
  const parsed = performance.now() - parse;
  return [
    {
      what: `recording stored, 1 h × ${columns.length} channels × 10 Hz`,
      ours: `${(bytes / 1024).toFixed(0)} kB`,
      reference: `the same as gzipped CSV ${(csv.length / 1024).toFixed(0)} kB`,
      ratio: `${(bytes / csv.length).toFixed(2)}×`,
      aim: '≤ 1,024 kB',
    },
    {
      what: 'the same read back and reduced for display',
      ours: `p95 ${p95(reads).toFixed(0)} ms`,
      reference: `splitting the CSV's text into numbers ${parsed.toFixed(0)} ms`,
      ratio: `${(p95(reads) / parsed).toFixed(2)}×`,
      aim: '≤ 100 ms',
    },
  ];
}

/** Two hours, twelve channels, in the real page: six strips moved through with the keys. */
async function redraw() {
  const dataDir = mkdtempSync(join(tmpdir(), 'jb-bench-'));
  const stops = [];
  try {
    const [web, sim, db, control] = await freePorts(4);
    await startStack({ dataDir, ports: { web, sim, db, control }, demo: true, host: '127.0.0.1', fast: true, stops });
    const { openBrowser } = await import('../scripts/lib/browser.mjs');
    const browser = await openBrowser(`http://127.0.0.1:${web}`);
    stops.push(() => browser.close());
    const { By } = await import('selenium-webdriver');
    await browser.size(1280, 800);
    await browser.go('/');
    await browser.press('R. Okafor');
    await browser.text('Everyone');
    const [job] = await browser.json('/api/jobs');
    const cookie = (await browser.driver.manage().getCookies()).map((c) => `${c.name}=${c.value}`).join('; ');
    const at = `http://127.0.0.1:${web}/api/jobs/${job.id}/imports`;
    const id = randomUUID();
    const ask = async (method, path, body, type = 'application/json') => {
      const r = await fetch(at + path, { method, body, headers: { cookie, 'content-type': type } });
      if (!r.ok) throw new Error(`${method} ${path}: ${r.status} ${await r.text()}`);
    };
    const summary = { rows: 0, problemCount: 0, problems: [], leftOut: [] };
    await ask('POST', '', JSON.stringify({ id, phase: 'before', name: 'two hours', summary }));
    const ids = ['rpm', 'maf', 'map', 'stft1', 'ltft1', 'o2s11', 'ect', 'iat', 'vss', 'load', 'tp', 'vbat'];
    const time = Float64Array.from({ length: 72_000 }, (_, i) => i / 10);
    for (const [k, c] of ids.entries()) {
      const value = time.map((t) => Math.round(400 * Math.sin(t / (7 + k)) + 90 * Math.sin(t * (1 + k))) / 8 + 60);
      const body = deflateSync(encodeColumn({ time, value }));
      await ask('PUT', `/${id}/columns/${c}?part=0&unit=x`, body, 'application/octet-stream');
    }
    const parts = Object.fromEntries(ids.map((c) => [c, 1]));
    await ask('POST', `/${id}/finish`, JSON.stringify({ parts, marks: [], readings: [] }));
    const moves = async (strips) => {
      await browser.driver.executeScript('performance.clearMeasures()');
      const traces = await browser.find(By.css('[aria-label^="Traces over time"]'));
      for (const keys of [
        '+++',
        '0',
        '++',
        '\uE012\uE012\uE012',
        '---',
        '+\uE014\uE014',
        '0',
        '+++++',
        '\uE014\uE014',
        '--',
        '0',
      ])
        for (const key of keys) await traces.sendKeys(key);
      const list = await browser.driver.executeScript(
        'return performance.getEntriesByName("jb-redraw", "measure").map((m) => m.duration)',
      );
      if (process.env.JB_SHOW) console.error(list.map((x) => x.toFixed(0)).join(' '));
      if (list.length < 20) throw new Error(`only ${list.length} redraws of ${strips} strips were seen`);
      return list;
    };
    await browser.go(`/jobs/${job.id}/readings?recording=${id}`);
    await browser.text('Figures of the part shown');
    await browser.find(By.css('[role="tabpanel"][aria-busy="false"]'));
    await browser.settle();
    await browser.press('Coolant', 'button[aria-pressed]');
    await browser.settle();
    const shown = await browser.driver.executeScript(
      'return document.querySelectorAll("[aria-label^=\\"Traces over time\\"]")[0].previousElementSibling.children.length',
    );
    const six = await moves(shown);
    const off = await browser.driver.findElements(By.css('button[aria-pressed="true"]'));
    for (const el of off.slice(1)) {
      await browser.driver.executeScript('arguments[0].scrollIntoView({block: "center"})', el);
      await el.click();
    }
    const one = await moves(1);
    return [
      {
        what: `${shown} strips of 2 h × 12 channels redrawn in the page`,
        ours: `p95 ${p95(six).toFixed(0)} ms of ${six.length}`,
        reference: `one strip of it, p95 ${p95(one).toFixed(0)} ms`,
        ratio: `${(p95(six) / p95(one)).toFixed(1)}×`,
        aim: '≤ 40 ms',
      },
    ];
  } finally {
    for (const stop of stops.reverse()) await stop().catch(() => {});
    rmSync(dataDir, { recursive: true, force: true });
  }
}

/** Recordings: stored, read back, drawn. */
export async function measure() {
  return [...(await storage()), ...(await redraw())];
}
