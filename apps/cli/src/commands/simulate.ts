import { candumpOf, csvOf, readScenario } from '@just-balance/vehicle';
import { BadInput } from '../badInput.ts';
import { readJson, writeLines } from '../files.ts';

/** Lines between two looks at the clock of the progress display. */
const TELL_EVERY = 20_000;

/** `jb simulate SCENARIO --out FILE`: the simulated vehicle as fast as it goes, as candump or CSV by the file's ending. */
export async function simulate(path: string, output: string): Promise<void> {
  const kind = output === '-' ? 'candump' : /\.(candump|log|csv)$/.exec(output)?.[1];
  if (!kind) throw new BadInput(`${output}: a .candump, .log or .csv file`);
  const { scenario, problems } = readScenario(await readJson(path));
  if (!scenario) throw new BadInput(`${path}: ${problems.join('; ')}`);
  const total = scenario.drive.reduce((s, d) => s + ('s' in d ? d.s : 0), 0);
  await writeLines(output, told(kind === 'csv' ? csvOf(scenario) : candumpOf(scenario), total));
}

/** The same lines, with progress on a terminal. */
function* told(source: Iterable<string>, totalS: number): Generator<string> {
  let lines = 0;
  for (const line of source) {
    yield line;
    if (++lines % TELL_EVERY === 0 && process.stderr.isTTY) process.stderr.write(`\r${lines} lines of ${totalS} s`);
  }
  if (process.stderr.isTTY && lines >= TELL_EVERY) process.stderr.write('\n');
}
