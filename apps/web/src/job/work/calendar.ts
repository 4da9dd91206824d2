import { createEvents, type DateArray } from 'ics';

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

/** A calendar file (RFC 5545) of the end of a soak, a drive, a look again. Throws where an entry cannot be written. */
export function calendarFile(entries: readonly CalendarEntry[]): string {
  const { error, value } = createEvents(
    entries.map((e) => ({
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
  return value;
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
