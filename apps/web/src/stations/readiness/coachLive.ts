import { type CoachSample, channelsOf, type DriveProcedure } from '@just-balance/core/readiness';
import type { TracePoint } from '../../data/live.tsx';

/** What was heard after second `after` of the page, as the coach hears it: in order, a moment at a time. */
export function heardSince(
  procedure: DriveProcedure,
  traces: ReadonlyMap<string, readonly TracePoint[]>,
  after: number,
  from: number,
): CoachSample[] {
  const moments = new Map<number, Record<string, number>>();
  for (const id of channelsOf(procedure))
    for (const p of traces.get(id) ?? []) {
      if (p.t <= after) continue;
      const values = moments.get(p.t) ?? {};
      values[id] = p.v;
      moments.set(p.t, values);
    }
  return [...moments].sort(([a], [b]) => a - b).map(([t, values]) => ({ t: t - from, values }));
}
