import { randomUUID } from 'node:crypto';
import { mkdtempSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { openBrowser } from '../scripts/lib/browser.mjs';
import { pagePort } from '../scripts/lib/pagePort.mjs';
import { freePorts } from '../scripts/lib/ports.mjs';
import { startStack } from '../scripts/lib/stack.mjs';

/** Wait for two painted frames: what an empty change costs on this machine. */
const TWO_FRAMES = `
  const done = arguments[0];
  const took = [];
  const once = () => {
    const from = performance.now();
    requestAnimationFrame(() => requestAnimationFrame(() => {
      took.push(performance.now() - from);
      if (took.length < 60) once();
      else done(took);
    }));
  };
  once();`;

/** From here on: when each speed came in as bytes (in an answer 41 … 0D), and when the page had painted it. */
const WATCH = `
  const came = new Map();
  window.latencies = [];
  const LENGTH = { 12: 2, 16: 2, 11: 1, 13: 1, 6: 1, 7: 1, 8: 1, 9: 1 };
  let line = '';
  let message = '';
  let wanted = 0;
  // ISO 15765-2: single, first and consecutive frames of 7E8, as hex digits.
  const frame = (hex) => {
    const kind = hex[0];
    if (kind === '0') message = hex.slice(2, 2 + 2 * Number.parseInt(hex[1], 16));
    else if (kind === '1') {
      wanted = 2 * Number.parseInt(hex.slice(1, 4), 16);
      message = hex.slice(4);
      return;
    } else if (kind === '2') {
      message += hex.slice(2);
      if (message.length < wanted) return;
      message = message.slice(0, wanted);
    }
    if (!message.startsWith('41')) return;
    for (let i = 2; i < message.length; ) {
      const pid = Number.parseInt(message.slice(i, i + 2), 16);
      if (!LENGTH[pid]) return;
      const v = String(Number.parseInt(message.slice(i + 2, i + 4), 16));
      if (pid === 13 && !came.has(v)) came.set(v, performance.now());
      i += 2 + 2 * LENGTH[pid];
    }
  };
  window.heardBytes = (bytes) => {
    for (const c of new TextDecoder().decode(bytes)) {
      if (c !== '\\r') {
        line += c;
        continue;
      }
      if (line.startsWith('t7E8')) frame(line.slice(5));
      line = '';
    }
  };
  const figure = document.querySelector('section[aria-label="Coach"] h1 ~ p > span.font-bold');
  new MutationObserver(() => {
    const v = figure.textContent;
    // The second callback comes once the first frame is on the screen.
    requestAnimationFrame(() => requestAnimationFrame(() => {
      const at = came.get(v);
      if (at !== undefined) window.latencies.push(performance.now() - at);
    }));
  }).observe(figure, { childList: true, characterData: true, subtree: true });`;

const median = (list) => list.toSorted((a, b) => a - b)[Math.floor(list.length / 2)];

/** The coach over an adapter at the tablet: a frame on the wire until its figure is painted. */
export async function measure() {
  const stops = [];
  const dataDir = mkdtempSync(join(tmpdir(), 'jb-bench-'));
  const [web, sim, db, control] = await freePorts(4);
  await startStack({ dataDir, ports: { web, sim, db, control }, demo: true, host: '127.0.0.1', fast: true, stops });
  const browser = await openBrowser(`http://127.0.0.1:${web}`);
  const port = await pagePort(browser);
  try {
    await browser.size(1280, 800);
    await browser.go('/');
    await browser.press('R. Okafor');
    await browser.text('Everyone');
    const id = randomUUID();
    const vehicle = { label: 'Quillon 1.8', fuel: 'petrol', metering: 'maf', displacementL: 1.8, cylinders: 4 };
    await browser.post('/jobs', {
      id,
      vehicleId: randomUUID(),
      vehicle: { ...vehicle, banks: 1, induction: 'na' },
      complaint: { story: '', symptoms: ['lamp-only'], recentWork: [] },
      ambient: {},
    });
    for (const c of ['idle', 'warm']) await port.vehicle({ do: c });
    await browser.go(`/jobs/${id}/readiness?coach`);
    await browser.press('Understood');
    await browser.press('Connect an adapter at this device');
    await browser.press('Start');
    await browser.text('steps done');
    await browser.driver.executeScript(WATCH);
    await port.vehicle({ do: 'speed', kmh: 110 });
    await new Promise((r) => setTimeout(r, 12_000));
    const took = await browser.driver.executeScript('return window.latencies');
    const frames = await browser.driver.executeAsyncScript(TWO_FRAMES);
    return [
      {
        what: `coach at the tablet: frame to screen, ${took.length} figures`,
        ours: `median ${median(took).toFixed(0)} ms`,
        reference: `two empty frames ${median(frames).toFixed(0)} ms`,
        ratio: `${(median(took) / median(frames)).toFixed(2)}×`,
        aim: 'under 150 ms',
      },
    ];
  } finally {
    await port.stop();
    await browser.close();
    for (const stop of stops.reverse()) await stop();
    rmSync(dataDir, { recursive: true, force: true });
  }
}
