import type { JobView } from '@just-balance/contract';
import { pointsFor } from '@just-balance/core/capture';
import { faultLabel } from '@just-balance/core/catalogue';
import type { JobFacts } from '@just-balance/core/job';
import { bankTotals, compareTrims, proofOf } from '@just-balance/core/proof';
import { newestReadings } from './figures.ts';

/** The job boiled down to what its stations show. */
export function factsOf(job: JobView): JobFacts {
  const before = newestReadings(job, 'before');
  const after = newestReadings(job, 'after');
  const worst = (list: typeof before) =>
    list
      .flatMap((r) => bankTotals(r.reading))
      .reduce<number | null>((w, t) => (w === null || Math.abs(t.totalPct) > Math.abs(w) ? t.totalPct : w), null);
  const diagnosis = job.diagnoses.at(-1)?.output;
  const leading = diagnosis?.causes[0];
  const record = job.records.at(-1);
  const first = job.records.find((r) => r.phase === 'before');
  const repairs = job.repairs.filter((r) => !r.undone);
  const changes = compareTrims(
    before.flatMap((r) => bankTotals(r.reading)),
    after.flatMap((r) => bankTotals(r.reading)),
  );
  return {
    closed: job.status === 'closed',
    symptoms: job.complaint.symptoms,
    asked: pointsFor(job.vehicle, job.complaint.symptoms),
    recordsBefore: job.records.filter((r) => r.phase === 'before').length,
    codes: first ? first.codes.length : null,
    readingsBefore: before.map((r) => r.reading.at),
    readingsAfter: after.map((r) => r.reading.at),
    worstBefore: worst(before),
    worstAfter: worst(after),
    leading: leading ? { label: faultLabel(leading.fault), probability: leading.probability } : null,
    mixture: diagnosis && diagnosis.mixture !== 'undetermined' ? diagnosis.mixture : null,
    tests: job.tests.filter((t) => !t.undone).length,
    repairs: repairs.length,
    lastRepair: repairs.at(-1)?.text ?? null,
    work:
      job.work &&
      (job.work.state === 'parked' ? `parked: ${job.work.reason}` : `${job.work.title.toLowerCase()} under way`),
    proof: proofOf(changes),
    monitorsOpen: record?.monitors ? record.monitors.monitors.filter((m) => m.state === 'incomplete').length : null,
    monitorsKnown: record?.monitors != null,
  };
}
