import type { FieldError } from '@just-balance/contract/checks';
import { readCase, readSettings } from '@just-balance/contract/formats';
import { diagnose, type Settings } from '@just-balance/core/diagnosis';
import { inWords } from '@just-balance/core/units';
import { BadInput } from '../badInput.ts';
import { openLines, openOutput, readJson } from '../files.ts';

/** `jb diagnose`: one result a line; a bad line gives an error record in its place and exit 2 at the end. */
export async function diagnoseFile(input: string, output: string, settingsFile?: string): Promise<void> {
  const settings = settingsFile ? await loadSettings(settingsFile) : {};
  const lines = await openLines(input);
  const out = openOutput(output);
  let number = 0;
  let first: { line: number; error: FieldError } | null = null;
  let bad = 0;
  try {
    for await (const line of lines) {
      number++;
      if (line.trim() === '') continue;
      const r = one(line, number, settings);
      if (r.error) {
        bad++;
        first ??= { line: number, error: r.error };
      }
      await out.write(`${r.text}\n`);
    }
    await out.done();
  } catch (e) {
    await out.discard();
    throw e;
  }
  if (first) {
    const more = bad > 1 ? ` (and ${bad - 1} more lines)` : '';
    throw new BadInput(
      `${input}, line ${first.line}: ${first.error.field ? `${first.error.field}: ` : ''}${first.error.message}${more}`,
    );
  }
  if (number === 0) throw new BadInput(`${input}: no case in it`);
}

async function loadSettings(path: string): Promise<Settings> {
  const r = readSettings(await readJson(path));
  if (!r.ok) throw new BadInput(`${path}: ${r.errors[0]!.field}: ${r.errors[0]!.message}`);
  return r.value;
}

function one(line: string, number: number, settings: Settings): { text: string; error?: FieldError } {
  let json: unknown;
  try {
    json = JSON.parse(line);
  } catch (e) {
    return failure(null, number, [{ field: '', message: `not JSON: ${(e as Error).message}` }]);
  }
  const r = readCase(json);
  const id = (json as { id?: unknown } | null)?.id;
  if (!r.ok) return failure(typeof id === 'string' ? id.slice(0, 200) : null, number, r.errors);
  try {
    return { text: JSON.stringify(inWords(diagnose(r.value, settings), 'own')) };
  } catch (e) {
    // One case that cannot be weighed costs its own line, not the run.
    return failure(r.value.id, number, [{ field: '', message: `cannot be weighed: ${(e as Error).message}` }]);
  }
}

function failure(id: string | null, line: number, errors: FieldError[]) {
  return { text: JSON.stringify({ format: 'just-balance/error', version: 1, id, line, errors }), error: errors[0]! };
}
