import { MONITORS } from '../obd/index.ts';
import { pendingLine, storyOf } from '../proof/index.ts';
import { isoOf, msOf, unixOf } from '../time/index.ts';
import { type HandOverJob, openMonitors, standing } from './facts.ts';

/** Something to come back to, with its day. */
export interface Reminder {
  kind: 'recheck' | 'pending-code' | 'open-monitor';
  /** ISO 8601. */
  dueAt: string;
  what: string;
}

/** A day that a person has set for looking again. */
export interface Recheck {
  dueAt: string;
  what: string;
}

/** A monitor that the ordinary week did not complete is looked after then, days. [house] */
const MONITOR_DAYS = 14;
const DAY_S = 86_400;

/** Whether the code stays away; see `pendingLine`. */
export function pendingOf(job: Pick<HandOverJob, 'records' | 'readings' | 'tests' | 'repairs'>) {
  const { repairedAt } = storyOf(job);
  const first = job.records.filter((r) => r.phase === 'before').at(-1);
  return pendingLine({
    repairedMs: repairedAt === null ? null : msOf(repairedAt),
    records: job.records.map((r) => ({
      ...r,
      atMs: msOf(r.at),
      open: r.monitors?.monitors.filter((m) => m.state === 'incomplete').map((m) => m.id) ?? null,
    })),
    codesBefore: first?.codes.map((c) => c.code) ?? [],
  });
}

/** Days on which somebody should look at this car again, the nearest first. */
export function remindersOf(job: HandOverJob): Reminder[] {
  const out: Reminder[] = standing<Recheck>(job, 'recheck').map(({ dueAt, what }) => ({
    kind: 'recheck',
    dueAt,
    what,
  }));
  const pending = pendingOf(job);
  if (pending?.remindAtMs)
    out.push({
      kind: 'pending-code',
      dueAt: isoOf(pending.remindAtMs / 1000),
      what: 'Read the codes again: no pending code after two trips is the other half of the proof.',
    });
  const { repairedAt } = storyOf(job);
  const open = repairedAt === null ? [] : openMonitors(job);
  if (open.length > 0)
    out.push({
      kind: 'open-monitor',
      dueAt: isoOf((unixOf(repairedAt!) ?? 0) + MONITOR_DAYS * DAY_S),
      what: `Read the monitors again; open when last read: ${open.map((m) => MONITORS[m.id]).join(', ')}.`,
    });
  return out.sort((a, b) => (a.dueAt < b.dueAt ? -1 : a.dueAt > b.dueAt ? 1 : 0));
}
