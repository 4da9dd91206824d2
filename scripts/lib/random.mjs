/** Mulberry32 (public domain): a small generator with a seed, and what is drawn with it. */
export function generator(seed) {
  let a = seed >>> 0;
  const next = () => {
    a = (a + 0x6d2b79f5) >>> 0;
    let t = Math.imul(a ^ (a >>> 15), 1 | a);
    t = (t + Math.imul(t ^ (t >>> 7), 61 | t)) ^ t;
    return ((t ^ (t >>> 14)) >>> 0) / 4294967296;
  };
  return {
    next,
    between: (low, high) => low + (high - low) * next(),
    chance: (p) => next() < p,
    pick: (list) => list[Math.floor(next() * list.length)],
    gauss: (sd = 1) => sd * Math.sqrt(-2 * Math.log(1 - next())) * Math.cos(2 * Math.PI * next()),
    /** One of `[weight, value]` pairs. */
    weighted(pairs) {
      let at = next() * pairs.reduce((s, [w]) => s + w, 0);
      return (pairs.find(([w]) => {
        at -= w;
        return at <= 0;
      }) ?? pairs.at(-1))[1];
    },
  };
}
