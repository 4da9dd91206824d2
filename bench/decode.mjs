import { execFileSync } from 'node:child_process';
import { createReadStream, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { performance } from 'node:perf_hooks';
import { createInterface } from 'node:readline';
import { candumpOf } from '@just-balance/vehicle';

const FRAMES = 300_000;
const JB = new URL('../apps/cli/bin/jb.mjs', import.meta.url).pathname;

/** `jb decode` of a candump log against a bare `for await` over readline on the same file. */
export async function measure() {
  const dir = mkdtempSync(join(tmpdir(), 'jb-bench-'));
  const log = join(dir, 'log.candump');
  const scenario = {
    format: 'just-balance/scenario',
    version: 1,
    vehicle: 'aldwin-30',
    warm: true,
    drive: [{ do: 'idle', s: 300 }],
  };
  const part = [...candumpOf(scenario)];
  const lines = [];
  while (lines.length < FRAMES) lines.push(...part);
  writeFileSync(log, `${lines.slice(0, FRAMES).join('\n')}\n`);
  const start = performance.now();
  execFileSync('/bin/sh', ['-c', `${process.execPath} ${JB} decode ${log} > ${join(dir, 'out.tsv')}`]);
  const ours = performance.now() - start;
  const from = performance.now();
  let n = 0;
  for await (const line of createInterface({ input: createReadStream(log) })) n += line.length;
  const bare = performance.now() - from;
  rmSync(dir, { recursive: true, force: true });
  return [
    {
      what: `jb decode, ${FRAMES} frames`,
      ours: `${ours.toFixed(0)} ms`,
      reference: `bare readline ${bare.toFixed(0)} ms (${n} chars)`,
      ratio: `${(ours / bare).toFixed(1)}×`,
      aim: '≤ 3×',
    },
  ];
}
