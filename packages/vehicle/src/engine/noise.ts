/**
 * Noise as a hash of seed, channel and step: the same log whoever asks, whenever. Returns about N(0, 1), bounded ±3.46
 * (sum of four uniforms). Integer hash: Murmur3 finaliser (public domain).
 */
export function noise(seed: number, channel: number, step: number): number {
  let sum = 0;
  for (let i = 0; i < 4; i++) sum += uniform(seed, channel * 4 + i, step);
  return (sum - 2) * 1.7320508;
}

function uniform(seed: number, channel: number, step: number): number {
  let h = (seed ^ Math.imul(channel + 1, 0x9e3779b1) ^ Math.imul(step | 0, 0x85ebca6b)) >>> 0;
  h ^= h >>> 16;
  h = Math.imul(h, 0x85ebca6b);
  h ^= h >>> 13;
  h = Math.imul(h, 0xc2b2ae35);
  h ^= h >>> 16;
  return (h >>> 0) / 4294967296;
}
