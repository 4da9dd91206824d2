import type { CanFrame } from './frame.ts';

/** A frame and when it was on the wire, µs. */
export interface TimedFrame {
  atUs: number;
  frame: CanFrame;
}

const EXTENDED = 0x10;
const LENGTH = 0x0f;
const MOST_BYTES = 8;

/** Seven bits a byte, the highest bit where more follow. */
function pushVarint(out: number[], v: number): void {
  let rest = v;
  while (rest >= 0x80) {
    out.push((rest % 0x80) | 0x80);
    rest = Math.floor(rest / 0x80);
  }
  out.push(rest);
}

/**
 * Frames as bytes: for each the µs since the one before (the first: since `fromUs`), a step back folded in as odd
 * numbers; length and kind of identifier; identifier; data. Times are whole µs.
 */
export function packFrames(frames: readonly TimedFrame[], fromUs: number): Uint8Array {
  const out: number[] = [];
  let before = fromUs;
  for (const { atUs, frame } of frames) {
    const step = atUs - before;
    pushVarint(out, step < 0 ? -2 * step - 1 : 2 * step);
    before = atUs;
    out.push(frame.data.length | (frame.extended ? EXTENDED : 0));
    pushVarint(out, frame.id);
    out.push(...frame.data);
  }
  return Uint8Array.from(out);
}

/** The frames again, `fromUs` as when they were packed. Throws RangeError where the bytes are cut or none of these. */
export function* unpackFrames(bytes: Uint8Array, fromUs: number): Generator<TimedFrame> {
  let at = 0;
  const byte = () => {
    const b = bytes[at++];
    if (b === undefined) throw new RangeError(`frames end at byte ${at - 1}, in the middle of one`);
    return b;
  };
  const varint = () => {
    let [v, scale] = [0, 1];
    for (let b = byte(); ; b = byte()) {
      v += (b & 0x7f) * scale;
      if (b < 0x80) return v;
      scale *= 0x80;
      if (scale > 2 ** 49) throw new RangeError(`frames: a number too long at byte ${at}`);
    }
  };
  for (let us = fromUs; at < bytes.length; ) {
    const step = varint();
    us += step % 2 === 1 ? -(step + 1) / 2 : step / 2;
    const kind = byte();
    const length = kind & LENGTH;
    if (length > MOST_BYTES) throw new RangeError(`frames: ${length} data bytes at byte ${at - 1}`);
    const id = varint();
    const data = bytes.slice(at, at + length);
    if (data.length < length) throw new RangeError(`frames end at byte ${bytes.length}, in the middle of one`);
    at += length;
    yield { atUs: us, frame: { id, extended: (kind & EXTENDED) !== 0, data } };
  }
}
