import { readPins } from '@just-balance/contract/formats';
import { findPins } from '@just-balance/core/electrical';
import { BadInput } from '../badInput.ts';
import { fieldLines, readJson } from '../files.ts';

/** `jb pins`: voltmeter pair readings to pin voltages and roles. */
export async function pins(path: string): Promise<void> {
  const r = readPins(await readJson(path));
  if (!r.ok) throw new BadInput(fieldLines(path, r.errors));
  const result = { format: 'just-balance/pins-result', version: 1, ...findPins(r.value) };
  process.stdout.write(`${JSON.stringify(result, null, 2)}\n`);
}
