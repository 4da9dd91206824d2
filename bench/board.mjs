import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ROOT } from '../scripts/lib/build.mjs';

const SECONDS = 8;

/** Board and logbook under an open load, against health asked beside it in the same seconds: `npm run load` in short. */
export async function measure() {
  const out = await new Promise((resolve, reject) => {
    const args = [join(ROOT, 'scripts/load.mjs'), '--seconds', String(SECONDS), '--jobs', '50000'];
    const child = spawn(process.execPath, args, { stdio: ['ignore', 'pipe', 'inherit'] });
    let text = '';
    child.stdout.on('data', (d) => {
      text += d;
    });
    child.on('exit', (code) => (code === 0 ? resolve(text) : reject(new Error(`load failed:\n${text}`))));
  });
  const row = (name) => {
    const m = new RegExp(`^${name}.*?\\s(\\d+)\\s+(\\d+)\\s+([\\d.]+)\\s+([\\d.]+)\\s+([\\d.]+)$`, 'm').exec(out);
    return { asked: m[1], failed: m[2], p95: Number(m[4]) };
  };
  const [board, search, health] = [row('board'), row('search'), row('health')];
  return [
    {
      what: `board page, 50,000 jobs, 50/s of 100/s open, 50 sessions, ${board.asked} asked, ${board.failed} failed`,
      ours: `p95 ${board.p95.toFixed(1)} ms`,
      reference: `health beside it p95 ${health.p95.toFixed(1)} ms`,
      ratio: `${(board.p95 / health.p95).toFixed(2)}×`,
      aim: '≤ 50 ms, none failed',
    },
    {
      what: `search among 50,000 jobs, the other 50/s, ${search.asked} asked, ${search.failed} failed`,
      ours: `p95 ${search.p95.toFixed(1)} ms`,
      reference: `health beside it p95 ${health.p95.toFixed(1)} ms`,
      ratio: `${(search.p95 / health.p95).toFixed(2)}×`,
      aim: '≤ 50 ms, none failed',
    },
  ];
}
