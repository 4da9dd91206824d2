import { MONITORS, type MonitorId } from '../obd/index.ts';
import { notYetJudged, twoTripsSince } from './trips.ts';

/** Something that settles itself when the car is next read. */
export interface SettlesLine {
  id: string;
  state: 'open' | 'settled' | 'came-back';
  text: string;
  /** When the car should be read again, ms since 1970; null once it is settled. */
  remindAtMs: number | null;
}

/** A record with the moment it was read. */
export interface ReadRecord {
  atMs: number;
  codes: readonly { code: string; state: 'stored' | 'pending' | 'permanent' }[];
  open: readonly MonitorId[] | null;
  warmupsSinceClear: number | null;
}

/** Trips and warm-ups come by themselves within about this, days. [house] */
const REMIND_DAYS = 7;
const DAY_MS = 86_400_000;
/** A code is forgotten after this many warm-ups. SAE J1979 practice (from memory). */
const FORGET_WARMUPS = 40;

/**
 * Permanent codes, monitors that were open, warm-ups until codes are forgotten: a line each, oldest record to newest.
 * `repairedMs`: when the repair was done, ms since 1970, null before there is one.
 */
export function settlesLines(
  records: readonly ReadRecord[],
  proves: readonly MonitorId[],
  repairedMs: number | null,
): SettlesLine[] {
  const last = records.at(-1);
  if (!last) return [];
  const out: SettlesLine[] = [];
  const remindAtMs = last.atMs + REMIND_DAYS * DAY_MS;
  const line = (id: string, settled: boolean, open: string, done: string) =>
    out.push({
      id,
      state: settled ? 'settled' : 'open',
      text: settled ? done : open,
      remindAtMs: settled ? null : remindAtMs,
    });
  const ever = (state: 'stored' | 'pending' | 'permanent') => [
    ...new Set(records.flatMap((r) => r.codes.filter((c) => c.state === state).map((c) => c.code))),
  ];
  const now = (state: string, code: string) => last.codes.some((c) => c.state === state && c.code === code);
  for (const code of ever('permanent'))
    line(
      `permanent-${code}`,
      !now('permanent', code),
      `${code} is permanent: it goes when its own monitor has passed, not by clearing.`,
      `${code}, permanent before, has gone: its own monitor has passed.`,
    );
  for (const code of ever('pending')) {
    if (now('stored', code)) {
      out.push({
        id: `pending-${code}`,
        state: 'came-back',
        text: `${code} came on a second trip and is stored.`,
        remindAtMs: null,
      });
      continue;
    }
    const lastSeenMs = records
      .filter((r) => r.codes.some((c) => c.state === 'pending' && c.code === code))
      .at(-1)!.atMs;
    const away = !now('pending', code);
    const sinceMs = Math.max(lastSeenMs, repairedMs ?? lastSeenMs);
    const earlier = records.filter((r) => r.atMs <= sinceMs).at(-1) ?? null;
    const driven = twoTripsSince(sinceMs, last, earlier);
    const unjudged = notYetJudged([code], last.open);
    line(
      `pending-${code}`,
      away && driven && unjudged.length === 0,
      !away
        ? `${code} is pending: a second trip decides.`
        : driven
          ? `${code}, pending before, has not come again so far; its monitor has not run yet.`
          : `${code}, pending before, has not come again so far; two trips have not been driven yet.`,
      `${code}, pending before, did not come again.`,
    );
  }
  const opened = new Set(records.flatMap((r) => r.open ?? []));
  if (last.open)
    for (const id of opened)
      line(
        `monitor-${id}`,
        !last.open.includes(id),
        `${MONITORS[id]} is open${proves.includes(id) ? ', and proves this repair' : ''}.`,
        `${MONITORS[id]} has completed.`,
      );
  const stored = last.codes.filter((c) => c.state === 'stored');
  if (stored.length > 0 && last.warmupsSinceClear !== null && last.warmupsSinceClear < FORGET_WARMUPS)
    line(
      'warm-ups',
      false,
      `Stored codes are forgotten ${FORGET_WARMUPS} warm-ups after the lamp has gone out by itself; ${last.warmupsSinceClear} since clearing.`,
      '',
    );
  return out;
}
