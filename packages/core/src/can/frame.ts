/** A classic CAN data frame. `id` is 11-bit unless `extended` (29-bit). `data` holds 0–8 bytes. */
export interface CanFrame {
  id: number;
  extended: boolean;
  data: Uint8Array;
}

/** `7E8`, or eight digits for 29-bit identifiers. */
export function idText(id: number, extended = false): string {
  return id
    .toString(16)
    .toUpperCase()
    .padStart(extended ? 8 : 3, '0');
}

const HEX = Array.from({ length: 256 }, (_, i) => i.toString(16).toUpperCase().padStart(2, '0'));

/** Bytes as upper-case hex, two digits each, nothing between. */
export function toHex(bytes: ArrayLike<number>): string {
  let s = '';
  for (let i = 0; i < bytes.length; i++) s += HEX[bytes[i]!];
  return s;
}

/** Bytes of a string of hex digit pairs; null when it is anything else. */
export function fromHex(text: string): Uint8Array | null {
  if (text.length % 2 !== 0) return null;
  const out = new Uint8Array(text.length / 2);
  for (let i = 0; i < out.length; i++) {
    const hi = nibble(text.charCodeAt(2 * i));
    const lo = nibble(text.charCodeAt(2 * i + 1));
    if (hi < 0 || lo < 0) return null;
    out[i] = hi * 16 + lo;
  }
  return out;
}

function nibble(c: number): number {
  if (c >= 48 && c <= 57) return c - 48;
  if (c >= 65 && c <= 70) return c - 55;
  if (c >= 97 && c <= 102) return c - 87;
  return -1;
}
