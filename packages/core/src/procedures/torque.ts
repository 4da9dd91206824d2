import { convert } from '../units/index.ts';

/** A figure this many times more, or less, than screws of its size take is asked about. [house] */
const UNLIKELY_TIMES = 4;
/** Read in another unit, a figure this near to what such screws take is likely the one that was meant. [house] */
const LIKELY_TIMES = 2;

/** A torque that the size of a screw does not fit, and the same figure in the unit in which it would. */
export interface TorqueDoubt {
  /** Of what is usual for it. */
  times: number;
  meant: { unit: 'N·m' | 'lbf·ft' | 'lbf·in'; nm: number } | null;
}

/**
 * Whether a torque can be right for a screw that usually takes `usualNm`: pounds-force inch typed as newton metres pull it
 * out of plastic. `figure` in `unit` as it was typed. Null where nothing speaks against it.
 */
export function torqueDoubt(figure: number, unit: 'N·m' | 'lbf·ft' | 'lbf·in', usualNm: number): TorqueDoubt | null {
  const nm = convert(figure, unit, 'N·m');
  const times = nm / usualNm;
  if (!(times > UNLIKELY_TIMES || times < 1 / UNLIKELY_TIMES)) return null;
  const others = (['N·m', 'lbf·ft', 'lbf·in'] as const)
    .filter((u) => u !== unit)
    .map((u) => ({ unit: u, nm: convert(figure, u, 'N·m') }))
    .filter((o) => o.nm / usualNm <= LIKELY_TIMES && o.nm / usualNm >= 1 / LIKELY_TIMES);
  const near = (o: { nm: number }) => Math.abs(Math.log(o.nm / usualNm));
  return { times, meant: others.sort((a, b) => near(a) - near(b))[0] ?? null };
}
