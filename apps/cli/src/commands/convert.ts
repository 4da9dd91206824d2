import { candumpLines, csvLines, writeCapture } from '@just-balance/core/recordingFiles';
import type { Series } from '@just-balance/core/series';
import { writeLines } from '../files.ts';
import { type Kind, kindOf, readRecording, tell } from '../recording.ts';

/** `jb convert IN OUT`: between candump, CSV and the capture format, by the files' endings. */
export async function convertFile(input: string, output: string): Promise<void> {
  const [from, to] = [kindOf(input), kindOf(output)];
  const series = await readRecording(input, from);
  await writeLines(output, linesOf(series, to, input));
}

function linesOf(series: Series, to: Kind, input: string): Iterable<string> {
  if (to === 'json') return [JSON.stringify(writeCapture(series))];
  if (to === 'csv') return csvLines(series);
  const frames = candumpLines(series);
  for (const { id, why } of frames.left) tell(input, `${id}: left out: ${why}`);
  return told(frames, input);
}

/** The lines of a log; behind the last, which samples are not in it. */
function* told({ lines, dropped }: ReturnType<typeof candumpLines>, input: string): Generator<string> {
  yield* lines();
  for (const [id, n] of dropped)
    tell(input, `${id}: ${n} samples left out: what belongs to them is of another moment, or no answer can say them`);
}
