import { addDays, addHours, format, isSameDay, max, set, startOfHour } from 'date-fns';

const HOUR_MS = 3_600_000;
/** So many ticks at most, each of a whole number of hours. */
const MOST_TICKS = 9;
const STEPS_H = [1, 2, 3, 6, 12, 24];

export interface Axis {
  /** Where a moment (ISO 8601) stands, percent of the width; `held`: no further than the ends. */
  at(iso: string, held?: boolean): number;
  /** The same of a moment in ms. */
  atMs(ms: number): number;
  nowMs: number;
  /** Hours that are marked, and the day where it is another than before. */
  ticks: readonly { at: number; hour: string; day: string | null }[];
}

/** From now to tomorrow evening, or to four hours after the start where that is later. Times are the shop's own. */
export function axisOf(now: Date, start: string | null): Axis {
  const evening = set(addDays(now, 1), { hours: 20, minutes: 0, seconds: 0, milliseconds: 0 });
  const end = start === null ? evening : max([evening, addHours(new Date(start), 4)]);
  const span = end.getTime() - now.getTime();
  const free = (ms: number) => (100 * (ms - now.getTime())) / span;
  const atMs = (ms: number) => Math.min(100, Math.max(0, free(ms)));
  const at = (iso: string, held = true) => (held ? atMs : free)(new Date(iso).getTime());
  const step = STEPS_H.find((h) => span / HOUR_MS / h <= MOST_TICKS) ?? 24;
  const ticks: { at: number; hour: string; day: string | null }[] = [];
  let before = now;
  for (let t = startOfHour(now); t < end; t = addHours(t, 1)) {
    // The hour of the clock, also over a night in which it is put on or back.
    if (t <= now || t.getHours() % step !== 0) continue;
    ticks.push({
      at: at(t.toISOString()),
      hour: format(t, 'HH'),
      day: isSameDay(t, before) ? null : format(t, 'EEEE'),
    });
    before = t;
  }
  return { at, atMs, nowMs: now.getTime(), ticks };
}

/** A time of day; with its day where it is another than `today`. */
export const timeOn = (at: Date, today?: Date) => format(at, today && !isSameDay(at, today) ? 'EEE HH:mm' : 'HH:mm');
