import { readCarState, readDriveProcedure } from '@just-balance/contract/drives';
import {
  type CarState,
  DRIVE_PROCEDURES,
  type DriveProcedure,
  driveProcedure,
  reviewDrive,
} from '@just-balance/core/readiness';
import { inWords } from '@just-balance/core/units';
import { BadInput } from '../badInput.ts';
import { fieldLines, readJson, readWhole } from '../files.ts';
import { readRecording } from '../recording.ts';
import { placed } from './procedure.ts';

/** One of ours by its id, else a file. */
async function procedureOf(idOrFile: string): Promise<DriveProcedure> {
  const ours = driveProcedure(idOrFile);
  if (ours) return ours;
  const text = await readWhole(idOrFile).catch((e: unknown) => {
    if (!(e instanceof BadInput)) throw e;
    throw new BadInput(`--procedure: ${e.message}; ours are ${DRIVE_PROCEDURES.map((p) => p.id).join(', ')}`);
  });
  const r = readDriveProcedure(text);
  if (!r.ok) throw new BadInput(placed(idOrFile, r.errors));
  return r.procedure;
}

/** `jb coach`: a recorded drive against a drive procedure. */
export async function coach(log: string, o: { procedure: string; before?: string }): Promise<void> {
  const procedure = await procedureOf(o.procedure);
  let car: CarState | null = null;
  if (o.before !== undefined) {
    const r = readCarState(await readJson(o.before));
    if (!r.ok) throw new BadInput(fieldLines(o.before, r.errors));
    car = r.value;
  }
  const series = await readRecording(log);
  process.stdout.write(`${JSON.stringify(inWords(reviewDrive(procedure, series, car), 'own'), null, 2)}\n`);
}
