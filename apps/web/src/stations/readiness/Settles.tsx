import type { JobView } from '@just-balance/contract';
import { storyOf } from '@just-balance/core/proof';
import { type SettlesLine, settlesLines } from '@just-balance/core/readiness';
import { format } from 'date-fns';
import { CalendarPlus } from 'lucide-react';
import { shopNow } from '../../data/shopClock.ts';
import { calendarFile, takeCalendar } from '../../job/work/calendar.ts';
import { openMonitors, provenBy } from '../../job/work/drives.tsx';

const TAG: Readonly<Record<SettlesLine['state'], { text: string; tag: string }>> = {
  open: { text: 'waits', tag: 'badge-outline border-dashed' },
  settled: { text: '✓ settled', tag: 'badge-success' },
  'came-back': { text: 'came back', tag: 'badge-warning' },
};

/** What settles itself when the car is next read, with a reminder for the calendar. */
export function Settles({ job }: { job: JobView }) {
  const { repairedAt } = storyOf(job);
  const lines = settlesLines(
    job.records.map((r) => ({
      atMs: Date.parse(r.at),
      codes: r.codes,
      open: openMonitors(r),
      warmupsSinceClear: r.warmupsSinceClear,
    })),
    provenBy(job),
    repairedAt === null ? null : Date.parse(repairedAt),
  );
  if (lines.length === 0) return null;
  const remind = lines.flatMap((l) => (l.remindAtMs === null ? [] : [l.remindAtMs])).sort((a, b) => a - b)[0];
  return (
    <section className="card grid gap-2 p-4" aria-label="Settles when next read">
      <h2 className="card-title">Settles when the car is next read</h2>
      <ul className="m-0 grid list-none gap-2 p-0">
        {lines.map((l) => (
          <li key={l.id} className="flex flex-wrap items-baseline gap-2">
            <span className={`badge ${TAG[l.state].tag}`}>{TAG[l.state].text}</span>
            <span className="min-w-40 flex-1">{l.text}</span>
          </li>
        ))}
      </ul>
      {remind !== undefined && remind <= shopNow() && (
        <p className="m-0">It was to be read again on {format(new Date(remind), 'EEE d MMM')}.</p>
      )}
      {remind !== undefined && remind > shopNow() && (
        <button
          type="button"
          className="btn justify-self-start"
          onClick={() =>
            takeCalendar(
              'read-again.ics',
              calendarFile([
                {
                  uid: `${job.id}-read@just-balance`,
                  title: `Read again: ${job.vehicle.label}`,
                  at: new Date(remind).toISOString(),
                  minutes: 15,
                  words: lines
                    .filter((l) => l.state === 'open')
                    .map((l) => l.text)
                    .join(' '),
                },
              ]),
            )
          }
        >
          <CalendarPlus size={18} aria-hidden /> Remind me {format(new Date(remind), 'EEE d MMM')}
        </button>
      )}
    </section>
  );
}
