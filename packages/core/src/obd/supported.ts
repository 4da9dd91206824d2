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

/** One oxygen sensor as fitted. */
export interface FittedSensor {
  bank: number;
  sensor: number;
  wide: boolean;
}

/** Wide-band by voltage (24–2B) or by current (34–3B); the eight follow the order of the layout. SAE J1979, from memory. */
const WIDE_FROM = [0x24, 0x34] as const;

/**
 * Oxygen sensors from PID 13 (two banks of four) or 1D (four banks of two), one bit each, lowest first.
 *
 *   13:  bit 0 B1S1 … bit 3 B1S4, bit 4 B2S1 … bit 7 B2S4        0x33 → B1S1 B1S2 B2S1 B2S2
 *   1D:  bit 0 B1S1, bit 1 B1S2, bit 2 B2S1 … bit 7 B4S2         0x0F → the same four
 */
export function oxygenSensors(layout: number, pid: 0x13 | 0x1d, supported: ReadonlySet<number>): FittedSensor[] {
  const perBank = pid === 0x13 ? 4 : 2;
  return Array.from({ length: 8 }, (_, bit) => bit)
    .filter((bit) => (layout >> bit) & 1)
    .map((bit) => ({
      bank: Math.floor(bit / perBank) + 1,
      sensor: (bit % perBank) + 1,
      wide: WIDE_FROM.some((from) => supported.has(from + bit)),
    }));
}
