import { proofVerdict } from '@just-balance/core/proof';
import { CaptureRunner } from '../../capture/CaptureRunner.tsx';
import { useLimits } from '../../data/limits.ts';
import { BeforeAfter } from '../../job/BeforeAfter.tsx';
import { Precedence } from '../../job/Cautions.tsx';
import { newestReadings } from '../../job/figures.ts';
import type { StationProps } from '../../job/station.ts';
import { NextStep } from '../../ui/NextStep.tsx';

export function ProveStation({ job, live, go }: StationProps) {
  const { watchPct } = useLimits();
  const before = newestReadings(job, 'before');
  if (before.length === 0) {
    return (
      <NextStep
        title="Nothing to compare with yet"
        why="A proof is the same readings before and after. Take the first ones before the repair."
      >
        <button type="button" className="btn btn-primary btn-lg" onClick={() => go('readings')}>
          To Readings
        </button>
      </NextStep>
    );
  }
  return (
    <CaptureRunner
      job={job}
      live={live}
      phase="after"
      doneLabel="To Readiness"
      done={() => go('readiness')}
      summary={proofVerdict(
        before.map((r) => r.reading),
        newestReadings(job, 'after').map((r) => r.reading),
        watchPct,
      )}
    >
      <BeforeAfter job={job} />
      <Precedence />
    </CaptureRunner>
  );
}
