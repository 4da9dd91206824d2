import type { JobView } from '@just-balance/contract';
import { pointLabel, type Reading } from '@just-balance/core/case';
import { caseOfJob } from '@just-balance/core/job';
import { newestOfEach, storyOf } from '@just-balance/core/proof';

/** Newest reading of each point: before any repair, or after the last one; in order of first appearance. */
export function newestReadings(job: JobView, phase: 'before' | 'after') {
  return newestOfEach(storyOf(job)[phase]);
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
