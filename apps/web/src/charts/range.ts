import { numberText } from '@just-balance/core/units';

/** What part of a recording is shown, s. */
export interface Range {
  from: number;
  to: number;
}

/** No closer than this, s. */
const CLOSEST_S = 0.5;

/** Kept inside the recording, its width unchanged where it fits. */
function inside(r: Range, all: Range): Range {
  const width = Math.min(Math.max(r.to - r.from, CLOSEST_S), all.to - all.from);
  const from = Math.min(Math.max(r.from, all.from), all.to - width);
  return { from, to: from + width };
}

/** By a share of its width: 0.1 a tenth later. */
export function panned(r: Range, share: number, all: Range): Range {
  const by = share * (r.to - r.from);
  return inside({ from: r.from + by, to: r.to + by }, all);
}

/** About a moment that stays where it is; factor below 1 comes closer. */
export function zoomed(r: Range, factor: number, about: number, all: Range): Range {
  const width = Math.min(Math.max((r.to - r.from) * factor, CLOSEST_S), all.to - all.from);
  const share = (about - r.from) / (r.to - r.from);
  return inside({ from: about - share * width, to: about - share * width + width }, all);
}

/** A span with room on both sides. */
export function around(from: number, to: number, all: Range): Range {
  const room = Math.max(2, 0.4 * (to - from));
  return inside({ from: from - room, to: to + room }, all);
}

/** Digits that a label may have at most. */
const MOST_DIGITS = 6;
/** A label says its place on the axis this well, as a share of the axis. */
const TRUE_TO = 0.02;

/** Zero is the middle where it stands this far from both ends, as a share of the axis. */
const ZERO_INSIDE = 0.1;

/** Lowest, middle (zero where it is well inside) and highest of an axis, with as many digits as tell them apart truly. */
export function axisTicks(min: number, max: number, least: number): { value: number; text: string }[] {
  const edge = ZERO_INSIDE * (max - min);
  const values = [min, min < -edge && max > edge ? 0 : (min + max) / 2, max];
  let digits = least;
  const rounded = (v: number) => Number(v.toFixed(digits));
  while (digits < MOST_DIGITS && values.some((v) => Math.abs(rounded(v) - v) > TRUE_TO * (max - min))) digits++;
  return values.map((value) => ({ value, text: numberText(rounded(value)) }));
}
