/** How a text file is written; what is not UTF is taken for Windows' Latin letters. */
export type Encoding = 'utf-8' | 'utf-16le' | 'utf-16be' | 'windows-1252';

/** Share of zero bytes at every second place from which text is taken for UTF-16 without a mark. [house] */
const ZEROS = 0.3;
/** Zeros at the other places that a text may have all the same: a sign whose low byte is none, as a share. [house] */
const FEW = 0.05;
/** Zeros of a decoded text from which it is none; fewer are the padding of a log that was cut off. [house] */
const NO_TEXT = 0.2;

/** The encoding of a text by its first bytes: its mark, zeros at every second place, or whether it is UTF-8 at all. */
export function encodingOf(head: Uint8Array): Encoding {
  if (head[0] === 0xff && head[1] === 0xfe) return 'utf-16le';
  if (head[0] === 0xfe && head[1] === 0xff) return 'utf-16be';
  const pairs = head.length >> 1;
  let [even, odd] = [0, 0];
  for (let i = 0; i < pairs; i++) {
    if (head[2 * i] === 0) even++;
    if (head[2 * i + 1] === 0) odd++;
  }
  if (odd > ZEROS * pairs && even < FEW * odd) return 'utf-16le';
  if (even > ZEROS * pairs && odd < FEW * even) return 'utf-16be';
  return isUtf8(head) ? 'utf-8' : 'windows-1252';
}

/** Whether a decoded head is text: letters and lines, not the bytes of something else. */
export function isText(head: string): boolean {
  let [zeros, other] = [0, 0];
  for (const c of head) {
    if (c === '\u0000') zeros++;
    else if (c < ' ' && !'\t\n\v\f\r'.includes(c)) other++;
  }
  return zeros + other <= NO_TEXT * head.length;
}

/** Whether bytes are UTF-8; a character cut at the end is let through. RFC 3629. */
function isUtf8(b: Uint8Array): boolean {
  for (let i = 0; i < b.length; ) {
    const c = b[i]!;
    const more = c < 0x80 ? 0 : c >= 0xc2 && c < 0xe0 ? 1 : c >= 0xe0 && c < 0xf0 ? 2 : c >= 0xf0 && c < 0xf5 ? 3 : -1;
    if (more < 0) return false;
    for (let k = 1; k <= more; k++) {
      if (i + k >= b.length) return true;
      if ((b[i + k]! & 0xc0) !== 0x80) return false;
    }
    i += more + 1;
  }
  return true;
}
