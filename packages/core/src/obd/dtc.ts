/**
 * Trouble code from its two bytes. SAE J2012 / ISO 15031-6:
 *
 *   A: ss dd hhhh   B: hhhh hhhh     ss 0 P, 1 C, 2 B, 3 U; dd first digit
 *   01 71 → P0171, C1 00 → U0100
 */
export function dtcText(a: number, b: number): string {
  const system = 'PCBU'[a >> 6]!;
  const rest = ((a & 0x3f) << 8) | b;
  return system + rest.toString(16).toUpperCase().padStart(4, '0');
}

/** The two bytes of a code such as P0171; null when it is not one. */
export function dtcBytes(code: string): [number, number] | null {
  const m = /^([PCBU])([0-3])([0-9A-F]{3})$/.exec(code);
  if (!m) return null;
  const n = Number.parseInt(m[2]! + m[3]!, 16);
  return [('PCBU'.indexOf(m[1]!) << 6) | (n >> 8), n & 0xff];
}
