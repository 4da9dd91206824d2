import { describe, expect, test } from '@jest/globals';
import sharp from 'sharp';
import { isPlainJpeg } from '../src/archives/pictures.ts';

const noise = (n: number) => Buffer.from(Array.from({ length: n }, (_, i) => (i * 7919) % 256));
const picture = () => sharp(noise(64 * 48 * 3), { raw: { width: 64, height: 48, channels: 3 } });
/** A segment (ITU-T T.81 B.1.1.4): its marker, its length with the length itself, its bytes. */
const segment = (marker: number, text: string) =>
  Buffer.concat([Buffer.from([0xff, marker, (text.length + 2) >> 8, (text.length + 2) & 255]), Buffer.from(text)]);
const behindStart = (jpeg: Buffer, s: Buffer) => Buffer.concat([jpeg.subarray(0, 2), s, jpeg.subarray(2)]);

describe('a JPEG with nothing in it but its picture', () => {
  test('of one scan, of many, and with restarts', async () => {
    expect(isPlainJpeg(await picture().jpeg().toBuffer())).toBe(true);
    expect(isPlainJpeg(await picture().jpeg({ progressive: true }).toBuffer())).toBe(true);
  });
  test('not with a place and a camera, a comment, or anything behind its end', async () => {
    const plain = await picture().jpeg().toBuffer();
    // Exif (APP1), another program's (APP13), a comment (COM).
    for (const marker of [0xe1, 0xed, 0xfe])
      expect(isPlainJpeg(behindStart(plain, segment(marker, 'Exif at home')))).toBe(false);
    expect(isPlainJpeg(behindStart(plain, segment(0xe0, 'JFIF')))).toBe(true);
    expect(isPlainJpeg(Buffer.concat([plain, Buffer.from('x')]))).toBe(false);
  });
  test('not cut anywhere, and not what is none', async () => {
    const plain = await picture().jpeg().toBuffer();
    for (let n = 0; n < plain.length; n += 7) expect([n, isPlainJpeg(plain.subarray(0, n))]).toEqual([n, false]);
    expect(isPlainJpeg(await picture().png().toBuffer())).toBe(false);
    expect(isPlainJpeg(Buffer.from([0xff, 0xd8, 0xff, 0xe0, 0, 0]))).toBe(false);
  });
});
