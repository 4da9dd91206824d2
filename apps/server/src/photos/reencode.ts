import sharp from 'sharp';

/** What a picture may be before and after. [house] */
const MOST_PIXELS = 50_000_000;
/** No camera's picture is longer; a line of points costs a decoder more than a picture of as many. */
const MOST_EDGE = 16_000;
/** A picture is decoded in a second; what takes longer is made to. */
const MOST_SECONDS = 15;
const LONG_EDGE = 2560;
const SMALL_EDGE = 320;
const FORMATS = ['jpeg', 'png', 'webp'];

/** First bytes of what is taken. */
const SIGNATURES: readonly ((b: Buffer) => boolean)[] = [
  (b) => b.subarray(0, 3).equals(Buffer.from([0xff, 0xd8, 0xff])),
  (b) => b.subarray(0, 8).equals(Buffer.from([0x89, 0x50, 0x4e, 0x47, 0x0d, 0x0a, 0x1a, 0x0a])),
  (b) => b.subarray(0, 4).toString('latin1') === 'RIFF' && b.subarray(8, 12).toString('latin1') === 'WEBP',
];

export class PictureError extends Error {}

export interface Reencoded {
  image: Buffer;
  small: Buffer;
  width: number;
  height: number;
}

// One picture at a time on one core each: the shop's other requests go on.
sharp.concurrency(1);
sharp.cache(false);

const opened = (image: Buffer) =>
  sharp(image, { limitInputPixels: MOST_PIXELS, failOn: 'error', animated: false }).timeout({ seconds: MOST_SECONDS });

const reduced = (image: Buffer) =>
  opened(image).resize({ width: SMALL_EDGE, height: SMALL_EDGE, fit: 'inside' }).jpeg({ quality: 75 }).toBuffer();

/** Of a JPEG that is to stay as it is: its size, and the same small; null where it is not whole. */
export async function smallOf(image: Buffer): Promise<Omit<Reencoded, 'image'> | null> {
  try {
    const { width = 0, height = 0, format } = await opened(image).metadata();
    return format === 'jpeg' && Math.max(width, height) <= MOST_EDGE
      ? { small: await reduced(image), width, height }
      : null;
  } catch {
    return null;
  }
}

/**
 * A picture from outside as a JPEG of ours: turned upright, bounded, everything beside its pixels gone (location,
 * camera, thumbnails, trailing bytes). Throws PictureError for anything that is not a whole JPEG, PNG or WebP.
 */
export async function reencode(body: Buffer): Promise<Reencoded> {
  // Nothing else reaches a decoder: no drawing with scripts or references, no document.
  if (!SIGNATURES.some((is) => is(body))) throw new PictureError('it is no JPEG, PNG or WebP');
  let format: string | undefined;
  try {
    const source = opened(body);
    const head = await source.metadata();
    format = head.format;
    if (!FORMATS.includes(format ?? '')) throw new PictureError(`${format ?? 'this'} is not taken: JPEG, PNG or WebP`);
    if (Math.max(head.width, head.height) > MOST_EDGE)
      throw new PictureError(`longer than ${MOST_EDGE.toLocaleString('en-US')} points at one edge`);
    const upright = source.rotate().flatten({ background: '#fff' }).toColourspace('srgb');
    const { data: image, info } = await upright
      .clone()
      .resize({ width: LONG_EDGE, height: LONG_EDGE, fit: 'inside', withoutEnlargement: true })
      .jpeg({ quality: 82 })
      .toBuffer({ resolveWithObject: true });
    return { image, small: await reduced(image), width: info.width, height: info.height };
  } catch (e) {
    if (e instanceof PictureError) throw e;
    throw new PictureError(
      /pixel limit/i.test((e as Error).message)
        ? 'more than 50 million pixels'
        : /timeout/i.test((e as Error).message)
          ? 'it takes too long to decode'
          : 'it is no whole JPEG, PNG or WebP picture',
    );
  }
}
