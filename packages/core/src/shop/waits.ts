import { type HandOverJob, remindersOf, standing } from '../handOver/index.ts';
import { orderIsOpen, runState } from '../procedures/index.ts';
import {
  type CarState,
  type CoolingPoint,
  DRIVE_PROCEDURES,
  type ForecastPoint,
  planDrive,
} from '../readiness/index.ts';
import { isoOf } from '../time/index.ts';
import { type Said } from '../units/index.ts';

/** What a job waits for, and until when where that is known. */
export interface Wait {
  for: 'part' | 'timer' | 'soak' | 'trip' | 'look-again';
  /** ISO 8601; null: nobody knows. */
  until: string | null;
  what: Said;
  /** Who has to do something; null: nobody yet, or the clock. */
  by: string | null;
}

interface KeptPlan {
  procedure: string;
  state: CarState;
  forecast: readonly ForecastPoint[];
  cooling: readonly CoolingPoint[];
}

/** Everything that an open job waits for, with the moments of those that the clock ends; the nearest first. */
export function waitsOf(job: HandOverJob): Wait[] {
  const out: Wait[] = [];
  for (const run of job.runs) {
    const s = runState(run.procedure, run.events);
    const by = run.events.at(-1)?.by ?? run.by;
    const parts = s.orders.filter(orderIsOpen);
    if (s.status === 'parked' && parts.length > 0)
      out.push({
        for: 'part',
        until: null,
        what: parts.map((o) => (o.is === 'ordered' ? `${o.part} (ordered)` : o.part)).join(', '),
        by: parts.at(-1)!.by,
      });
    if (s.status !== 'running') continue;
    for (const t of s.timers) {
      const step = run.procedure.steps.find((x) => x.id === t.step);
      out.push({ for: 'timer', until: isoOf(t.endsMs / 1000), what: step?.text ?? run.procedure.title, by });
    }
  }
  const plan = standing<KeptPlan>(job, 'plan').at(-1);
  // A drive since then began the soak anew.
  const driven = standing<object>(job, 'drive').at(-1)?.at;
  const soak = plan && soakEnd(plan, driven !== undefined && driven > plan.at ? driven : null);
  if (soak) out.push({ for: 'soak', until: soak, what: 'Engine off for the drive', by: plan.by });
  for (const r of remindersOf(job))
    out.push({ for: r.kind === 'recheck' ? 'look-again' : 'trip', until: r.dueAt, what: r.what, by: null });
  const far = '9999';
  return out.sort((a, b) => ((a.until ?? far) < (b.until ?? far) ? -1 : (a.until ?? far) > (b.until ?? far) ? 1 : 0));
}

/** When the soak that a kept plan asks for is over; null where it asks for none, or its procedure is not ours. */
function soakEnd(plan: KeptPlan & { at: string }, driven: string | null): string | null {
  const procedure = DRIVE_PROCEDURES.find((p) => p.id === plan.procedure);
  if (!procedure) return null;
  const { forecast, cooling } = plan;
  const state = driven === null ? plan.state : { ...plan.state, engineOffSince: driven };
  const planned = planDrive({ procedure, now: plan.at, state, forecast, cooling });
  const soak = planned.conditions.find((c) => c.id === 'soak');
  return soak?.state === 'not-yet' ? (soak.holdsFrom ?? null) : null;
}
