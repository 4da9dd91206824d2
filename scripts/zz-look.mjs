import { mkdirSync, mkdtempSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freePorts } from './lib/ports.mjs';
import { startStack } from './lib/stack.mjs';

const stops = [];
mkdirSync('/tmp/look', { recursive: true });
process.on('SIGTERM', async () => {
  for (const s of stops.reverse()) await s().catch(() => {});
  process.exit(0);
});
const dataDir = mkdtempSync(join(tmpdir(), 'jb-look-'));
const [web, sim, db, control] = await freePorts(4);
await startStack({ dataDir, ports: { web, sim, db, control }, demo: true, host: '127.0.0.1', fast: true, stops });
const { openBrowser } = await import('./lib/browser.mjs');
const b = await openBrowser(`http://127.0.0.1:${web}`);
stops.push(() => b.close());
const { By, Key } = await import('selenium-webdriver');
const shot = async (n) => {
  await b.settle();
  writeFileSync(`/tmp/look/${n}.png`, Buffer.from(await b.driver.takeScreenshot(), 'base64'));
  console.log('shot', n);
};
const wait = (ms) => new Promise((r) => setTimeout(r, ms));
try {
  await b.size(1280, 800);
  await b.go('/');
  await b.press('R. Okafor');
  await b.text('Everyone');
  const jobs = await b.json('/api/jobs');
  const job = (label) => jobs.find((j) => j.vehicle.label === label).id;
  const { run } = await import(process.argv[2]);
  await run({ b, By, Key, shot, wait, job, jobs });
} catch (e) {
  console.error(e.stack);
  await shot('error').catch(() => {});
  console.log(
    await b.driver
      .manage()
      .logs()
      .get('browser')
      .then((l) => l.map((x) => x.message).join('\n'))
      .catch(() => ''),
  );
}
for (const s of stops.reverse()) await s().catch(() => {});
process.exit(0);
