import type { CaptureStatus } from './captures.ts';
import type { LinkStatus } from './links.ts';
import type { JobResource } from './wholeJob.ts';

/** On every read of a job: how many writes it had seen when it was read. */
export const CHANGES_HEADER = 'x-changes';
/** The server's clock as it answers, ms since 1970. */
export const CLOCK_HEADER = 'x-clock';
/** `1`: sentences as words and typed figures, for a page that shows them in the units of its reader. */
export const TYPED_HEADER = 'x-typed';

/** Socket messages, server to screen. */
export type ServerMessage =
  | {
      type: 'live';
      jobId: string;
      t: number;
      values: Record<string, number | string>;
      committed: boolean;
      /** The whole of a committed second: wall-clock time of its first sample, ms, and samples so many ms after it. */
      second?: { atMs: number; data: Record<string, [number, number | string][]> };
    }
  | { type: 'link'; jobId: string; status: LinkStatus }
  | { type: 'capture'; jobId: string; status: CaptureStatus }
  /** `resources`: what to look at again, all where it is null; `screen`: whose own write it was, it knows already. */
  | { type: 'changed'; jobId: string; resources: JobResource[] | null; screen: string | null }
  /** Who has the job open now, each screen once. */
  | {
      type: 'present';
      jobId: string;
      people: string[] /** At what each of them is, as their page says; null: it says nothing. */;
      at: (string | null)[];
    }
  | { type: 'error'; message: string }
  /** It is there: the answer to the same from the screen, with what that said of its own clock, and the server's, ms since 1970. */
  | { type: 'beat'; sentMs: number | null; clockMs: number }
  /** From here on every change is told; `changes`: how many writes the job had seen by then. */
  | { type: 'subscribed'; jobId: string; changes: number };

/** Socket messages, screen to server. */
export type ClientMessage =
  /** `screen`: the page, by the id it gave itself; where it comes again over another socket it is the same screen. */
  | { type: 'subscribe'; jobId: string; screen?: string }
  | { type: 'unsubscribe'; jobId: string }
  /** At what the person at this screen is. */
  | { type: 'at'; at: string }
  /** Whether the server is there; `sentMs`: by this device's clock, ms since 1970. */
  | { type: 'beat'; sentMs: number | null };

/** Characters of a place in the work. */
export const MOST_AT = 120;
const ID = /^[0-9a-f-]{36}$/i;

/** A frame from a screen as a message, or what is wrong with it. Never throws. */
export function readClientMessage(text: string): ClientMessage | string {
  let json: unknown;
  try {
    json = JSON.parse(text);
  } catch {
    return 'not JSON';
  }
  if (json === null || typeof json !== 'object') return 'unknown message';
  const { type, jobId, screen, at, sentMs } = json as Record<string, unknown>;
  if (type === 'beat') return { type, sentMs: Number.isFinite(sentMs) ? (sentMs as number) : null };
  if (type === 'at') return typeof at === 'string' && at.length <= MOST_AT ? { type, at } : 'too long, or no words';
  if (type !== 'subscribe' && type !== 'unsubscribe') return 'unknown message';
  if (typeof jobId !== 'string' || !ID.test(jobId)) return 'no such job in this shop';
  return type === 'subscribe' && typeof screen === 'string' && ID.test(screen)
    ? { type, jobId, screen }
    : { type, jobId };
}
