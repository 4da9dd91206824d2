import type { MonitorId } from '../obd/index.ts';
import { notYetJudged, twoTripsSince } from '../readiness/index.ts';

/** Whether the code stays away: the other half of a proof. */
export interface PendingLine {
  state: 'open' | 'too early' | 'stays away' | 'came back';
  text: string;
  /** When the car should be read again, ms since 1970; null once the line has settled. */
  remindAtMs: number | null;
}

/** Two trips are as a rule done by then, days. [house] */
const REMIND_DAYS = 7;
const DAY_MS = 86_400_000;

/**
 * No pending code after two trips, from the newest record read after the repair. It settles itself when the car is next
 * read. Common practice, no source.
 */
export function pendingLine(job: {
  repairedMs: number | null;
  records: readonly {
    atMs: number;
    codes: readonly { code: string; state: string }[];
    warmupsSinceClear: number | null;
    /** Monitors that were open; null or absent: not read. */
    open?: readonly MonitorId[] | null;
  }[];
  /** Codes of the first visit: only these can come back. */
  codesBefore: readonly string[];
}): PendingLine | null {
  const { repairedMs } = job;
  if (repairedMs === null) return null;
  const remindAtMs = repairedMs + REMIND_DAYS * DAY_MS;
  const record = job.records.filter((r) => r.atMs > repairedMs).at(-1);
  if (!record) return { state: 'open', text: 'No pending code after two trips: not read yet.', remindAtMs };
  const pending = record.codes.filter((c) => c.state === 'pending' || c.state === 'stored').map((c) => c.code);
  const back = pending.filter((c) => job.codesBefore.length === 0 || job.codesBefore.includes(c));
  if (back.length > 0)
    return { state: 'came back', text: `${[...new Set(back)].join(', ')} came back.`, remindAtMs: null };
  const earlier = job.records.filter((r) => r.atMs <= repairedMs).at(-1) ?? null;
  if (!twoTripsSince(repairedMs, record, earlier))
    return { state: 'too early', text: 'No pending code so far; two trips have not been driven yet.', remindAtMs };
  const unjudged = notYetJudged(job.codesBefore, record.open);
  if (unjudged.length > 0)
    return {
      state: 'too early',
      text: `No pending code so far; the monitor has not run yet: ${unjudged.join(', ')}.`,
      remindAtMs,
    };
  return { state: 'stays away', text: 'No pending code after two trips.', remindAtMs: null };
}
