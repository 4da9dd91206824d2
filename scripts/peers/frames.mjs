/** Frames for the outside dissector: of every parameter of our table, of none of ours, and of the monitors. */
import { execFileSync } from 'node:child_process';
import { join } from 'node:path';
import { ROOT } from '../lib/build.mjs';
import { which } from '../lib/packages.mjs';
import { generator } from '../lib/random.mjs';

const hex = (bytes) => bytes.map((b) => b.toString(16).toUpperCase().padStart(2, '0')).join('');
const padded = (bytes) => [...bytes, ...Array(8 - bytes.length).fill(0x55)];
const line = (s, bytes) => `(${s.toFixed(6)}) can0 7E8#${hex(padded(bytes))}`;

/** Response frames for every single-frame parameter of our table, five patterns each, plus a VIN over three frames. */
export async function synthetic() {
  const { PIDS } = await import(join(ROOT, 'packages/core/dist/obd/index.js'));
  const frames = [];
  for (const p of PIDS) {
    if (p.pid % 0x20 === 0 || p.length > 5 || p.elements.every((e) => e.kind === 'hex')) continue;
    for (const seed of [0x00, 0x01, 0x3c, 0x80, 0xfe]) {
      const data = Array.from({ length: p.length }, (_, i) => (seed === 0 ? 0 : (seed + i * 37 + p.pid) & 0xff));
      frames.push([2 + p.length, 0x41, p.pid, ...data]);
    }
  }
  const vin = [...'ZZZA30V62C0011853'].map((c) => c.charCodeAt(0));
  frames.push(
    [0x10, 0x14, 0x49, 0x02, 0x01, ...vin.slice(0, 3)],
    [0x21, ...vin.slice(3, 10)],
    [0x22, ...vin.slice(10, 17)],
  );
  return frames.map((f, i) => line(1_700_000_000 + i / 100, f));
}

/** Monitor status since clearing and this drive, petrol and diesel: the dissector gives their bytes as they are. */
const READINESS = [
  '00 07 65 00',
  '81 07 65 04',
  '00 07 65 61',
  '03 77 FF FF',
  '00 0F C3 02',
  '82 4F EB 88',
  '00 08 00 00',
];

export function readinessFrames() {
  return [0x01, 0x41].flatMap((pid, k) =>
    READINESS.map((text, i) =>
      line(1_700_000_100 + k + i / 100, [6, 0x41, pid, ...text.split(' ').map((b) => Number.parseInt(b, 16))]),
    ),
  );
}

/** Numbers of the parameters that the dissector has a name for. */
function known() {
  const values = execFileSync(which('tshark'), ['-G', 'values'], { encoding: 'utf8', maxBuffer: 1 << 28 });
  return values
    .split('\n')
    .map((l) => l.split('\t'))
    .filter(([kind, field]) => kind === 'V' && field === 'obd-ii.mode01_pid')
    .map(([, , pid]) => Number(pid))
    .filter((pid) => pid % 0x20 !== 0);
}

/**
 * Frames by the dissector's own list of parameters, not by ours: each with every number of bytes that a single frame can
 * carry, a few of each by seed.
 */
export function byTheirList(seed) {
  const { next } = generator(seed);
  const frames = known().flatMap((pid) =>
    [1, 2, 3, 4, 5].flatMap((n) =>
      Array.from({ length: 4 }, () => [2 + n, 0x41, pid, ...Array.from({ length: n }, () => Math.floor(256 * next()))]),
    ),
  );
  return frames.map((f, i) => line(1_700_100_000 + i / 100, f));
}
