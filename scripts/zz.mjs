import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ensureBuilt, ensureModules, ROOT } from './lib/build.mjs';
import { BROWSER, DATABASE, ensurePrograms } from './lib/packages.mjs';
import { freePorts } from './lib/ports.mjs';
import { startStack } from './lib/stack.mjs';
const stops = [];
const dataDir = mkdtempSync(join(tmpdir(), 'jb-shots-'));
const out = '/tmp/shots'; mkdirSync(out, { recursive: true });
try {
  await ensurePrograms([...DATABASE, ...BROWSER]);
  await ensureModules();
  await ensureBuilt();
  const [web, sim, db, control] = await freePorts(4);
  await startStack({ dataDir, ports: { web, sim, db, control }, demo: true, host: '127.0.0.1', fast: true, year: process.env.YEAR !== '0', stops });
  const { openBrowser } = await import('./lib/browser.mjs');
  const browser = await openBrowser(`http://127.0.0.1:${web}`);
  stops.push(() => browser.close());
  const { By } = await import('selenium-webdriver');
  const wait = (ms) => new Promise((r) => setTimeout(r, ms));
  const shot = async (name) => { await browser.settle(); writeFileSync(join(out, `${name}.png`), Buffer.from(await browser.driver.takeScreenshot(), 'base64')); console.log(name); };
  const post = (method, path, body) => browser.driver.executeAsyncScript(`const [m,p,b,done]=arguments; fetch('/api'+p,{method:m,headers:{'content-type':'application/json','x-requested-with':'x'},body:b===null?undefined:JSON.stringify(b)}).then(async r=>done([r.status,await r.text().then(t=>{try{return JSON.parse(t)}catch{return t}})]))`, method, path, body);
  const bytes = (path) => browser.driver.executeAsyncScript(`const [p,done]=arguments; fetch('/api'+p).then(async r=>{const b=new Uint8Array(await r.arrayBuffer()); let s=''; for(const x of b) s+=String.fromCharCode(x); done(btoa(s))})`, path);
  await browser.size(1280, 800);
  await browser.go('/');
  await browser.find(By.css('h1'));
  await browser.press('R. Okafor');
  await browser.text('Everyone');
  await (await import('./zzsteps.mjs')).default({ browser, By, wait, shot, post, bytes, web });
} finally {
  for (const stop of stops.reverse()) await stop();
  rmSync(dataDir, { recursive: true, force: true });
}
