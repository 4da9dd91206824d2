import { readProcedure } from '@just-balance/contract/procedures';
import { BadInput } from '../badInput.ts';
import { openText } from '../files.ts';

/** `jb procedure`: a service procedure printed as JSON, or what is wrong with it. */
export async function procedure(path: string): Promise<void> {
  let text = '';
  for await (const piece of await openText(path)) text += piece;
  const r = readProcedure(text);
  if (!r.ok)
    throw new BadInput(
      r.errors.map((e) => `${path}, line ${e.line}: ${e.field ? `${e.field}: ` : ''}${e.message}`).join('\n'),
    );
  process.stdout.write(`${JSON.stringify(r.procedure, null, 2)}\n`);
}
