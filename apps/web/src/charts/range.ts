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
