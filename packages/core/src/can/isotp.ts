/**
 * ISO 15765-2 transport: messages of up to 4,095 bytes over frames of 8 (from memory of the 2016 edition).
 *
 *   byte 0    0000 llll                 single frame, l = 1…7 payload bytes
 *   byte 0–1  0001 llll llll llll       first frame, l = 8…4095, 6 payload bytes
 *   byte 0    0010 ssss                 consecutive frame, s = sequence 1…15, 0…, 7 payload bytes
 *   byte 0–2  0011 ffff, BS, STmin      flow control, f: 0 go on, 1 wait, 2 overflow
 */
export const ISOTP_MAX = 4095;
/** N_Cr and N_Bs: the longest wait for the next consecutive frame or flow control, µs. ISO 15765-2. */
export const ISOTP_TIMEOUT_US = 1_000_000;
export const PAD = 0x55;

/**
 * What broke a message under way (ISO 15765-2): a frame out of order, more than fits, nothing in time, a frame nobody
 * waits for, a length that cannot be.
 */
export type IsoTpError = 'sequence' | 'overflow' | 'timeout' | 'unexpected' | 'length';

/** What a frame amounts to: a whole message, a flow control to be sent or received, or what broke the message. */
export type IsoTpReceived =
  | { kind: 'message'; payload: Uint8Array }
  | { kind: 'flowControlDue' }
  | { kind: 'flowControl'; status: number; blockSize: number; stMinUs: number }
  | { kind: 'error'; error: IsoTpError; detail: string };

/** Reassembles the messages of one sender (one arbitration id). Time comes in with every frame. */
export class IsoTpReceiver {
  private buffer: Uint8Array | null = null;
  private filled = 0;
  private next = 1;
  private lastUs = 0;

  constructor(private readonly maxLength = ISOTP_MAX) {}

  get busy(): boolean {
    return this.buffer !== null;
  }

  /** Take one frame's data; returns what it completed or broke, in order. */
  feed(data: Uint8Array, atUs: number): IsoTpReceived[] {
    const out: IsoTpReceived[] = [];
    if (this.buffer && atUs - this.lastUs > ISOTP_TIMEOUT_US) {
      out.push(this.fail('timeout', `no consecutive frame within ${ISOTP_TIMEOUT_US / 1000} ms`));
    }
    if (data.length === 0) return [...out, { kind: 'error', error: 'length', detail: 'empty frame' }];
    const type = data[0]! >> 4;
    if (type === 0) {
      if (this.buffer) out.push(this.fail('unexpected', 'single frame inside a multi-frame message'));
      const length = data[0]! & 0x0f;
      if (length === 0 || length > 7 || data.length < length + 1) {
        out.push({
          kind: 'error',
          error: 'length',
          detail: `single frame says ${length} bytes, holds ${data.length - 1}`,
        });
      } else out.push({ kind: 'message', payload: data.slice(1, 1 + length) });
    } else if (type === 1) {
      if (this.buffer) out.push(this.fail('unexpected', 'first frame inside a multi-frame message'));
      const length = ((data[0]! & 0x0f) << 8) | (data[1] ?? 0);
      if (data.length < 8 || length < 8) {
        out.push({ kind: 'error', error: 'length', detail: `first frame says ${length} bytes` });
      } else if (length > this.maxLength) {
        out.push({ kind: 'error', error: 'overflow', detail: `${length} bytes, at most ${this.maxLength} taken` });
      } else {
        this.buffer = new Uint8Array(length);
        this.buffer.set(data.subarray(2, 8));
        this.filled = 6;
        this.next = 1;
        this.lastUs = atUs;
        out.push({ kind: 'flowControlDue' });
      }
    } else if (type === 2) {
      if (!this.buffer) {
        out.push({ kind: 'error', error: 'unexpected', detail: 'consecutive frame without a first frame' });
      } else if ((data[0]! & 0x0f) !== this.next) {
        out.push(this.fail('sequence', `frame ${data[0]! & 0x0f} where ${this.next} was due`));
      } else {
        const take = Math.min(7, this.buffer.length - this.filled);
        if (data.length < take + 1) return [...out, this.fail('length', 'consecutive frame too short')];
        this.buffer.set(data.subarray(1, 1 + take), this.filled);
        this.filled += take;
        this.next = (this.next + 1) & 0x0f;
        this.lastUs = atUs;
        if (this.filled === this.buffer.length) {
          out.push({ kind: 'message', payload: this.buffer });
          this.buffer = null;
        }
      }
    } else if (type === 3) {
      out.push({
        kind: 'flowControl',
        status: data[0]! & 0x0f,
        blockSize: data[1] ?? 0,
        stMinUs: stMinUs(data[2] ?? 0),
      });
    } else {
      out.push({ kind: 'error', error: 'unexpected', detail: `frame type ${type}` });
    }
    return out;
  }

  private fail(error: IsoTpError, detail: string): IsoTpReceived {
    this.buffer = null;
    return { kind: 'error', error, detail };
  }
}

/** STmin byte to µs: 00–7F are ms, F1–F9 are 100–900 µs, the rest is reserved and counts as 127 ms. */
export function stMinUs(byte: number): number {
  if (byte <= 0x7f) return byte * 1000;
  if (byte >= 0xf1 && byte <= 0xf9) return (byte - 0xf0) * 100;
  return 127_000;
}

/** Flow control "go on, everything, no pause", padded to 8 bytes. */
export function flowControlFrame(blockSize = 0, stMin = 0): Uint8Array {
  const f = new Uint8Array(8).fill(PAD);
  f.set([0x30, blockSize, stMin]);
  return f;
}

/** All frames of a message, padded to 8 bytes: one single frame, or a first frame and its consecutive frames. */
export function segment(payload: Uint8Array): Uint8Array[] {
  if (payload.length === 0 || payload.length > ISOTP_MAX) {
    throw new RangeError(`ISO-TP payload of ${payload.length} bytes: 1 to ${ISOTP_MAX}`);
  }
  if (payload.length <= 7) return [padded([payload.length], payload)];
  const frames = [padded([0x10 | (payload.length >> 8), payload.length & 0xff], payload.subarray(0, 6))];
  for (let offset = 6, seq = 1; offset < payload.length; offset += 7, seq = (seq + 1) & 0x0f) {
    frames.push(padded([0x20 | seq], payload.subarray(offset, offset + 7)));
  }
  return frames;
}

function padded(head: number[], body: Uint8Array): Uint8Array {
  const f = new Uint8Array(8).fill(PAD);
  f.set(head);
  f.set(body, head.length);
  return f;
}
