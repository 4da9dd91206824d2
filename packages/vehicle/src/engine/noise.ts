/**
 * Noise as a hash of seed, channel and step: the same log whoever asks, whenever. Returns about N(0, 1), bounded ±3.46
 * (the sum of four uniforms, 16 bits each, out of two rounds). Integer hash: Murmur3 finaliser (public domain).
 */
export function noise(seed: number, channel: number, step: number): number {
  const a = mix(seed ^ Math.imul(channel + 1, 0x9e3779b1) ^ Math.imul(step | 0, 0x85ebca6b));
  const b = mix(a ^ 0x27d4eb2f);
  const sum = (a & 0xffff) + (a >>> 16) + (b & 0xffff) + (b >>> 16);
  return (sum / 65536 - 2) * 1.7320508;
}

/** The same hash as a fair die: uniform in 0…1. */
export function uniform(seed: number, channel: number, step: number): number {
  return mix(seed ^ Math.imul(channel + 1, 0x9e3779b1) ^ Math.imul(step | 0, 0x85ebca6b)) / 4294967296;
}

function mix(x: number): number {
  let h = x >>> 0;
  h ^= h >>> 16;
  h = Math.imul(h, 0x85ebca6b);
  h ^= h >>> 13;
  h = Math.imul(h, 0xc2b2ae35);
  h ^= h >>> 16;
  return h >>> 0;
}
