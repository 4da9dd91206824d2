import { logBytes } from '@just-balance/core/obd';
import { BadInput } from '../badInput.ts';
import { openBytes, openOutput } from '../files.ts';

/** `jb decode LOG`: TSV on stdout, bad lines summed up on stderr. */
export async function decode(path: string, strict: boolean): Promise<void> {
  const out = openOutput('-');
  const parts: Uint8Array[] = [];
  const decoder = logBytes((tsv) => parts.push(tsv.slice()));
  const pass = async () => {
    const ready = parts.splice(0);
    if (strict) {
      const bad = decoder.summary().badLines[0];
      if (bad) throw new BadInput(`${path}, line ${bad.line}: ${bad.reason}`);
    }
    for (const tsv of ready) await out.write(tsv);
  };
  for await (const bytes of await openBytes(path)) {
    decoder.chunk(bytes);
    await pass();
  }
  decoder.end();
  await pass();
  const s = decoder.summary();
  for (const b of s.badLines) process.stderr.write(`jb: ${path}, line ${b.line}: ${b.reason}\n`);
  if (s.badCount > s.badLines.length) process.stderr.write(`jb: ${path}: ${s.badCount} bad lines in all\n`);
  for (const t of s.transportErrors) process.stderr.write(`jb: ${path}, ${t}\n`);
  if (s.frames === 0) throw new BadInput(`${path}: no CAN frame in it: one frame a line, (seconds) interface ID#DATA`);
}
