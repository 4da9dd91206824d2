/** What the program writes, read by others: logs by the dissector, CSV and capture JSON by another language's library. */
import { execFileSync } from 'node:child_process';
import { mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { ROOT } from '../lib/build.mjs';
import { dissect, figuresOf, same } from './dissector.mjs';

const jb = (...args) =>
  execFileSync(process.execPath, [join(ROOT, 'apps/cli/dist/main.js'), ...args], { stdio: 'pipe' });
const python = (...args) =>
  JSON.parse(
    execFileSync('/usr/bin/python3', [join(ROOT, 'scripts/peers/read_export.py'), ...args], {
      encoding: 'utf8',
      maxBuffer: 1 << 28,
    }),
  );
const linesOf = (file) => readFileSync(file, 'utf8').trim().split('\n');

/** Figures of a log by parameter, as the dissector reads them. */
function byPid(lines) {
  const out = new Map();
  for (const r of dissect(lines)) {
    const [first] = figuresOf(r);
    if (first !== undefined) out.set(r.pid, [...(out.get(r.pid) ?? []), first]);
  }
  return out;
}

/** Parameters of one value each: what the dissector says of them is that channel. */
const CHANNELS = { '0C': 'rpm', 10: 'maf', '0B': 'map', '06': 'stft1', '07': 'ltft1', '05': 'ect', '0D': 'vss' };

/** A log of frames through every format of ours and back, each read from outside. */
export function exports(name, lines, least, report) {
  const work = mkdtempSync(join(tmpdir(), 'jb-exports-'));
  try {
    const at = (ending) => join(work, `log.${ending}`);
    writeFileSync(at('candump'), `${lines.join('\n')}\n`);
    jb('convert', at('candump'), at('csv'));
    jb('convert', at('csv'), at('json'));
    const again = join(work, 'again.candump');
    jb('convert', at('json'), again);
    const before = byPid(lines);
    const after = byPid(linesOf(again));
    const read = { CSV: python('csv', at('csv')), 'capture JSON': python('json', at('json')) };
    let [frames, cells] = [0, 0];
    for (const [pid, id] of Object.entries(CHANNELS)) {
      // A sensor's answer carries the trim too, which the dissector does not give: there the channel has more than 06.
      if (id === 'stft1' && before.has('14')) continue;
      const values = before.get(pid) ?? [];
      const back = after.get(pid) ?? [];
      if (values.length !== back.length) report.fail(`${name}: ${id}: ${values.length} in, ${back.length} out again`);
      values.forEach((v, i) => {
        if (v === back[i]) frames++;
        else report.fail(`${name}: ${id}, the ${i + 1}th: ${v} in, ${back[i]} out again`);
      });
      for (const [format, channels] of Object.entries(read)) {
        const own = channels[id] ?? [];
        if (values.length !== own.length) report.fail(`${name}: ${format}: ${id}: ${own.length} of ${values.length}`);
        own.forEach((v, i) => {
          if (same(id, v, values[i])) cells++;
          else report.fail(`${name}: ${format}: ${id}, the ${i + 1}th: ${v} for ${values[i]}`);
        });
      }
    }
    report.agreed(`${name}: frames out again, by the dissector`, frames, least);
    report.agreed(`${name}: values of CSV and capture JSON, read by Python against the dissector`, cells, 2 * least);
  } finally {
    rmSync(work, { recursive: true, force: true });
  }
}
