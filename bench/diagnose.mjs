import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { performance } from 'node:perf_hooks';
import { fileURLToPath } from 'node:url';
import { diagnose } from '@just-balance/core/diagnosis';
import { drawCase } from '../scripts/accuracy/world/draw.mjs';
import { generator } from '../scripts/lib/random.mjs';

const reading = (at, mafGps, total1, total2) => ({
  at,
  mafGps,
  ectC: 90,
  loop: 'closed',
  trims: {
    bank1: { stft: total1 * 0.2, ltft: total1 * 0.8, sd: 0.8, n: 100 },
    bank2: { stft: total2 * 0.2, ltft: total2 * 0.8, sd: 0.8, n: 100 },
  },
});
const CASE = {
  format: 'just-balance/case',
  version: 1,
  id: 'bench',
  vehicle: { fuel: 'petrol', metering: 'maf', displacementL: 3, cylinders: 6, banks: 2 },
  ambient: { baroKPa: 99, airC: 20 },
  readings: [reading('idle', 3.4, 19, 4), reading('hold-2500', 12, 6, 2), reading('road-load', 25, 3, 1)],
  codes: [{ code: 'P0171', state: 'stored' }],
  complaints: ['rough-idle'],
  tests: [{ id: 'visual-intake', outcome: 'ok' }],
};

const JB = fileURLToPath(new URL('../apps/cli/bin/jb.mjs', import.meta.url));

/** A thousand drawn cases through the command, its start included; the reference reads and writes the same lines as JSON. */
function thousand() {
  const dir = mkdtempSync(join(tmpdir(), 'jb-bench-'));
  const [cases, results] = [join(dir, 'cases.ndjson'), join(dir, 'results.ndjson')];
  const r = generator(1);
  writeFileSync(cases, Array.from({ length: 1000 }, () => `${JSON.stringify(drawCase(r).c)}\n`).join(''));
  const timed = (args) => {
    const t = performance.now();
    execFileSync(process.execPath, args);
    return (performance.now() - t) / 1000;
  };
  const ours = timed([JB, 'diagnose', '--in', cases, '--out', results]);
  const copy =
    'const fs=require("fs");fs.writeFileSync(process.argv[2],fs.readFileSync(process.argv[1],"utf8").split("\\n").filter(Boolean).map(l=>JSON.stringify(JSON.parse(l))).join("\\n"))';
  const reference = timed(['-e', copy, results, join(dir, 'copy.ndjson')]);
  rmSync(dir, { recursive: true });
  return {
    what: '1,000 drawn cases through jb diagnose, start included',
    ours: `${ours.toFixed(1)} s`,
    reference: `node parsing and printing the results ${reference.toFixed(2)} s`,
    ratio: `${(ours / reference).toFixed(0)}×`,
    aim: '≤ 12 s',
  };
}

/** One case with next tests on one core; the reference is JSON.parse of the same result's text. */
export async function measure() {
  for (let i = 0; i < 20; i++) diagnose(CASE);
  const times = Array.from({ length: 200 }, () => {
    const t = performance.now();
    diagnose(CASE);
    return performance.now() - t;
  }).sort((a, b) => a - b);
  const text = JSON.stringify(diagnose(CASE));
  const parse = Array.from({ length: 200 }, () => {
    const t = performance.now();
    JSON.parse(text);
    return performance.now() - t;
  }).sort((a, b) => a - b);
  const median = times[100];
  return [
    {
      what: 'one diagnosis with next tests (V6, 3 points)',
      ours: `median ${median.toFixed(1)} ms, p99 ${times[197].toFixed(1)} ms`,
      reference: `JSON.parse of its result ${(parse[100] * 1000).toFixed(0)} µs`,
      ratio: `${(median / parse[100]).toFixed(0)}×`,
      aim: 'median ≤ 5 ms, p99 ≤ 20 ms',
    },
    thousand(),
  ];
}
