import { proofVerdict } from '@just-balance/core/proof';
import { CaptureRunner } from '../../capture/CaptureRunner.tsx';
import { useLimits } from '../../data/limits.ts';
import { BeforeAfter } from '../../job/BeforeAfter.tsx';
import { Precedence } from '../../job/Cautions.tsx';
import { newestReadings } from '../../job/figures.ts';
import type { StationProps } from '../../job/station.ts';
import { ToStation } from '../../job/ToStation.tsx';
import { NextStep } from '../../ui/NextStep.tsx';

export function ProveStation({ job, live }: StationProps) {
  const { watchPct } = useLimits();
  const before = newestReadings(job, 'before');
  if (before.length === 0) {
    return (
      <NextStep
        title="Nothing to compare with yet"
        why="A proof is the same readings before and after. Take the first ones before the repair."
      >
        <ToStation station="readings">To Readings</ToStation>
      </NextStep>
    );
  }
  return (
    <CaptureRunner
      job={job}
      live={live}
      phase="after"
      next={<ToStation station="readiness">To Readiness</ToStation>}
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
