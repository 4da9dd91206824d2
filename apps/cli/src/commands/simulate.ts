import { candumpOf, readScenario } from '@just-balance/vehicle';
import { BadInput } from '../badInput.ts';
import { openOutput, readJson } from '../files.ts';

const CHUNK = 1 << 16;

/** `jb simulate SCENARIO --out FILE`: the simulated vehicle's OBD traffic as a candump log. */
export async function simulate(path: string, output: string): Promise<void> {
  if (output !== '-' && !/\.(candump|log)$/.test(output)) throw new BadInput(`${output}: a .candump or .log file`);
  const { scenario, problems } = readScenario(await readJson(path));
  if (!scenario) throw new BadInput(`${path}: ${problems.join('; ')}`);
  const out = openOutput(output);
  let pending = '';
  for (const line of candumpOf(scenario)) {
    pending += `${line}\n`;
    if (pending.length > CHUNK) {
      await out.write(pending);
      pending = '';
    }
  }
  await out.write(pending);
  await out.done();
}
