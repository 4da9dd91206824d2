/** PIDs named by a "supported" bitmap: bit 31 is `base`+1. SAE J1979. */
export function supportedPids(base: number, bitmap: number): number[] {
  const out: number[] = [];
  for (let i = 0; i < 32; i++) if ((bitmap >>> (31 - i)) & 1) out.push(base + 1 + i);
  return out;
}

/** Bitmap for `base` (00, 20, 40 …) out of a list of PIDs; the last bit says that a later block follows. */
export function supportBitmap(base: number, pids: readonly number[]): number {
  let n = 0;
  for (const p of pids) if (p > base && p <= base + 0x20) n |= 1 << (31 - (p - base - 1));
  if (pids.some((p) => p > base + 0x20)) n |= 1;
  return n >>> 0;
}
