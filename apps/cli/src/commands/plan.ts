import { readPlanRequest } from '@just-balance/contract/drives';
import { planDrive } from '@just-balance/core/readiness';
import { inWords } from '@just-balance/core/units';
import { BadInput } from '../badInput.ts';
import { fieldLines, readJson } from '../files.ts';

/** `jb plan`: the enabling conditions of a drive procedure against the car's state. */
export async function plan(path: string): Promise<void> {
  const r = readPlanRequest(await readJson(path));
  if (!r.ok) throw new BadInput(fieldLines(path, r.errors));
  process.stdout.write(`${JSON.stringify(inWords(planDrive(r.value), 'own'), null, 2)}\n`);
}
