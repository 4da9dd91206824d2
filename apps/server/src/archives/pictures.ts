import { PictureError, reencode, smallOf } from '../photos/reencode.ts';

/** Markers of a JPEG (ITU-T T.81) that carry nothing but the picture. */
const PLAIN = new Set([0xe0, 0xdb, 0xc0, 0xc1, 0xc2, 0xc4, 0xdd]);

/** A JPEG with nothing in it but its picture: no place, no camera, no trailing bytes. */
export function isPlainJpeg(b: Uint8Array): boolean {
  if (b.length < 4 || b[0] !== 0xff || b[1] !== 0xd8) return false;
  let at = 2;
  for (;;) {
    if (b[at] !== 0xff) return false;
    const marker = b[at + 1]!;
    if (marker === 0xd9) return at + 2 === b.length;
    if (marker !== 0xda && !PLAIN.has(marker)) return false;
    const length = ((b[at + 2] ?? 0) << 8) | (b[at + 3] ?? 0);
    if (length < 2) return false;
    at += 2 + length;
    if (marker !== 0xda) continue;
    // Entropy-coded data: up to the next marker that is neither a stuffed byte nor a restart.
    while (at < b.length - 1 && !(b[at] === 0xff && b[at + 1] !== 0 && !(b[at + 1]! >= 0xd0 && b[at + 1]! <= 0xd7)))
      at++;
    if (at >= b.length - 1) return false;
  }
}

/** A picture of an archive: as it is where it is plain, else made again as any from outside. Throws ArchiveError's cause. */
export async function pictureIn(
  bytes: Uint8Array,
): Promise<{ image: Buffer; small: Buffer; width: number; height: number }> {
  const image = Buffer.from(bytes);
  if (!isPlainJpeg(bytes)) return reencode(image);
  const made = await smallOf(image);
  if (!made) throw new PictureError('it is no whole JPEG');
  return { image, ...made };
}
