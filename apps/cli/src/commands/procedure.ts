import { readDriveProcedure } from '@just-balance/contract/drives';
import { readProcedure, readYaml } from '@just-balance/contract/procedures';
import { BadInput } from '../badInput.ts';
import { readWhole } from '../files.ts';

/** `jb procedure`: a service or drive procedure printed as JSON, or what is wrong with it. */
export async function procedure(path: string): Promise<void> {
  const text = await readWhole(path);
  const y = readYaml(text);
  const drive = y.ok && (y.json as { format?: unknown } | null)?.format === 'just-balance/drive-procedure';
  const r = drive ? readDriveProcedure(text) : readProcedure(text);
  if (!r.ok) throw new BadInput(placed(path, r.errors));
  process.stdout.write(`${JSON.stringify(r.procedure, null, 2)}\n`);
}

/** Problems with file, line and field, a line each. */
export function placed(path: string, errors: readonly { line: number; field: string; message: string }[]): string {
  return errors.map((e) => `${path}, line ${e.line}: ${e.field ? `${e.field}: ` : ''}${e.message}`).join('\n');
}
