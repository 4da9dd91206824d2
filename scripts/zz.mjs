import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { freePorts } from './lib/ports.mjs';
import { startStack } from './lib/stack.mjs';
const stops = []; const dataDir = mkdtempSync(join(tmpdir(), 'jb-shots-')); const out='/tmp/shots'; mkdirSync(out,{recursive:true});
try {
  const [web, sim, db, control] = await freePorts(4);
  await startStack({ dataDir, ports: { web, sim, db, control }, demo: true, host: '127.0.0.1', fast: true, year: false, stops });
  const { openBrowser } = await import('./lib/browser.mjs');
  const browser = await openBrowser(`http://127.0.0.1:${web}`); stops.push(() => browser.close());
  const shot = async (n) => { await browser.settle(); writeFileSync(join(out, `${n}.png`), Buffer.from(await browser.driver.takeScreenshot(), 'base64')); };
  const { By } = await import('selenium-webdriver');
  const wait = (ms) => new Promise((r) => setTimeout(r, ms));
  await browser.size(1280, 800); await browser.go('/'); await browser.press('R. Okafor'); await browser.text('Everyone');
  const jobs = await browser.json('/api/jobs');
  console.log(jobs.map((j)=>j.label+' '+j.id));
  const steps = (await import('/tmp/zzsteps.mjs')).default;
  await steps({ browser, shot, By, wait, jobs, out, writeFileSync, join });
} catch (e) { console.error(e); } finally { for (const s of stops.reverse()) await s(); rmSync(dataDir,{recursive:true,force:true}); }
process.exit(0);
