import type { OperatingPoint, Reading } from '../case/index.ts';
import { indexAt, type Series } from '../series/index.ts';
import type { RecordedEngine } from './find.ts';
import { guidedSetup } from './guided.ts';
import { capturePoint } from './points.ts';
import { Growing, KEEP_S, SILENCE } from './signals.ts';
import { flagsOf, readingOf } from './windowReading.ts';

/** Signal before a stretch that slow channels are taken from, s. */
const LEAD_S = 30;

/** The longest stretch that makes one reading, s: what a capture remembers, less what came before. */
export const LONGEST_STRETCH_S = KEEP_S - LEAD_S;

/**
 * A reading of a part of a recording that a person has chosen, as a capture would have kept it, with why it is doubtful.
 * Throws RangeError for a point nobody captures, and a stretch that is empty or too long.
 */
export function readingOfStretch(
  series: Series,
  engine: RecordedEngine,
  at: OperatingPoint,
  fromS: number,
  toS: number,
): { reading: Reading; flags: string[] } {
  const point = capturePoint(at);
  if (!point) throw new RangeError(`no such operating point: ${at}`);
  if (!(toS > fromS)) throw new RangeError('the part shown is empty');
  if (toS - fromS > LONGEST_STRETCH_S) throw new RangeError(`at most ${LONGEST_STRETCH_S} s make a reading: show less`);
  const signals = new Growing(SILENCE);
  const samples = [...series.channels, ...(series.texts ?? [])].flatMap((c) => {
    const out: { channel: string; t: number; value: number | string }[] = [];
    for (let i = indexAt(c.time, fromS - LEAD_S); i < c.time.length && c.time[i]! <= toS; i++)
      out.push({ channel: c.id, t: c.time[i]!, value: c.value[i]! });
    return out;
  });
  if (!samples.some((s) => s.t >= fromS)) throw new RangeError('the part shown holds no value');
  samples.sort((a, b) => a.t - b.t);
  for (const s of samples) signals.add({ channel: s.channel, atUs: s.t * 1e6, value: s.value });
  const has = (id: string) => series.channels.some((c) => c.id === id);
  const unreported = new Set<'loop' | 'ect'>();
  if (!has('ect')) unreported.add('ect');
  if (!series.texts?.some((c) => c.id === 'fuelSys1')) unreported.add('loop');
  const setup = guidedSetup(point, {
    banks: engine.banks,
    metered: engine.metered && has('maf'),
    fuel: engine.fuel,
    baroKPa: engine.baroKPa,
    unreported,
  });
  const window = { signals: signals.done(), windowFromS: fromS };
  return { reading: readingOf(setup, window), flags: flagsOf(setup, window) };
}
