import type { AcknowledgeRequest, JobView, NewReadingRequest, NewTestRequest } from '@just-balance/contract';
import type { Waiting } from './Outbox.ts';

/** The job as this device knows it: what was entered here and has not gone up yet stands in it already. */
export function withWaiting(job: JobView, waiting: readonly Waiting[]): JobView {
  const mine = waiting.filter((w) => w.jobId === job.id && w.method === 'POST' && typeof w.body === 'string');
  if (mine.length === 0) return job;
  const at = new Date().toISOString();
  const readings = [...job.readings];
  const tests = [...job.tests];
  const cautions = [...job.cautions];
  for (const w of mine) {
    if (w.path === `/jobs/${job.id}/readings`) {
      const r = JSON.parse(w.body as string) as NewReadingRequest;
      if (readings.some((x) => x.id === r.id)) continue;
      readings.push({
        id: r.id,
        rev: 1,
        phase: r.phase,
        source: 'hand',
        captureId: null,
        doubtful: null,
        at,
        reading: r.reading as JobView['readings'][number]['reading'],
      });
    } else if (w.path === `/jobs/${job.id}/cautions`) {
      const c = JSON.parse(w.body as string) as AcknowledgeRequest;
      cautions.push({ caution: c.caution, step: c.step, at, by: 'this device' });
    } else if (w.path === `/jobs/${job.id}/tests`) {
      const t = JSON.parse(w.body as string) as NewTestRequest;
      if (tests.some((x) => x.id === t.id)) continue;
      tests.push({
        id: t.id,
        rev: 1,
        at,
        undone: false,
        by: 'this device',
        test: t.test as JobView['tests'][number]['test'],
      });
    }
  }
  return { ...job, readings, tests, cautions };
}
