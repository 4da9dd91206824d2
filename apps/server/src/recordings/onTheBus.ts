import { promisify } from 'node:util';
import { deflate, inflate } from 'node:zlib';
import { formatCandumpLine, MOST_IN_BATCH, packFrames, type TimedFrame, unpackFrames } from '@just-balance/core/can';
import { QueryTypes, type Transaction } from 'sequelize';
import { CaptureFrames } from '../rows/captures.ts';

const packed = promisify(deflate);
const unpacked = promisify(inflate);
/** Bytes of one row of frames, unpacked: 20,000 frames of at most 20 bytes, and room. [house] */
const MOST_PLAIN_BYTES = 1024 * 1024;
/** A device's frames lie so close to the second they came with: a dead minute may lie between. [house] */
const MOST_ASTRAY_MS = 600_000;

/** What is kept of the bus beside a capture's values. */
export interface OnTheBus {
  frames: number;
  /** Frames that came and are not kept. */
  lost: number;
}

/** A row of frames as it is stored; `atMs` is when the first of them was there. */
export async function storedFrames(
  frames: readonly TimedFrame[],
  atMs: number,
): Promise<Pick<CaptureFrames, 'atMs' | 'n' | 'data'>> {
  return { atMs: Math.round(atMs), n: frames.length, data: await packed(packFrames(frames, frames[0]!.atUs)) };
}

/**
 * Frames that a device has packed and deflated, its second's wall-clock time `atMs`. Null where they are none: cut, too
 * many, of no bus.
 */
export async function framesOfDevice(deflated: Uint8Array, atMs: number): Promise<TimedFrame[] | null> {
  try {
    const bytes = await unpacked(deflated, { maxOutputLength: MOST_PLAIN_BYTES });
    const frames: TimedFrame[] = [];
    for (const f of unpackFrames(bytes, atMs * 1000)) {
      const fits = f.frame.id <= (f.frame.extended ? 0x1fff_ffff : 0x7ff);
      if (!fits || Math.abs(f.atUs / 1000 - atMs) > MOST_ASTRAY_MS || frames.length >= MOST_IN_BATCH) return null;
      frames.push(f);
    }
    return frames.length > 0 ? frames : null;
  } catch {
    return null;
  }
}

/** Bytes that are stored of it, deflated. */
export async function bytesOnTheBus(captureId: string, transaction?: Transaction): Promise<number> {
  const [row] = await CaptureFrames.sequelize!.query<{ bytes: string | null }>(
    'SELECT SUM(LENGTH(data)) bytes FROM capture_frames WHERE captureId = ?',
    { type: QueryTypes.SELECT, replacements: [captureId], transaction: transaction ?? null },
  );
  return Number(row?.bytes ?? 0);
}

/** Null where nothing is kept of it. */
export async function onTheBus(shopId: string, captureId: string, transaction?: Transaction): Promise<OnTheBus | null> {
  const [row] = await CaptureFrames.sequelize!.query<{ frames: string | null; lost: string | null }>(
    'SELECT SUM(n) frames, SUM(lost) lost FROM capture_frames WHERE captureId = ? AND shopId = ?',
    { type: QueryTypes.SELECT, replacements: [captureId, shopId], transaction: transaction ?? null },
  );
  const frames = Number(row?.frames ?? 0);
  return frames > 0 ? { frames, lost: Number(row!.lost) } : null;
}

/** The frames as a log, a row of them at a time. */
export async function* busLog(shopId: string, captureId: string): AsyncGenerator<string> {
  const keys = await CaptureFrames.findAll({
    where: { captureId, shopId },
    attributes: ['epoch', 'seq'],
    order: [
      ['epoch', 'ASC'],
      ['seq', 'ASC'],
    ],
  });
  for (const { epoch, seq } of keys) {
    const row = await CaptureFrames.findOne({ where: { captureId, epoch, seq, shopId } });
    // Erased in between.
    if (!row) continue;
    let piece = '';
    const bytes = await unpacked(row.data, { maxOutputLength: MOST_PLAIN_BYTES });
    for (const { atUs, frame } of unpackFrames(bytes, Number(row.atMs) * 1000))
      piece += `${formatCandumpLine(frame, atUs)}\n`;
    yield piece;
  }
}
