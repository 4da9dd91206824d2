import type { NewCaptureRequest, OfflineEndRequest, Phase } from '@just-balance/contract';
import type { SetAside } from '@just-balance/core/link';

/** A recording of this device's own link on its way to the shop. */
export interface OfflineRecording {
  /** The capture's id, there and here. */
  id: string;
  accountId: string;
  jobId: string;
  at: NewCaptureRequest['at'];
  phase: Phase;
  /** The drive procedure it is coached against; null for any other recording. */
  coach: string | null;
  startedAtMs: number;
  /** How far this device's clock was behind the shop's as it began, ms; absent from recordings of before it was measured. */
  offsetMs?: number;
  /** Seconds put down so far, and those the shop has committed. */
  seconds: number;
  sent: number;
  begun: boolean;
  events: OfflineEndRequest['events'];
  /** Frames that did not count so far; absent from recordings of before they were counted. */
  setAside?: SetAside;
  /** How it ended; null while it goes on. */
  ended: OfflineEndRequest['how'] | null;
  /** Why the shop will not have it; null while it only waits. */
  refused: string | null;
}

/** What was on the bus in a second: `packFrames` from its time on, deflated. */
export interface KeptBus {
  frames: Uint8Array;
  lost: number;
}

/** One second: wall-clock time of its first sample, ms; samples by channel, ms after it. */
export interface KeptSecond {
  spool: string;
  seq: number;
  atMs: number;
  data: Record<string, [number, number | string][]>;
  /** Absent where nothing was on it, and from recordings of before it was kept. */
  bus?: KeptBus;
}

/** A second as the link puts it down. */
export type NewSecond = Pick<KeptSecond, 'atMs' | 'data' | 'bus'>;
