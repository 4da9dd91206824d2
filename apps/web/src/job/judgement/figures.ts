import type { JobView } from '@just-balance/contract';
import { pointLabel, type Reading } from '@just-balance/core/case';
import { caseOfJob } from '@just-balance/core/job';
import { bankTotals, newestOfEach, storyOf } from '@just-balance/core/proof';
import { figure, type Said, said, signed } from '@just-balance/core/units';

/** Newest reading of each point: before any repair, or after the last one; in order of first appearance. */
export function newestReadings(job: JobView, phase: 'before' | 'after') {
  return newestOfEach(storyOf(job)[phase]);
}

/** The one figure of a reading: its trims, or airflow, or pressure. */
export function keyFigure(r: Reading): Said {
  const totals = bankTotals(r);
  if (totals.length > 0) return `${totals.map((t) => signed(t.totalPct)).join(' / ')} %`;
  if (r.mafGps !== undefined) return said`${figure(r.mafGps, 'g/s', 1)}`;
  return r.mapKPa === undefined ? 'kept' : said`${figure(r.mapKPa, 'kPa', 0)}`;
}

/** What a capture or a mark is called: its operating point, or its own words. */
export function captureLabel(at: string): string {
  if (at === 'free') return 'Free recording';
  return pointLabel(at as Reading['at']) ?? at;
}

/** The job as a case, with the figures that were entered for its vehicle. */
export function caseOf(job: JobView) {
  const values = job.entries.flatMap((e) => (e.kind === 'value' && !e.undone ? [e.data] : []));
  return caseOfJob({ ...job, values });
}
