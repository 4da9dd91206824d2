import { execFileSync } from 'node:child_process';
import { createReadStream, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { performance } from 'node:perf_hooks';
import { createInterface } from 'node:readline';
import { candumpOf } from '@just-balance/vehicle';
import { which } from '../scripts/lib/packages.mjs';

const FRAMES = 1_000_000;
const JB = new URL('../apps/cli/bin/jb.mjs', import.meta.url).pathname;

/** Wall time of a shell command, ms. */
function timed(command) {
  const start = performance.now();
  execFileSync('/bin/sh', ['-c', command]);
  return performance.now() - start;
}

/** `jb decode` of a candump log against a bare `for await` over readline, and a network analyser's OBD dissector. */
export async function measure() {
  const dir = mkdtempSync(join(tmpdir(), 'jb-bench-'));
  const log = join(dir, 'log.candump');
  const scenario = {
    format: 'just-balance/scenario',
    version: 1,
    vehicle: 'aldwin-30',
    warm: true,
    drive: [
      { do: 'idle', s: 200 },
      { do: 'speed', kmh: 80, s: 400 },
    ],
  };
  const part = [...candumpOf(scenario)];
  const lines = [];
  while (lines.length < FRAMES) lines.push(...part);
  writeFileSync(log, `${lines.slice(0, FRAMES).join('\n')}\n`);
  const memory = join(dir, 'memory');
  const hook = join(dir, 'hook.cjs');
  writeFileSync(
    hook,
    `process.on('exit', () => require('node:fs').writeFileSync(${JSON.stringify(memory)}, String(process.resourceUsage().maxRSS)));`,
  );
  const ours = timed(`${process.execPath} --require ${hook} ${JB} decode ${log} > ${join(dir, 'out.tsv')}`);
  const peakMb = Number(readFileSync(memory, 'utf8')) / 1024;
  const from = performance.now();
  let n = 0;
  for await (const line of createInterface({ input: createReadStream(log) })) n += line.length;
  const bare = performance.now() - from;
  const rows = [
    {
      what: `jb decode, ${FRAMES} frames`,
      ours: `${ours.toFixed(0)} ms, peak ${peakMb.toFixed(0)} MB`,
      reference: `bare readline ${bare.toFixed(0)} ms (${n} chars)`,
      ratio: `${(ours / bare).toFixed(2)}×`,
      aim: '≤ 1.5×, < 150 MB',
    },
  ];
  const tshark = which('tshark');
  if (tshark) {
    // The dissector reads single frames at their best: no reassembly is asked of it beyond what the log holds.
    const theirs = timed(
      `${tshark} -r ${log} -d can.subdissector,iso15765 -d iso15765.subdissector,obd-ii -Y obd-ii -T fields -e frame.time_epoch -e obd-ii.mode01_pid > ${join(dir, 'theirs.tsv')} 2>/dev/null`,
    );
    rows.push({
      what: `jb decode, ${FRAMES} frames`,
      ours: `${ours.toFixed(0)} ms`,
      reference: `network analyser's OBD dissector ${(theirs / 1000).toFixed(1)} s`,
      ratio: `${(theirs / ours).toFixed(0)}× faster`,
      aim: '≥ 25×',
    });
  }
  rmSync(dir, { recursive: true, force: true });
  return rows;
}
