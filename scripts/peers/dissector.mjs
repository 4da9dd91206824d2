/** The network analyser's OBD dissector, and its values held against ours. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ROOT } from '../lib/build.mjs';
import { which } from '../lib/packages.mjs';

const TSHARK = ['-d', 'can.subdissector,iso15765', '-d', 'iso15765.subdissector,obd-ii', '-Y', 'obd-ii', '-T', 'pdml'];

/** What the dissector says: one row a message: time, number of its frame, pid, its values in order of position. */
export function dissect(lines, raw = false) {
  const work = mkdtempSync(join(tmpdir(), 'jb-dissect-'));
  try {
    const log = join(work, 'log.candump');
    writeFileSync(log, `${lines.join('\n')}\n`);
    const pdml = execFileSync(which('tshark'), ['-r', log, ...TSHARK], {
      encoding: 'utf8',
      maxBuffer: 1 << 29,
      stdio: ['ignore', 'pipe', 'ignore'],
    });
    return pdml.split('</packet>').flatMap((packet) => rowOf(packet, raw));
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
}

function rowOf(packet, raw) {
  const obd = packet.split('name="obd-ii"')[1];
  if (!obd) return [];
  const number =
    /name="num" pos="0" show="(\d+)"/.exec(packet)?.[1] ??
    /name="frame\.number".*?show="(\d+)"/.exec(packet)?.[1] ??
    '';
  const pid = /name="obd-ii\.mode0[19]_pid".*?value="([0-9a-f]+)"/.exec(obd)?.[1] ?? '';
  const values = [...obd.matchAll(/name="obd-ii\.([a-zA-Z0-9_]+)".*?show="([^"]*)"/g)]
    // which parameter, and which sensor of a group: known from the parameter already
    .filter(([, name]) =>
      raw ? name === 'raw_value' : !name.endsWith('_pid') && !/sensor_id$|^(mode|raw_value)$/.test(name),
    )
    .map(([, , show]) => show);
  return values.length > 0 ? [{ number: Number(number), pid: pid.toUpperCase(), values }] : [];
}

/** Its figures of a message; empty where it gives bytes only. */
export function figuresOf({ values }) {
  const numbers = values.filter((v) => v !== '' && (!Number.isNaN(Number(v)) || v.length === 17));
  return numbers.some((v) => v.startsWith('0x')) ? [] : numbers;
}

const { logDecoder, QUANTUM } = await import(join(ROOT, 'packages/core/dist/obd/index.js'));

/** Half a step of the parameter: a value that is further off is another one. What has no step is the same text. */
export function same(name, ours, theirs) {
  if (typeof ours === 'string') return ours === theirs;
  return Math.abs(ours - Number(theirs)) <= (QUANTUM.get(name) ?? 0) / 2 + 1e-9;
}

/**
 * Every message of a log that both read, held against each other value by value.
 * @returns messages that agree, and parameters of which the dissector alone gives a figure.
 */
export function held(name, lines, report) {
  const decoder = logDecoder();
  const ours = lines.map((l) => decoder.line(l));
  let agree = 0;
  const theirsAlone = new Set();
  for (const r of dissect(lines)) {
    const mine = ours[r.number - 1].filter((o) => typeof o.value === 'number' || o.name === 'vin');
    const numbers = figuresOf(r);
    if (numbers.length > 0 && mine.length === 0) theirsAlone.add(r.pid);
    if (mine.length === 0 || numbers.length === 0) continue;
    // Of the narrow-band sensors the dissector gives the voltage only.
    if (mine.slice(0, numbers.length).every((m, i) => same(m.name, m.value, numbers[i]))) agree++;
    else
      report.fail(
        `${name} frame ${r.number} pid ${r.pid}: ours ${mine.map((m) => `${m.name} ${m.value}`)}, theirs ${r.values}`,
      );
  }
  return { agree, theirsAlone };
}
