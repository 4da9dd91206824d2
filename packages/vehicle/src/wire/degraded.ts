import type { CanFrame } from '@just-balance/core/can';
import { uniform } from '../engine/index.ts';

/** How bad the link is: shares of frames dropped and corrupted, extra delay, adapter browning out when cranking. */
export interface Degradation {
  dropShare: number;
  corruptShare: number;
  delayMs: number;
  brownOut: boolean;
}

export const SOUND: Degradation = { dropShare: 0, corruptShare: 0, delayMs: 0, brownOut: false };

/** What a frame meets on a bad link, by a hash of seed and count: null dropped, else the frame and its delay. */
export function degrade(
  frame: CanFrame,
  d: Degradation,
  seed: number,
  count: number,
): { frame: CanFrame; delayMs: number } | null {
  const dice = (channel: number) => uniform(seed, channel, count);
  if (dice(200) < d.dropShare) return null;
  const delayMs = d.delayMs * dice(201);
  if (dice(202) >= d.corruptShare || frame.data.length === 0) return { frame, delayMs };
  const data = frame.data.slice();
  const at = Math.min(Math.floor(dice(203) * data.length), data.length - 1);
  data[at]! ^= 1 << Math.min(7, Math.floor(dice(204) * 8));
  return { frame: { ...frame, data }, delayMs };
}
