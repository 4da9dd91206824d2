import type { JobView } from '@just-balance/contract';
import { WRITES } from '@just-balance/contract';
import { type Recheck, recentWorkFrom, remindersOf, standing } from '@just-balance/core/handOver';
import { addDays, format } from 'date-fns';
import { CalendarPlus, Undo2 } from 'lucide-react';
import { useState } from 'react';
import { useNavigate } from 'react-router';
import { newId } from '../../data/api.ts';
import { queue } from '../../data/queue.ts';
import { shopNow } from '../../data/shopClock.ts';
import { queueWrite, write } from '../../data/writes.ts';
import { calendarFile, takeCalendar } from '../../job/work/calendar.ts';
import { Problem } from '../../ui/Problem.tsx';
import { useAction } from '../../ui/useAction.ts';

const WORDS = { recheck: 'Look again', 'pending-code': 'Read the codes', 'open-monitor': 'Read the monitors' } as const;
/** A look again takes so long, minutes. [house] */
const LOOK_MINUTES = 20;
const CHOICES = [7, 14, 30] as const;

/** When the car is looked at again: days that follow from the job, days set by a person, all as a calendar file. */
export function ComeBack({ job, mayWork }: { job: JobView; mayWork: boolean }) {
  const { busy, trouble, run } = useAction();
  const [what, setWhat] = useState('');
  const reminders = remindersOf(job);
  const own = standing<Recheck>(job, 'recheck');
  const set = (days: number) =>
    run(async () => {
      const data = { dueAt: addDays(new Date(), days).toISOString(), what: what.trim() || 'Look at it again' };
      await queueWrite('Look again', WRITES.addEntry(job.id), { id: newId(), kind: 'recheck', data });
      setWhat('');
    });
  const drop = (dueAt: string) =>
    run(async () => {
      const entry = job.entries.find((e) => e.kind === 'recheck' && !e.undone && e.data.dueAt === dueAt);
      if (entry) await write(WRITES.undoEntry(job.id, entry.id), { rev: entry.rev, undone: true });
    });
  const calendar = () =>
    run(async () =>
      takeCalendar(
        `look-again-${job.id.slice(0, 8)}.ics`,
        calendarFile(
          reminders.map((r) => ({
            uid: `${job.id}-${r.kind}-${r.dueAt}@just-balance`,
            title: `${WORDS[r.kind]}: ${job.vehicle.label}`,
            at: r.dueAt,
            minutes: LOOK_MINUTES,
            words: r.what,
          })),
        ),
      ),
    );
  return (
    <section className="card grid gap-3 p-4 no-print">
      <div className="flex flex-wrap items-center justify-between gap-3">
        <h2 className="card-title">Look again</h2>
        <button type="button" className="btn" disabled={reminders.length === 0} onClick={calendar}>
          <CalendarPlus size={18} aria-hidden /> Calendar file
        </button>
      </div>
      <ul className="m-0 grid list-none gap-2 p-0">
        {reminders.map((r) => (
          <li key={`${r.kind} ${r.dueAt} ${r.what}`} className="flex items-center justify-between gap-3">
            <span>
              <strong className="font-[650]">{format(new Date(r.dueAt), 'd MMM yyyy')}</strong> {r.what}
            </span>
            {r.kind === 'recheck' && mayWork && own.some((o) => o.dueAt === r.dueAt) && (
              <button
                type="button"
                className="btn btn-ghost"
                aria-label={`Take back: ${r.what}`}
                disabled={busy}
                onClick={() => drop(r.dueAt)}
              >
                <Undo2 size={16} aria-hidden />
              </button>
            )}
          </li>
        ))}
        {reminders.length === 0 && <li className="text-soft">No day is set.</li>}
      </ul>
      {mayWork && job.status !== 'closed' && (
        <div className="flex flex-wrap items-end gap-3">
          <label className="grid flex-1 gap-1">
            <span className="text-[0.93rem] font-[550]">What to look at</span>
            <input className="input w-full" maxLength={300} value={what} onChange={(e) => setWhat(e.target.value)} />
          </label>
          {CHOICES.map((d) => (
            <button key={d} type="button" className="btn" disabled={busy} onClick={() => set(d)}>
              in {d} days
            </button>
          ))}
        </div>
      )}
      <Problem trouble={trouble} />
    </section>
  );
}

/** The same car, the same trouble: a new job that knows of this one. */
export function CameBackButton({ job }: { job: JobView }) {
  const navigate = useNavigate();
  const { busy, trouble, run } = useAction();
  const open = () =>
    run(async () => {
      const id = newId();
      const { id: vehicleId, rev: _, ...vehicle } = job.vehicle;
      const write = (label: string, path: string, body: unknown) => ({
        jobId: id,
        label,
        method: 'POST' as const,
        path,
        body: JSON.stringify(body),
      });
      const complaint = { symptoms: job.complaint.symptoms, recentWork: recentWorkFrom(job, shopNow()) };
      const { refused } = await queue([
        write('Job', '/jobs', { id, vehicleId, vehicle, complaint, ...(job.adapter ? { adapter: job.adapter } : {}) }),
        write('Came back', `/jobs/${id}/entries`, { id: newId(), kind: 'cameBack', data: { job: job.id } }),
      ]);
      if (refused !== null) throw new Error(refused);
      navigate(`/jobs/${id}`);
    });
  return (
    <>
      <button type="button" className="btn btn-lg" disabled={busy} onClick={open}>
        It came back
      </button>
      <Problem trouble={trouble} />
    </>
  );
}
