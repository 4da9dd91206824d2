import { relearn } from '@just-balance/core/relearn';
import { BadInput } from '../badInput.ts';
import { readRecording } from '../recording.ts';

/** `jb relearn`: where each bank's total is going after a repair, and when it will be there. */
export async function relearnFile(log: string, from: string | undefined): Promise<void> {
  const fromS = from === undefined ? undefined : Number(from);
  if (fromS !== undefined && !Number.isFinite(fromS))
    throw new BadInput(`--from: "${from}" is not a number of seconds`);
  const series = await readRecording(log);
  // Seconds count from the first sample.
  const first = Math.min(...series.channels.map((c) => c.time[0] ?? Number.POSITIVE_INFINITY));
  const result = relearn(series, fromS === undefined ? undefined : first + fromS);
  process.stdout.write(`${JSON.stringify({ format: 'just-balance/relearn', version: 1, ...result }, null, 2)}\n`);
}
