import { faultLabel } from '@just-balance/core/catalogue';
import { pendingOf } from '@just-balance/core/handOver';
import { type PendingLine, type ProofJudgement, storyOf } from '@just-balance/core/proof';
import { chanceText, midSentence, said } from '@just-balance/core/units';
import { format } from 'date-fns';
import { Link, useSearchParams } from 'react-router';
import { CaptureRunner } from '../../capture/CaptureRunner.tsx';
import { useProof } from '../../job/compare/afterRepair.ts';
import { BeforeAfter } from '../../job/compare/BeforeAfter.tsx';
import type { StationProps } from '../../job/frame/station.ts';
import { ToStation } from '../../job/frame/ToStation.tsx';
import { newestReadings } from '../../job/judgement/figures.ts';
import { Precedence } from '../../job/work/Cautions.tsx';
import { later } from '../../ui/later.tsx';
import { NextStep } from '../../ui/NextStep.tsx';
import { Say } from '../../ui/preferences.tsx';
import { RoadTest } from './RoadTest.tsx';

const Overlaid = later(async () => (await import('../../recordings/Overlaid.tsx')).Overlaid);

export function ProveStation(props: StationProps) {
  const [asked] = useSearchParams();
  if (asked.has('road-test')) return <RoadTest {...props} />;
  if (newestReadings(props.job, 'before').length === 0) {
    return (
      <NextStep
        title="Nothing to compare with yet"
        why="A proof is the same readings before and after. Take the first ones before the repair."
      >
        <ToStation station="readings">To Readings</ToStation>
      </NextStep>
    );
  }
  return <Proof {...props} />;
}

function Proof({ job, live }: StationProps) {
  const proof = useProof(job);
  const story = storyOf(job);
  const pending = pendingOf(job);
  const back = proof.remains.length > 0 || proof.verdict === 'worse';
  const cleaned = job.repairs.findLast((r) => !r.undone)?.work === 'cleaned';
  const noBetter = cleaned && (proof.verdict === 'worse' || proof.verdict === 'smaller than the readings can show');
  return (
    <CaptureRunner
      job={job}
      live={live}
      phase="after"
      next={
        noBetter ? (
          <>
            <Link className="btn btn-lg" to={`/jobs/${job.id}/balance?after`}>
              Back to Balance
            </Link>
            <Link className="btn btn-primary btn-lg" to={`/jobs/${job.id}/service?view=clean-or-replace`}>
              Clean or replace again
            </Link>
          </>
        ) : back ? (
          <Link className="btn btn-primary btn-lg" to={`/jobs/${job.id}/balance?after`}>
            Back to Balance
          </Link>
        ) : (
          <ToStation station="readiness">To Readiness</ToStation>
        )
      }
      summary={{
        title: noBetter ? 'Cleaned, and no better' : proof.title,
        why: said`${proof.why} ${noBetter ? 'The sum is done again with this cleaning counted.' : proof.next}`,
      }}
    >
      {story.after.length > 0 && (
        <Verdict jobId={job.id} proof={proof} pending={pending} between={story.between.length} />
      )}
      <BeforeAfter job={job} />
      <Overlaid job={job} />
      <section className="card flex flex-row flex-wrap items-center justify-between gap-4 p-4 no-print">
        <p className="m-0">
          <strong className="font-[650]">Road test:</strong> a second person reads; the sheet holds inside ±10 % for the
          set time, live or on paper.
        </p>
        <Link className="btn" to={`/jobs/${job.id}/prove?road-test`}>
          Open the sheet
        </Link>
      </section>
      <Precedence />
    </CaptureRunner>
  );
}

const GOOD: ReadonlySet<ProofJudgement['verdict']> = new Set(['proven', 'maintained']);

function Verdict({
  jobId,
  proof,
  pending,
  between,
}: {
  jobId: string;
  proof: ProofJudgement;
  pending: PendingLine | null;
  between: number;
}) {
  return (
    <section className="card grid gap-2 p-4" aria-label="Verdict">
      <h2 className="card-title">Verdict</h2>
      <p className="m-0 flex flex-wrap items-center gap-3">
        <span className={`badge badge-lg ${GOOD.has(proof.verdict) ? 'badge-success' : 'badge-warning'}`}>
          {proof.verdict}
        </span>
        <span>
          <Say text={proof.why} />
        </span>
      </p>
      <p className="m-0">
        <strong className="font-[650]">Next:</strong> {proof.next}
      </p>
      {proof.remains.length > 0 && (
        <div className="flex flex-wrap items-center gap-x-4 gap-y-2">
          <span>
            What remains:{' '}
            {proof.remains
              .slice(0, 3)
              .map((r) => `${midSentence(faultLabel(r.fault))} ${chanceText(r.probability)}`)
              .join(', ')}
          </span>
          <Link className="btn" to={`/jobs/${jobId}/balance?after`}>
            Take it to Balance
          </Link>
        </div>
      )}
      {pending && (
        <p className="m-0 flex flex-wrap items-center gap-3">
          <span
            className={`badge ${pending.state === 'stays away' ? 'badge-success' : pending.state === 'came back' ? 'badge-warning' : 'badge-outline'}`}
          >
            {pending.state}
          </span>
          <span>
            {pending.text}
            {pending.remindAtMs !== null &&
              ` Read the car again from ${format(new Date(pending.remindAtMs), 'd MMMM yyyy')}; the line then settles itself.`}
          </span>
        </p>
      )}
      {between > 0 && (
        <p className="m-0 text-soft">
          {between} {between === 1 ? 'reading was' : 'readings were'} taken between two repairs: kept, and not part of
          this comparison.
        </p>
      )}
    </section>
  );
}
