import { createEvents, type DateArray } from 'ics';
import { shopNow } from '../../data/shopClock.ts';

export interface CalendarEntry {
  uid: string;
  title: string;
  /** ISO 8601. */
  at: string;
  minutes: number;
  words: string;
}

const utc = (iso: string): DateArray => {
  const d = new Date(iso);
  return [d.getUTCFullYear(), d.getUTCMonth() + 1, d.getUTCDate(), d.getUTCHours(), d.getUTCMinutes()];
};

const MINUTE_MS = 60_000;
/** A start that was worked out so long ago is still meant as now, ms. [house] */
const JUST_NOW_MS = 30 * MINUTE_MS;
/** Of a line without its end (RFC 5545 3.1). */
const MOST_BYTES = 75;

/**
 * A calendar file (RFC 5545) of the end of a soak, a drive, a look again. Nothing is booked in the past: what was to begin
 * just now begins with the next minute, what lies further back is left out.
 *
 * @throws Where nothing is left to book, or an entry cannot be written.
 */
export function calendarFile(entries: readonly CalendarEntry[], nowMs: number = shopNow()): string {
  const next = Math.ceil(nowMs / MINUTE_MS) * MINUTE_MS;
  const ahead = entries
    .filter((e) => Date.parse(e.at) >= nowMs - JUST_NOW_MS)
    .map((e) => ({ ...e, at: new Date(Math.max(next, Date.parse(e.at))).toISOString() }));
  if (ahead.length === 0) throw new Error('All of it lies in the past: there is nothing to put into a calendar.');
  const { error, value } = createEvents(
    ahead.map((e) => ({
      uid: e.uid,
      title: e.title,
      description: e.words,
      start: utc(e.at),
      startInputType: 'utc' as const,
      startOutputType: 'utc' as const,
      duration: { minutes: Math.max(1, Math.round(e.minutes)) },
      alarms: [{ action: 'display' as const, description: e.title, trigger: { before: true, minutes: 15 } }],
    })),
    { productId: 'just-balance' },
  );
  if (error || !value) throw error ?? new Error('the calendar file could not be written');
  return folded(value);
}

/** Long lines go on in the next one, behind a space: counted in bytes, as the standard does, and no character is cut. */
function folded(text: string): string {
  const bytes = new TextEncoder();
  return text
    .replace(/\r\n[ \t]/g, '')
    .split('\r\n')
    .map((line) => {
      const lines = [''];
      let size = 0;
      for (const c of line) {
        const n = bytes.encode(c).length;
        if (size + n > MOST_BYTES) {
          lines.push(' ');
          size = 1;
        }
        lines[lines.length - 1] += c;
        size += n;
      }
      return lines.join('\r\n');
    })
    .join('\r\n');
}

/** Hand a calendar file to the browser. */
export function takeCalendar(name: string, text: string): void {
  const url = URL.createObjectURL(new Blob([text], { type: 'text/calendar' }));
  const a = document.createElement('a');
  a.href = url;
  a.download = name;
  a.click();
  URL.revokeObjectURL(url);
}
