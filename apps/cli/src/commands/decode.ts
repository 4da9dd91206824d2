import { logDecoder } from '@just-balance/core/obd';
import { BadInput } from '../badInput.ts';
import { openLines, openOutput } from '../files.ts';

const CHUNK = 1 << 16;

/** `jb decode LOG`: TSV on stdout, bad lines summed up on stderr. */
export async function decode(path: string, strict: boolean): Promise<void> {
  const decoder = logDecoder();
  const out = openOutput('-');
  let pending = '';
  for await (const line of await openLines(path)) {
    for (const r of decoder.line(line)) {
      pending += `${r.time}\t${r.ecu}\t${r.service}\t${r.pid}\t${r.name}\t${r.value}\t${r.unit}\n`;
    }
    if (strict) {
      const bad = decoder.summary().badLines[0];
      if (bad) throw new BadInput(`${path}, line ${bad.line}: ${bad.reason}`);
    }
    if (pending.length > CHUNK) {
      await out.write(pending);
      pending = '';
    }
  }
  await out.write(pending);
  const s = decoder.summary();
  for (const b of s.badLines) process.stderr.write(`jb: ${path}, line ${b.line}: ${b.reason}\n`);
  if (s.badCount > s.badLines.length) process.stderr.write(`jb: ${path}: ${s.badCount} bad lines in all\n`);
  for (const t of s.transportErrors) process.stderr.write(`jb: ${path}, ${t}\n`);
  if (s.frames === 0) throw new BadInput(`${path}: no CAN frame in it: one frame a line, (seconds) interface ID#DATA`);
}
