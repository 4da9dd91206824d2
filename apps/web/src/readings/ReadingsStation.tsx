import type { StationProps } from '../shared/station.ts';
import { CaptureRunner } from './CaptureRunner.tsx';

export function ReadingsStation({ job, live, go }: StationProps) {
  return <CaptureRunner job={job} live={live} phase="before" doneLabel="To Balance" done={() => go('balance')} />;
}
